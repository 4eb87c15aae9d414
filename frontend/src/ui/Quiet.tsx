import Box from "@mui/material/Box";
import type { ReactNode } from "react";

/** Words beside the point. */
export function Quiet({ children }: { children: ReactNode }) {
  return (
    <Box component="span" sx={{ color: "text.secondary" }}>
      {children}
    </Box>
  );
}
