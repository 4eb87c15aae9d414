import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import Paper from "@mui/material/Paper";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { Link } from "react-router";

import { answer, api, type Schemas } from "../../api/client";
import type { Person } from "../../app/session";
import { sendKept } from "../../recording/send";
import { useRecorder } from "../../recording/useRecorder";
import { Loading, Note } from "../../ui/states";
import { instrumentWords } from "../../ui/words";

interface Props {
  person: Person;
  assignment: Schemas["AssignmentOut"];
  onClose: () => void;
}

/** A take of one pupil, recorded at the lesson; it is with the teacher at once. */
export function RecordOne({ person, assignment, onClose }: Props) {
  const [pupilId, setPupilId] = useState("");
  const standing = assignment.standings.find((own) => own.pupil_id === pupilId);
  return (
    <Paper component="section" aria-label="Record one pupil" sx={{ p: 2, maxWidth: 760 }}>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 2, alignItems: "center" }}>
        <TextField
          select
          size="small"
          label="Who plays"
          value={pupilId}
          onChange={(event) => setPupilId(event.target.value)}
          sx={{ minWidth: 240 }}
        >
          {assignment.standings.map((own) => (
            <MenuItem key={own.pupil_id} value={own.pupil_id}>
              {own.pupil_name}, {instrumentWords[own.instrument]}
            </MenuItem>
          ))}
        </TextField>
        <Button onClick={onClose}>Close</Button>
      </Box>
      {standing && <Recorder key={pupilId} person={person} assignment={assignment} standing={standing} />}
    </Paper>
  );
}

interface RecorderProps {
  person: Person;
  assignment: Schemas["AssignmentOut"];
  standing: Schemas["Standing"];
}

function Recorder({ person, assignment, standing }: RecorderProps) {
  const score = useQuery({
    queryKey: ["preview", assignment.recipe, 900, standing.instrument, "usual", assignment.target_bpm],
    queryFn: () =>
      answer(
        api.POST("/api/preview", {
          body: { recipe: { ...assignment.recipe, tempo_bpm: assignment.target_bpm }, instrument: standing.instrument },
        }),
      ),
    staleTime: Infinity,
  });
  if (score.isError) return <Note>{score.error.message}</Note>;
  if (!score.data?.part) return <Loading what="Fetching the line" />;
  return <Ready person={person} assignment={assignment} standing={standing} score={score.data.part.score} />;
}

function Ready({ person, assignment, standing, score }: RecorderProps & { score: Schemas["ScoreOut"] }) {
  const queries = useQueryClient();
  const make = useCallback(
    () => ({
      key: crypto.randomUUID(),
      personId: person.id,
      pupilId: standing.pupil_id,
      assignmentId: assignment.id,
      title: assignment.title,
      startedAt: new Date().toISOString(),
      handIn: true,
    }),
    [person.id, standing.pupil_id, assignment.id, assignment.title],
  );
  const recorder = useRecorder(
    make,
    { bpm: score.tempo_bpm, words: score.count_in, beats: score.count_in_beats },
    { pulseBeats: null, calls: null, ending: null, onEnd: () => void send.mutate() },
  );
  const send = useMutation({
    mutationFn: async () => {
      const take = await recorder.stop();
      return take && (await sendKept(take, () => undefined));
    },
    onSuccess: () => {
      for (const key of ["week", "takes"]) void queries.invalidateQueries({ queryKey: [key] });
    },
  });
  const { stage, beat, problem } = recorder;
  return (
    <Box sx={{ display: "flex", flexWrap: "wrap", gap: 2, alignItems: "center", mt: 2 }}>
      {stage === "counting" || stage === "recording" ? (
        <>
          <Button variant="contained" size="large" onClick={() => send.mutate()}>
            Stop
          </Button>
          <Typography sx={{ fontSize: "1.4rem" }} aria-live="polite">
            {stage === "counting"
              ? (score.count_in[beat - 1]?.word ?? "…")
              : `${Math.max(0, Math.floor(recorder.seconds))} s`}
          </Typography>
        </>
      ) : (
        <Button
          variant="contained"
          size="large"
          disabled={stage === "asking" || stage === "ending" || send.isPending}
          onClick={() => {
            send.reset();
            void recorder.start();
          }}
        >
          {send.isSuccess ? "Once more" : `Count ${standing.pupil_name} in`}
        </Button>
      )}
      {send.isPending && <span role="status">Sending …</span>}
      {send.isSuccess &&
        (send.data ? (
          <span role="status">
            It is being checked. <Link to={`/listening/${send.data}`}>Look at it</Link>
          </span>
        ) : (
          <span role="status">Nothing was heard.</span>
        ))}
      {(problem ?? send.error) && <Note>{(problem ?? send.error)!.message}</Note>}
    </Box>
  );
}
