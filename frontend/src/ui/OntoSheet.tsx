import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import { Link } from "react-router";

import type { Schemas } from "../api/client";
import { Note } from "./states";
import { useOntoSheet } from "./useOntoSheet";

interface Props {
  body: Schemas["AddToSheet"];
  words: string;
  label?: string;
}

/** A button that puts a warm-up onto the week's sheet, and then leads there. */
export function OntoSheet({ body, words, label }: Props) {
  const add = useOntoSheet();
  if (add.data)
    return (
      <Box role="status" sx={{ display: "inline-flex", alignItems: "center", gap: 1 }}>
        On the sheet.
        <Button size="small" component={Link} to={`/sheets/${add.data.id}`}>
          Open it
        </Button>
      </Box>
    );
  return (
    <>
      <Button
        size="small"
        variant="outlined"
        aria-label={label}
        disabled={add.isPending}
        onClick={() => add.mutate(body)}
      >
        {words}
      </Button>
      {add.isError && <Note>{add.error.message}</Note>}
    </>
  );
}
