import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { type ReactNode, useId } from "react";

import { colours } from "../../../app/theme";

interface Props {
  title: string;
  /** What is chosen in it, so that it can be read without opening. */
  chosen: string;
  open: boolean;
  onToggle: () => void;
  children: ReactNode;
}

/** Choices that are made now and then: a line that opens; one at a time. */
export function Group({ title, chosen, open, onToggle, children }: Props) {
  const id = useId();
  return (
    <Box sx={{ borderTop: `1px solid ${colours.line}` }}>
      <Button
        fullWidth
        onClick={onToggle}
        aria-expanded={open}
        aria-controls={id}
        sx={{ justifyContent: "space-between", gap: 2, color: colours.ink, borderRadius: 1, px: 0.5, minHeight: 40 }}
      >
        <b>{title}</b>
        <Box
          component="span"
          sx={{ color: "text.secondary", overflow: "hidden", textOverflow: "ellipsis", whiteSpace: "nowrap" }}
        >
          {chosen} {open ? "−" : "+"}
        </Box>
      </Button>
      {open && (
        <Box id={id} sx={{ display: "grid", gap: 1.5, pb: 1.5, pt: 0.5, px: 0.5, minWidth: 0 }}>
          {children}
        </Box>
      )}
    </Box>
  );
}
