import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import TextField from "@mui/material/TextField";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";

import { answer, api, type Schemas } from "../../api/client";
import { Note } from "../../ui/states";
import { instrumentWords } from "../../ui/words";
import { Few } from "../../ui/Few";
import { Several } from "./choices/Several";
import { ALL, type InstrumentKey, type Recipe } from "./recipe";

type Question = Schemas["SheetQuestion"];
const PAPER = "owl-paper";

/** A sheet to hand out, as a PDF that is opened to print. */
export function SheetDialog({ recipe, title, onClose }: { recipe: Recipe; title: string; onClose: () => void }) {
  const [instruments, setInstruments] = useState<InstrumentKey[]>(ALL);
  const [onePage, setOnePage] = useState(false);
  const [paper, setPaper] = useState<NonNullable<Question["paper"]>>(
    localStorage.getItem(PAPER) === "letter" ? "letter" : "a4",
  );
  const [words, setWords] = useState("");
  const [days, setDays] = useState(5);
  const [goes, setGoes] = useState(5);
  const make = useMutation({
    mutationFn: async () => {
      const body = { recipe, instruments, one_page: onePage, paper, words, days, good_repeats: goes };
      return answer(api.POST("/api/sheet", { body, parseAs: "blob" }));
    },
    onSuccess: (pdf) => {
      localStorage.setItem(PAPER, paper);
      const address = URL.createObjectURL(pdf);
      window.open(address, "_blank", "noopener");
      // The page that shows it has taken it by then.
      setTimeout(() => URL.revokeObjectURL(address), 60_000);
      onClose();
    },
  });
  const number = (label: string, value: number, most: number, least: number, put: (value: number) => void) => (
    <TextField
      type="number"
      size="small"
      label={label}
      value={value}
      onChange={(event) => {
        const typed = Math.round(Number(event.target.value));
        if (typed >= least && typed <= most) put(typed);
      }}
      slotProps={{ htmlInput: { min: least, max: most } }}
    />
  );
  return (
    <Dialog open onClose={onClose} maxWidth="sm" fullWidth aria-labelledby="sheet-title">
      <DialogTitle id="sheet-title" sx={{ fontFamily: "h1.fontFamily" }}>
        A sheet to hand out: {title}
      </DialogTitle>
      <DialogContent sx={{ display: "grid", gap: 2, pt: "8px !important" }}>
        <Several label="For" chosen={instruments} values={ALL} names={instrumentWords} onChange={setInstruments} />
        <Few
          label="Pages"
          value={onePage}
          values={[
            [false, "A page for each"],
            [true, "One for the class"],
          ]}
          onPick={setOnePage}
        />
        <Few
          label="Paper"
          value={paper}
          values={[
            ["a4", "A4"],
            ["letter", "Letter"],
          ]}
          onPick={setPaper}
        />
        <TextField
          label="A word to go with it (if you like)"
          value={words}
          onChange={(event) => setWords(event.target.value)}
          slotProps={{ htmlInput: { maxLength: 500 } }}
        />
        <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1fr", gap: 2 }}>
          {number("Days (0: no boxes)", days, 7, 0, setDays)}
          {number("Good goes a day", goes, 10, 1, setGoes)}
        </Box>
        {make.isError && <Note>{make.error.message}</Note>}
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Not now</Button>
        <Button variant="contained" onClick={() => make.mutate()} disabled={instruments.length === 0 || make.isPending}>
          {make.isPending ? "Printing…" : "Open the PDF"}
        </Button>
      </DialogActions>
    </Dialog>
  );
}
