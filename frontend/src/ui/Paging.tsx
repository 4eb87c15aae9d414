import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";

interface Props {
  page: number;
  pages: number;
  onTurn: (page: number) => void;
}

/** Back and on; nothing where all is on one page. */
export function Paging({ page, pages, onTurn }: Props) {
  if (pages <= 1) return null;
  return (
    <Box component="nav" aria-label="Pages" sx={{ display: "flex", gap: 2, alignItems: "center", mt: 2 }}>
      <Button variant="outlined" disabled={page <= 1} onClick={() => onTurn(page - 1)}>
        Back
      </Button>
      <Typography>
        Page {page} of {pages}
      </Typography>
      <Button variant="outlined" disabled={page >= pages} onClick={() => onTurn(page + 1)}>
        On
      </Button>
    </Box>
  );
}
