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
import { Few } from "../../ui/Few";
import { Note } from "../../ui/states";
import { useSay, useStudioSettings } from "../../ui/vocabulary";
import { RUBRIC, type RubricWord } from "./rubric";

interface Props {
  pupilId: string;
  recipe: Schemas["Recipe"];
  title: string;
  takeId?: string;
  onClose: () => void;
}

/** A step is passed: with what no microphone can judge, as far as the teacher wants to say it. */
export function PassDialog({ pupilId, recipe, title, takeId, onClose }: Props) {
  const queries = useQueryClient();
  const say = useSay();
  const lines = useStudioSettings().data?.rubric ?? [];
  const [words, setWords] = useState<Record<string, RubricWord>>({});
  const [remark, setRemark] = useState("");
  const pass = useMutation({
    mutationFn: () =>
      answer(
        api.POST("/api/pupils/{id}/passed", {
          params: { path: { id: pupilId } },
          body: {
            recipe,
            title,
            take_id: takeId ?? null,
            rubric: Object.entries(words).map(([line, word]) => ({ line, word })),
            remark,
          },
        }),
      ),
    onSuccess: () => {
      void queries.invalidateQueries();
      onClose();
    },
  });
  return (
    <Dialog open onClose={onClose} maxWidth="sm" fullWidth aria-labelledby="pass-title">
      <DialogTitle id="pass-title">Passed: {say(title)}</DialogTitle>
      <DialogContent sx={{ display: "grid", gap: 1.5, pt: "8px !important" }}>
        <Typography sx={{ color: "text.secondary" }}>
          What no microphone can judge, if you like. The lines are yours, under Studio.
        </Typography>
        {lines.map((line) => (
          <Box key={line} sx={{ display: "flex", flexWrap: "wrap", gap: 1.5, alignItems: "center" }}>
            <Box sx={{ flex: "1 1 160px" }}>{line}</Box>
            <Few<RubricWord | "">
              label={line}
              value={words[line] ?? ""}
              values={RUBRIC}
              onPick={(word) => word && setWords((before) => ({ ...before, [line]: word }))}
            />
          </Box>
        ))}
        <TextField
          label="A word for the record (if you like)"
          value={remark}
          onChange={(event) => setRemark(event.target.value)}
          slotProps={{ htmlInput: { maxLength: 300 } }}
        />
        {pass.isError && <Note>{pass.error.message}</Note>}
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Not yet</Button>
        <Button variant="contained" disabled={pass.isPending} onClick={() => pass.mutate()}>
          Passed
        </Button>
      </DialogActions>
    </Dialog>
  );
}
