import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import Typography from "@mui/material/Typography";

import type { Schemas } from "../../api/client";
import { colours } from "../../app/theme";
import { Mark } from "../../ui/Mark";

/** A pupil's passphrase card, to be printed: the words are shown this once. */
export function CardDialog({ card, onClose }: { card: Schemas["Card"]; onClose: () => void }) {
  return (
    <Dialog open onClose={onClose} aria-labelledby="card-name">
      <DialogContent>
        <Box sx={{ border: `2px solid ${colours.spruce}`, borderRadius: 2, p: 3, minWidth: { sm: 380 } }}>
          <Box sx={{ display: "flex", gap: 1.5, alignItems: "center", mb: 2 }}>
            <Mark />
            <Typography id="card-name" variant="h1" component="h2">
              {card.pupil.name}
            </Typography>
          </Box>
          <Typography sx={{ color: "text.secondary" }}>Class code</Typography>
          <Typography sx={{ fontSize: "1.5rem", fontWeight: 700, mb: 1.5 }}>{card.class_code}</Typography>
          <Typography sx={{ color: "text.secondary" }}>Your three words</Typography>
          <Typography data-testid="passphrase" sx={{ fontSize: "1.5rem", fontWeight: 700 }}>
            {card.passphrase}
          </Typography>
        </Box>
        <Typography className="no-print" sx={{ mt: 2, color: "text.secondary" }}>
          These words are shown only now. Print the card, or copy it by hand.
        </Typography>
      </DialogContent>
      <DialogActions className="no-print">
        <Button onClick={() => window.print()}>Print</Button>
        <Button variant="contained" onClick={onClose}>
          Done
        </Button>
      </DialogActions>
    </Dialog>
  );
}
