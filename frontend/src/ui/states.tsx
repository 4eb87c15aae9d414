import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import type { ReactNode } from "react";

/** While something is on its way. */
export function Loading({ what }: { what: string }) {
  return (
    <Typography role="status" sx={{ color: "text.secondary", p: 3 }}>
      {what} …
    </Typography>
  );
}

/** When something did not come; with a way to go on. */
export function Trouble({ error, again }: { error: Error; again?: () => void }) {
  return (
    <Box role="alert" sx={{ p: 3 }}>
      <Typography sx={{ mb: 2 }}>{error.message}</Typography>
      {again && (
        <Button variant="outlined" onClick={again}>
          Try again
        </Button>
      )}
    </Box>
  );
}

/** When there is nothing yet: what it will be, and the one thing to do. */
export function Empty({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <Box sx={{ py: 6, px: 2, maxWidth: 520 }}>
      <Typography variant="h1" component="p" gutterBottom>
        {title}
      </Typography>
      {children}
    </Box>
  );
}

/** A sentence about something that did not work, beside what it is about. */
export function Note({ children }: { children: ReactNode }) {
  return (
    <Typography role="alert" sx={{ borderLeft: 3, borderColor: "secondary.main", pl: 1.5, my: 1.5 }}>
      {children}
    </Typography>
  );
}
