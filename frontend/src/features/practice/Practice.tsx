import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useMemo, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";

import { answer, api, type Schemas } from "../../api/client";
import type { Person } from "../../app/session";
import { colours } from "../../app/theme";
import { PlayerBar } from "../../music/PlayerBar";
import { ScoreView } from "../../music/ScoreView";
import { usePlayer } from "../../music/usePlayer";
import { useWidth } from "../../music/useWidth";
import { keepTake, type KeptTake } from "../../recording/keep";
import { sendKept } from "../../recording/send";
import { useRecorder } from "../../recording/useRecorder";
import { useShortcuts } from "../../ui/shortcuts";
import { Loading, Note, Trouble } from "../../ui/states";
import { useSay } from "../../ui/vocabulary";
import { OwnTakes } from "./OwnTakes";
import { RecordStage } from "./RecordStage";
import { Steps } from "./Steps";
import { TuningCheck } from "./TuningCheck";

const STANDING: ReadonlySet<string> = new Set(["cello", "bass"]);
/** "Sing it, then pluck it, then bow it: record the last." */
const steps = (ways: string[]) => {
  const said = ways.join(", then ");
  return `${said[0]!.toUpperCase()}${said.slice(1)}${ways.length > 1 ? ": record the last" : ""}.`;
};
const FILES = ".wav,.flac,.ogg,.mp3,.webm,.m4a,.mp4,.mov,audio/*,video/mp4,video/quicktime,video/webm";

/** One exercise: hear it, play it, and then see it (on the take's own page). */
export function Practice({ person }: { person: Person }) {
  const { id = "" } = useParams();
  const { ref, width } = useWidth<HTMLDivElement>();
  const score = useQuery({
    queryKey: ["practice", id, width],
    queryFn: () =>
      answer(api.GET("/api/assignments/{id}/score", { params: { path: { id }, query: { width: width! } } })),
    enabled: width !== null,
    staleTime: Infinity,
    placeholderData: (before) => before,
  });
  return (
    <Box ref={ref}>
      {score.isError ? (
        <Trouble error={score.error} again={() => void score.refetch()} />
      ) : score.data ? (
        <Desk person={person} score={score.data} assignmentId={id} />
      ) : (
        <Loading what="Putting the music on the stand" />
      )}
    </Box>
  );
}

function Desk({ person, score, assignmentId }: { person: Person; score: Schemas["ScoreOut"]; assignmentId: string }) {
  const go = useNavigate();
  const queries = useQueryClient();
  const [sending, setSending] = useState<number | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const say = useSay();
  // Of call and response only the calls are heard: the answers are the pupil's.
  const src = score.calls ? `${score.demonstration_url}&company=calls&line=false` : score.demonstration_url;
  const player = usePlayer(
    src,
    score.demonstration_onsets.map((at, index) => ({ index, at })),
  );
  const make = useCallback(
    () => ({
      key: crypto.randomUUID(),
      personId: person.id,
      assignmentId,
      title: score.title,
      startedAt: new Date().toISOString(),
    }),
    [person.id, assignmentId, score.title],
  );
  const recorder = useRecorder(make, {
    bpm: score.tempo_bpm,
    words: score.count_in,
    beats: score.count_in_beats,
  });

  const deliver = useCallback(
    async (take: KeptTake) => {
      setProblem(null);
      setSending(0);
      try {
        const id = await sendKept(take, setSending);
        if (id === null) {
          setProblem("That was too short to keep. Count in and play the whole line.");
          setSending(null);
        } else {
          void queries.invalidateQueries({ queryKey: ["today"] });
          if (score.hidden) void queries.invalidateQueries({ queryKey: ["practice", assignmentId] });
          void queries.invalidateQueries({ queryKey: ["own-takes", assignmentId] });
          void go(`/takes/${id}`);
        }
      } catch (error) {
        setSending(null);
        setProblem((error as Error).message);
      }
    },
    [assignmentId, go, queries, score.hidden],
  );

  const { stage: state, stop, start } = recorder;
  const finish = useCallback(async () => {
    const take = await stop();
    if (take) await deliver(take);
  }, [stop, deliver]);

  const ready = sending === null && ["idle", "refused", "ended"].includes(state);
  const halt = player.playing ? player.toggle : null;
  const begin = useCallback(() => {
    halt?.();
    void start();
  }, [halt, start]);

  const mayRecord = person.may_record;
  const keys = useMemo(
    () => ({ " ": state === "recording" ? () => void finish() : ready && mayRecord ? begin : undefined }),
    [state, finish, ready, mayRecord, begin],
  );
  useShortcuts(keys);

  const choose = async (file: File | undefined) => {
    if (!file) return;
    if (file.size > person.most_bytes) {
      setProblem(`A recording can be ${Math.round(person.most_bytes / 2 ** 20)} MB at most.`);
      return;
    }
    const take: KeptTake = { ...make(), state: "ready", sampleRate: 0, file, fileName: file.name };
    await keepTake(take);
    await deliver(take);
  };

  return (
    <>
      <Steps at={state === "counting" || state === "recording" || sending !== null ? 2 : 1} />
      <Box sx={{ display: "flex", alignItems: "baseline", gap: 2, mb: 1.5, flexWrap: "wrap" }}>
        <Typography variant="h1" sx={{ flexGrow: 1 }}>
          {say(score.title)}
        </Typography>
        <Typography sx={{ color: "text.secondary", fontSize: "1.1rem" }}>at {score.tempo_bpm}</Typography>
      </Box>
      {score.hidden ? (
        <Typography sx={{ fontSize: "1.2rem", bgcolor: colours.card, borderRadius: 1, p: 3 }}>
          This one is for the ear. Hear it as often as you like, then play it back; the notes show themselves after your
          first try.
        </Typography>
      ) : (
        <ScoreView score={score} current={player.current} />
      )}
      {state === "counting" || state === "recording" || state === "ending" || sending !== null ? (
        <RecordStage recorder={recorder} words={score.count_in} sending={sending} onStop={() => void finish()} />
      ) : (
        <Box sx={{ mt: 3, display: "grid", gap: 3 }}>
          <Box>
            <Typography variant="h2" sx={{ fontSize: "1.2rem", mb: 1 }}>
              First, hear it
            </Typography>
            <PlayerBar player={player} src={src} name="the line" large />
            {score.calls && (
              <Typography sx={{ mt: 0.5 }}>
                Each bar is played to you first; in the silence after it you answer.
              </Typography>
            )}
            <Typography sx={{ color: "text.secondary", mt: 0.5 }}>With headphones? Keep them low.</Typography>
          </Box>
          {person.may_record && (
            <Box component="details">
              <Box component="summary" sx={{ fontSize: "1.15rem", cursor: "pointer" }}>
                Are my strings in tune?
              </Box>
              <Box sx={{ mt: 1 }}>
                <TuningCheck strings={score.strings} />
              </Box>
            </Box>
          )}
          <Box>
            <Typography variant="h2" sx={{ fontSize: "1.2rem", mb: 1 }}>
              Then play it
            </Typography>
            <Typography sx={{ fontSize: "1.15rem", mb: 2 }}>
              {score.ways.length > 0 && <b>{steps(score.ways)} </b>}
              {STANDING.has(score.instrument)
                ? "Sit or stand tall, thumb soft, fingers curved, the bow arm free. "
                : "Instrument up, wrist straight, thumb soft, fingers curved. "}
              Stop if anything hurts.
            </Typography>
            {!person.may_record ? (
              <Note>An adult has to say yes before your first recording. Ask your teacher.</Note>
            ) : (
              <Box sx={{ display: "flex", flexWrap: "wrap", gap: 2, alignItems: "center" }}>
                <Button
                  variant="contained"
                  size="large"
                  onClick={begin}
                  disabled={state === "asking"}
                  sx={{ fontSize: "1.35rem", px: 5, minHeight: 64 }}
                >
                  Count in and record
                </Button>
                <Button component="label" variant="outlined" size="large">
                  Send a recording
                  <input
                    type="file"
                    accept={FILES}
                    hidden
                    onChange={(event) => void choose(event.target.files?.[0])}
                    data-testid="file"
                  />
                </Button>
              </Box>
            )}
            {recorder.problem && <Note>{recorder.problem}</Note>}
            {problem && (
              <Note>
                {problem} <Link to="/today">Look at what is waiting</Link>
              </Note>
            )}
          </Box>
          <OwnTakes assignmentId={assignmentId} />
          <Box>
            <Box component={Link} to="/today" sx={{ color: colours.spruce }}>
              Back to today
            </Box>
          </Box>
        </Box>
      )}
    </>
  );
}
