import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { answer, api, type Schemas } from "../../api/client";
import { Note } from "../../ui/states";

interface Props {
  group: Schemas["ClassOut"];
  onClose: () => void;
  onDone: (card: Schemas["Card"]) => void;
}

export function NewPupilDialog({ group, onClose, onDone }: Props) {
  const queries = useQueryClient();
  const catalogue = useQuery({
    queryKey: ["catalogue"],
    queryFn: () => answer(api.GET("/api/catalogue")),
    staleTime: Infinity,
  });
  const instruments = catalogue.data?.instruments ?? [];
  const [name, setName] = useState("");
  const [instrument, setInstrument] = useState<Schemas["InstrumentOut"]["key"]>("violin");
  const [size, setSize] = useState("4/4");
  const sizes = instruments.find((entry) => entry.key === instrument)?.sizes ?? [];
  const add = useMutation({
    mutationFn: () => answer(api.POST("/api/pupils", { body: { class_id: group.id, name, instrument, size } })),
    onSuccess: (card) => {
      void queries.invalidateQueries({ queryKey: ["classes"] });
      onDone(card);
    },
  });
  return (
    <Dialog open onClose={onClose} aria-labelledby="new-pupil" maxWidth="xs" fullWidth>
      <Box
        component="form"
        onSubmit={(event: React.FormEvent) => {
          event.preventDefault();
          add.mutate();
        }}
      >
        <DialogTitle id="new-pupil">New pupil</DialogTitle>
        <DialogContent sx={{ display: "grid", gap: 2, pt: "8px !important" }}>
          <TextField
            label="Name to show"
            value={name}
            onChange={(event) => setName(event.target.value)}
            required
            autoFocus
            slotProps={{ htmlInput: { maxLength: 60 } }}
          />
          <TextField
            label="Instrument"
            select
            value={instruments.length ? instrument : ""}
            onChange={(event) => {
              const next = event.target.value as typeof instrument;
              setInstrument(next);
              setSize(instruments.find((entry) => entry.key === next)?.sizes.at(-1)?.name ?? "");
            }}
          >
            {instruments.map((entry) => (
              <MenuItem key={entry.key} value={entry.key}>
                {entry.name}
              </MenuItem>
            ))}
          </TextField>
          <TextField
            label="Size"
            select
            value={sizes.some((entry) => entry.name === size) ? size : ""}
            onChange={(event) => setSize(event.target.value)}
            required
          >
            {sizes.map((entry) => (
              <MenuItem key={entry.name} value={entry.name}>
                {entry.name} (string about {entry.string_length_mm} mm)
              </MenuItem>
            ))}
          </TextField>
          {add.isError && <Note>{add.error.message}</Note>}
        </DialogContent>
        <DialogActions>
          <Button onClick={onClose}>Not now</Button>
          <Button type="submit" variant="contained" disabled={!name.trim() || !size || add.isPending}>
            Add
          </Button>
        </DialogActions>
      </Box>
    </Dialog>
  );
}
