import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import Typography from "@mui/material/Typography";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { answer, api, type Schemas } from "../../../api/client";
import { Note } from "../../../ui/states";
import { BowHold } from "./BowHold";
import { SpokenHelp } from "./SpokenHelp";

type Take = Schemas["TakeOut"];
type Said = Schemas["TakeSaid"];

const FELT: readonly [NonNullable<Take["felt"]>, string][] = [
  ["easy", "Easy"],
  ["right", "Just right"],
  ["too_hard", "Too hard"],
];

/** What the pupil says of a go and does with it. What is handed in waits for the teacher; all else stays the pupil's own. */
export function AboutIt({ take, mayRecord }: { take: Take; mayRecord: boolean }) {
  const queries = useQueryClient();
  const say = useMutation({
    mutationFn: (body: Said) => answer(api.PATCH("/api/takes/{id}", { params: { path: { id: take.id } }, body })),
    onSettled: () => {
      for (const key of [["take", take.id], ["today"], ["room", take.assignment_id], ["record"]])
        void queries.invalidateQueries({ queryKey: key });
    },
  });
  const answered = take.marks.length > 0;
  if (take.thrown_away)
    return (
      <Box sx={{ mt: 3 }} role="status">
        <Typography sx={{ fontSize: "1.2rem", mb: 1 }}>Thrown away. Nobody hears it any more.</Typography>
        <Button variant="outlined" size="large" onClick={() => say.mutate({ thrown_away: false })}>
          Fetch it back
        </Button>
      </Box>
    );
  return (
    <Box sx={{ mt: 3, display: "grid", gap: 2 }}>
      <Box>
        <Typography id="felt" sx={{ fontSize: "1.15rem", mb: 0.5 }}>
          How did it feel?
        </Typography>
        <ToggleButtonGroup
          exclusive
          value={take.felt}
          onChange={(_, felt: Take["felt"]) => say.mutate({ felt })}
          aria-labelledby="felt"
        >
          {FELT.map(([key, name]) => (
            <ToggleButton key={key} value={key} sx={{ minHeight: 52, px: 3, fontSize: "1.1rem" }}>
              {name}
            </ToggleButton>
          ))}
        </ToggleButtonGroup>
      </Box>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1.5, alignItems: "center" }}>
        {take.handed_in ? (
          <>
            <Typography sx={{ fontSize: "1.15rem" }}>
              {answered ? "Your teacher has heard this one." : "This one is with your teacher."}
            </Typography>
            {!answered && (
              <Button variant="outlined" onClick={() => say.mutate({ handed_in: false })}>
                Take it back
              </Button>
            )}
          </>
        ) : (
          <>
            <Button
              variant={take.report?.accepted ? "contained" : "outlined"}
              size="large"
              onClick={() => say.mutate({ handed_in: true })}
              sx={LARGE}
            >
              Hand this one in
            </Button>
            <Button variant="outlined" size="large" onClick={() => say.mutate({ thrown_away: true })} sx={LARGE}>
              Throw it away
            </Button>
          </>
        )}
        <Button
          variant="outlined"
          size="large"
          aria-pressed={take.kept}
          onClick={() => say.mutate({ kept: !take.kept })}
          sx={LARGE}
        >
          {take.kept ? "A favourite: kept" : "Keep as a favourite"}
        </Button>
      </Box>
      <BowHold take={take} />
      <Help take={take} mayRecord={mayRecord} onAsk={(words) => say.mutate({ help_words: words })} />
      {say.isError && <Note>{say.error.message}</Note>}
    </Box>
  );
}

const LARGE = { fontSize: "1.15rem", minHeight: 56 } as const;

interface HelpProps {
  take: Take;
  mayRecord: boolean;
  onAsk: (words: string | null) => void;
}

/** "Help me": a sentence or a spoken one, which goes to the teacher with the go. */
function Help({ take, mayRecord, onAsk }: HelpProps) {
  const [words, setWords] = useState("");
  if (take.help_words !== null)
    return (
      <Box>
        <Typography sx={{ fontSize: "1.15rem" }}>
          You have asked your teacher for help{take.help_url ? " with your own voice" : ""}
          {take.help_words ? `: “${take.help_words}”` : "."}
        </Typography>
        <Button onClick={() => onAsk(null)}>I do not need it any more</Button>
      </Box>
    );
  return (
    <Box component="details">
      <Box component="summary" sx={{ fontSize: "1.15rem", cursor: "pointer", py: 1.25 }}>
        Help me
      </Box>
      <Box
        component="form"
        sx={{ display: "grid", gap: 1.5, mt: 1, maxWidth: 560 }}
        onSubmit={(event) => {
          event.preventDefault();
          onAsk(words);
        }}
      >
        <TextField
          label="What is hard? (a few words, or none)"
          value={words}
          onChange={(event) => setWords(event.target.value)}
          slotProps={{ htmlInput: { maxLength: 300 } }}
        />
        <Box sx={{ display: "flex", gap: 1.5, flexWrap: "wrap" }}>
          <Button type="submit" variant="outlined" size="large">
            Ask my teacher
          </Button>
          {mayRecord && <SpokenHelp takeId={take.id} assignmentId={take.assignment_id} />}
        </Box>
        <Typography sx={{ color: "text.secondary" }}>It goes to your teacher together with this go.</Typography>
      </Box>
    </Box>
  );
}
