import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useCallback, useState } from "react";

import { answer, api, type Schemas } from "../../../api/client";
import { colours } from "../../../app/theme";
import { momentForm } from "../../../recording/moment";
import { useMoments } from "../../../recording/useMoments";
import { pluck } from "../../../sound/pluck";
import { Note } from "../../../ui/states";

interface Props {
  assignmentId: string;
  score: Schemas["ScoreOut"];
  walk: Schemas["StepToNote"][];
}

/** After so many other answers the way from the open string is offered. */
const TRIES = 3;
const STEP_MS = 700;

/** The first note, tried: what was heard is answered at once; where it does not come, it is walked to from the open string. */
export function FirstNote({ assignmentId, score, walk }: Props) {
  const [reading, setReading] = useState<Schemas["FirstNoteReading"] | null>(null);
  const [away, setAway] = useState(0);
  const [problem, setProblem] = useState<string | null>(null);
  const onMoment = useCallback(
    async (samples: Float32Array, sampleRate: number) => {
      const form = momentForm(samples, sampleRate);
      const body = form as unknown as Schemas["MomentUpload"];
      try {
        const heard = await answer(
          api.POST("/api/assignments/{id}/first-note", {
            params: { path: { id: assignmentId } },
            body,
            bodySerializer: () => form,
          }),
        );
        setProblem(null);
        if (heard.word === null) return;
        setReading(heard);
        setAway((before) => (heard.word === "home" ? 0 : before + 1));
      } catch (error) {
        setProblem((error as Error).message);
      }
    },
    [assignmentId],
  );
  const moments = useMoments(onMoment);
  const first = score.notes[0];
  if (!first) return null;
  const place = first.finger === 0 ? `open ${first.string}` : `finger ${first.finger} on ${first.string}`;
  const playWalk = () => walk.forEach((step, at) => window.setTimeout(() => pluck(step.midi), at * STEP_MS));
  return (
    <>
      <Typography sx={{ fontSize: "1.15rem", mb: 1 }}>
        It is <b>{first.spoken}</b>
        {first.string && `: ${place}`}.
      </Typography>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1.5 }}>
        <Button
          variant="outlined"
          size="large"
          onClick={() => (moments.listening ? moments.stop() : void moments.start())}
        >
          {moments.listening ? "Stop listening" : `Listen to my ${first.spoken}`}
        </Button>
        <Button variant="outlined" size="large" onClick={() => pluck(first.midi)}>
          Let me hear it
        </Button>
      </Box>
      {moments.listening && (
        <Typography
          role="status"
          sx={{
            fontSize: "1.35rem",
            mt: 1.5,
            borderLeft: `6px ${reading?.word === "home" ? "solid" : "dashed"} ${reading?.word === "home" ? colours.spruce : colours.lantern}`,
            pl: 1.5,
          }}
        >
          {reading?.words ?? "Play it long and quiet."}
        </Typography>
      )}
      {walk.length > 0 && away >= TRIES && reading?.word !== "home" && (
        <Box sx={{ mt: 1.5 }}>
          <Typography sx={{ fontSize: "1.15rem" }}>
            Walk to it: {walk.map((step) => step.spoken).join(", ")}. Begin on the open string.
          </Typography>
          <Button variant="outlined" onClick={playWalk} sx={{ mt: 1 }}>
            Let me hear the way
          </Button>
        </Box>
      )}
      {(moments.problem ?? problem) && <Note>{moments.problem ?? problem}</Note>}
    </>
  );
}
