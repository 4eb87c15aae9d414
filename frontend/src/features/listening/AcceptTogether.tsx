import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useMutation, useQueryClient, type QueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { answer, api, type Schemas } from "../../api/client";
import { Note } from "../../ui/states";

export type Together = Schemas["MarkedTogether"];

const refresh = (queries: QueryClient) => {
  for (const key of ["takes", "take", "week"]) void queries.invalidateQueries({ queryKey: [key] });
};

/** The good ones at once, after a look: any of them can be left out. */
export function AcceptTogether({ takes, onDone }: { takes: Schemas["TakeRow"][]; onDone: (made: Together) => void }) {
  const queries = useQueryClient();
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const [remark, setRemark] = useState("");
  const chosen = takes.filter((take) => !left.has(take.id));
  const accept = useMutation({
    mutationFn: () =>
      answer(
        api.POST("/api/marks", { body: { take_ids: chosen.map((take) => take.id), verdict: "accepted", remark } }),
      ),
    onSuccess: (made) => {
      onDone(made);
      setRemark("");
      refresh(queries);
    },
  });
  return (
    <Box component="fieldset" sx={{ border: 0, m: 0, p: 0, mt: 1 }}>
      <Typography component="legend" sx={{ color: "text.secondary" }}>
        Looked through? They can be accepted together.
      </Typography>
      <Box sx={{ display: "flex", flexWrap: "wrap", columnGap: 1 }}>
        {takes.map((take) => (
          <FormControlLabel
            key={take.id}
            control={
              <Checkbox
                size="small"
                checked={!left.has(take.id)}
                onChange={() =>
                  setLeft((before) => {
                    const next = new Set(before);
                    if (!next.delete(take.id)) next.add(take.id);
                    return next;
                  })
                }
              />
            }
            label={take.pupil_name}
          />
        ))}
      </Box>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1.5, alignItems: "center", mt: 0.5 }}>
        <TextField
          size="small"
          label="A word to each of them (if you like)"
          value={remark}
          onChange={(event) => setRemark(event.target.value)}
          slotProps={{ htmlInput: { maxLength: 1000 } }}
          sx={{ flex: "1 1 280px", maxWidth: 520 }}
        />
        <Button variant="contained" disabled={chosen.length === 0 || accept.isPending} onClick={() => accept.mutate()}>
          Accept {chosen.length === 1 ? "this one" : `these ${chosen.length}`}
        </Button>
      </Box>
      {accept.isError && <Note>{accept.error.message}</Note>}
    </Box>
  );
}

/** What was just done, with the way back. */
export function TakenTogether({ made, onClose }: { made: Together; onClose: () => void }) {
  const queries = useQueryClient();
  const undo = useMutation({
    mutationFn: async () => {
      for (const mark of made.marks) await answer(api.DELETE("/api/marks/{id}", { params: { path: { id: mark.id } } }));
    },
    onSuccess: onClose,
    onSettled: () => refresh(queries),
  });
  const { marks, left_out } = made;
  return (
    <Box role="status" sx={{ display: "flex", flexWrap: "wrap", alignItems: "center", gap: 1.5, mt: 2 }}>
      <span>
        {marks.length === 1 ? "One take is" : `${marks.length} takes are`} accepted.
        {left_out > 0 &&
          ` ${left_out} had a word in the meantime and ${left_out === 1 ? "was" : "were"} left as they are.`}
      </span>
      <Button size="small" variant="outlined" disabled={undo.isPending} onClick={() => undo.mutate()}>
        Take it back
      </Button>
      <Button size="small" onClick={onClose}>
        Well
      </Button>
      {undo.isError && <Note>{undo.error.message}</Note>}
    </Box>
  );
}
