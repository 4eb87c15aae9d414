import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { answer, api, type Schemas } from "../../api/client";
import { Note } from "../../ui/states";
import { instrumentWords } from "../../ui/words";

interface Props {
  group: Schemas["ClassOut"];
  onClose: () => void;
  onDone: (cards: Schemas["Card"][]) => void;
}

const EXAMPLE = "Name, instrument, size\nAda Moor, violin, 3/4\nBo Lund, cello, 1/2";

/** A class at once: typed, pasted out of a table, or read from a CSV file; looked at first, and kept whole or not at all. */
export function RosterDialog({ group, onClose, onDone }: Props) {
  const queries = useQueryClient();
  const [text, setText] = useState("");
  const ask = (keep: boolean) =>
    answer(api.POST("/api/classes/{id}/roster", { params: { path: { id: group.id } }, body: { text, keep } }));
  const look = useMutation({ mutationFn: () => ask(false) });
  const keep = useMutation({
    mutationFn: () => ask(true),
    onSuccess: ({ cards }) => {
      void queries.invalidateQueries({ queryKey: ["classes"] });
      void queries.invalidateQueries({ queryKey: ["week"] });
      onDone(cards);
    },
  });
  const seen = look.data;
  const change = (next: string) => {
    setText(next);
    look.reset();
    keep.reset();
  };
  return (
    <Dialog open onClose={onClose} aria-labelledby="roster" maxWidth="sm" fullWidth>
      <DialogTitle id="roster">Pupils for {group.name}</DialogTitle>
      <DialogContent sx={{ display: "grid", gap: 2, pt: "8px !important" }}>
        <TextField
          multiline
          minRows={7}
          label="A line each: name, instrument, size, string length if you have measured it"
          placeholder={EXAMPLE}
          value={text}
          onChange={(event) => change(event.target.value)}
          autoFocus
          slotProps={{ inputLabel: { shrink: true }, htmlInput: { "aria-describedby": "roster-help" } }}
        />
        <Typography id="roster-help" sx={{ color: "text.secondary" }}>
          Paste it out of a table, or take a CSV file. Only the name that is to be shown: no addresses, no dates.
        </Typography>
        <Button component="label" variant="outlined" sx={{ justifySelf: "start" }}>
          Take a CSV file
          <input
            type="file"
            accept=".csv,.tsv,.txt,text/csv,text/plain"
            hidden
            data-testid="roster-file"
            onChange={(event) => void event.target.files?.[0]?.text().then(change)}
          />
        </Button>
        {seen && seen.faults.length > 0 && (
          <Box role="alert">
            <Typography>
              <b>Nobody is put in yet.</b> {seen.faults.length === 1 ? "One line" : `${seen.faults.length} lines`} can
              not be used:
            </Typography>
            <Box component="ul" sx={{ m: 0, pl: 3 }}>
              {seen.faults.map((fault) => (
                <li key={`${fault.line} ${fault.words}`}>
                  line {fault.line}: {fault.words}
                </li>
              ))}
            </Box>
          </Box>
        )}
        {seen && seen.faults.length === 0 && (
          <Box role="status">
            <Typography>
              {seen.rows.length === 0
                ? "There is nobody in this list."
                : `${seen.rows.length} ${seen.rows.length === 1 ? "pupil" : "pupils"}, as they will stand in the class:`}
            </Typography>
            <Box component="ul" sx={{ m: 0, pl: 3, columns: { sm: 2 } }}>
              {seen.rows.map((row) => (
                <li key={row.line}>
                  {row.name}, {instrumentWords[row.instrument]} {row.size}
                </li>
              ))}
            </Box>
          </Box>
        )}
        {(look.error ?? keep.error) && <Note>{(look.error ?? keep.error)!.message}</Note>}
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Not now</Button>
        {seen && seen.faults.length === 0 && seen.rows.length > 0 ? (
          <Button variant="contained" disabled={keep.isPending} onClick={() => keep.mutate()}>
            {keep.isPending ? "Making cards …" : `Put ${seen.rows.length} in, and make their cards`}
          </Button>
        ) : (
          <Button variant="contained" disabled={!text.trim() || look.isPending} onClick={() => look.mutate()}>
            Look it through
          </Button>
        )}
      </DialogActions>
    </Dialog>
  );
}
