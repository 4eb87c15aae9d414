import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import Typography from "@mui/material/Typography";

import type { Schemas } from "../../api/client";
import { colours } from "../../app/theme";
import { Mark } from "../../ui/Mark";

/** Passphrase cards, to be printed and cut: the words are shown this once. */
export function CardDialog({ cards, onClose }: { cards: Schemas["Card"][]; onClose: () => void }) {
  const several = cards.length > 1;
  return (
    <Dialog
      open
      // A click beside it must not take away words that are shown only once.
      onClose={(_, reason) => reason === "escapeKeyDown" && !several && onClose()}
      slotProps={{ paper: { "aria-label": several ? `${cards.length} cards` : `Card of ${cards[0]?.pupil.name}` } }}
      maxWidth={several ? "md" : "sm"}
    >
      <DialogContent>
        <Box sx={{ display: "grid", gap: 2, gridTemplateColumns: several ? { sm: "1fr 1fr" } : "1fr" }}>
          {cards.map((card) => (
            <PaperCard key={card.pupil.id} card={card} />
          ))}
        </Box>
        <Typography className="no-print" sx={{ mt: 2, color: "text.secondary" }}>
          These words are shown only now. Print the {several ? "cards" : "card"}, or copy {several ? "them" : "it"} by
          hand.
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

function PaperCard({ card }: { card: Schemas["Card"] }) {
  return (
    <Box
      component="section"
      aria-label={card.pupil.name}
      sx={{ border: `2px solid ${colours.spruce}`, borderRadius: 2, p: 3, minWidth: { sm: 340 }, breakInside: "avoid" }}
    >
      <Box sx={{ display: "flex", gap: 1.5, alignItems: "center", mb: 2 }}>
        <Mark />
        <Typography variant="h1" component="h2">
          {card.pupil.name}
        </Typography>
      </Box>
      <Typography sx={{ color: "text.secondary" }}>Class code</Typography>
      <Typography sx={{ fontSize: "1.5rem", fontWeight: 700, mb: 1.5 }}>{card.class_code}</Typography>
      <Typography sx={{ color: "text.secondary" }}>Your words</Typography>
      <Typography data-testid="passphrase" sx={{ fontSize: "1.5rem", fontWeight: 700 }}>
        {card.passphrase}
      </Typography>
      <Typography sx={{ mt: 2, color: "text.secondary", maxWidth: 360 }}>
        At home: the same words, with “I help at home”, open the week, what to look at, and how to tune.
      </Typography>
    </Box>
  );
}
