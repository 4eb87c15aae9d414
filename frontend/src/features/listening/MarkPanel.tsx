import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import FormControlLabel from "@mui/material/FormControlLabel";
import Switch from "@mui/material/Switch";
import TextField from "@mui/material/TextField";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import Typography from "@mui/material/Typography";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { useNavigate } from "react-router";

import { answer, api, type Schemas } from "../../api/client";
import { useSendKey, useSingleKeys, useShortcuts } from "../../ui/shortcuts";
import { PassDialog } from "../people/PassDialog";
import { Drafts } from "./Drafts";
import { Note } from "../../ui/states";
import { useDraft } from "../../ui/useDraft";
import { dayWords, verdictWords } from "../../ui/words";

type Verdict = Schemas["NewMark"]["verdict"];

/** The teacher's word: a mark, a remark, and on to the next take. */
export function MarkPanel({ take }: { take: Schemas["TakeOut"] }) {
  const queries = useQueryClient();
  const go = useNavigate();
  const [verdict, setVerdict] = useState<Verdict | null>(null);
  const [remark, setRemark] = useDraft(take.id);
  const [single, setSingle] = useSingleKeys();
  const [passing, setPassing] = useState(false);
  const refresh = () => {
    void queries.invalidateQueries({ queryKey: ["take", take.id] });
    void queries.invalidateQueries({ queryKey: ["takes"] });
    void queries.invalidateQueries({ queryKey: ["week"] });
  };
  const last = take.marks.at(-1);
  const send = useMutation({
    mutationFn: (onwards: boolean) =>
      answer(
        api.POST("/api/takes/{id}/marks", {
          params: { path: { id: take.id } },
          body: { verdict: verdict!, remark, after: last?.id ?? null },
        }),
      ).then(() => onwards),
    onSuccess: (onwards) => {
      setVerdict(null);
      setRemark("");
      refresh();
      if (onwards && take.next_unmarked_id) void go(`/listening/${take.next_unmarked_id}`);
    },
    // Another teacher may have been quicker: their word is shown, and this one is still there to be sent.
    onError: refresh,
  });
  const undo = useMutation({
    mutationFn: (id: string) => answer(api.DELETE("/api/marks/{id}", { params: { path: { id } } })),
    onSuccess: (mark) => {
      setVerdict(mark.verdict);
      setRemark(mark.remark);
      refresh();
    },
  });

  const keys = useMemo(
    () => ({
      a: () => setVerdict("accepted"),
      o: () => setVerdict("once_more"),
      c: () => setVerdict("come_and_see_me"),
    }),
    [],
  );
  useShortcuts(keys);
  const { mutate, isPending } = send;
  useSendKey(useMemo(() => (verdict && !isPending ? () => mutate(true) : undefined), [verdict, isPending, mutate]));

  return (
    <Box component="section" aria-label="Your word">
      <Typography variant="h2" gutterBottom>
        Your word
      </Typography>
      {last && (
        <Box sx={{ mb: 1.5 }}>
          <Typography>
            <b>{verdictWords(last.verdict)}</b>, {dayWords(last.created_at)}
            {last.remark && `: “${last.remark}”`}
          </Typography>
          <Button size="small" onClick={() => undo.mutate(last.id)} disabled={undo.isPending}>
            Take it back
          </Button>
        </Box>
      )}
      <ToggleButtonGroup
        exclusive
        value={verdict}
        onChange={(_, next: Verdict | null) => setVerdict(next)}
        aria-label="Mark"
        sx={{ mb: 1.5 }}
      >
        <ToggleButton value="accepted">Accepted&nbsp;{single && <kbd>A</kbd>}</ToggleButton>
        <ToggleButton value="once_more">Once more&nbsp;{single && <kbd>O</kbd>}</ToggleButton>
        <ToggleButton value="come_and_see_me">Come and see me&nbsp;{single && <kbd>C</kbd>}</ToggleButton>
      </ToggleButtonGroup>
      <TextField
        label="A word to the pupil"
        multiline
        minRows={3}
        fullWidth
        value={remark}
        onChange={(event) => setRemark(event.target.value)}
        slotProps={{ htmlInput: { maxLength: 1000 } }}
        sx={{ mb: 1.5 }}
      />
      {remark === "" && <Drafts takeId={take.id} onTake={setRemark} />}
      {send.isError && <Note>{send.error.message}</Note>}
      {undo.isError && <Note>{undo.error.message}</Note>}
      {take.report?.accepted && !take.bars && (
        <Button size="small" variant="outlined" fullWidth onClick={() => setPassing(true)} sx={{ mb: 1.5 }}>
          Pass this step …
        </Button>
      )}
      {passing && (
        <PassDialog
          pupilId={take.pupil_id}
          recipe={take.recipe}
          title={take.title}
          takeId={take.id}
          onClose={() => setPassing(false)}
        />
      )}
      <Button variant="contained" fullWidth disabled={!verdict || send.isPending} onClick={() => send.mutate(true)}>
        {take.next_unmarked_id ? "Send and next" : "Send"}
      </Button>
      <Typography sx={{ color: "text.secondary", fontSize: "0.9rem", mt: 1 }}>
        {single ? "Space plays, S the spots · A, O, C mark · Ctrl+Enter sends · ↓ next" : "Ctrl+Enter sends"}
      </Typography>
      <FormControlLabel
        control={<Switch size="small" checked={single} onChange={(_, on) => setSingle(on)} />}
        label="Single keys act"
        slotProps={{ typography: { sx: { fontSize: "0.9rem", color: "text.secondary" } } }}
      />
    </Box>
  );
}
