import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import FormControlLabel from "@mui/material/FormControlLabel";
import Switch from "@mui/material/Switch";
import Typography from "@mui/material/Typography";
import { useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";

import type { Schemas } from "../../../api/client";
import { colours } from "../../../app/theme";
import type { Person } from "../../../app/session";
import { lengthOf, startOf } from "../../../music/following";
import { askToKeep, deviceHints, deviceState } from "../../../recording/device";
import { type Asked, keepTake, type KeptTake } from "../../../recording/keep";
import { useRecorder } from "../../../recording/useRecorder";
import { Few } from "../../../ui/Few";
import { useShortcuts } from "../../../ui/shortcuts";
import { Note } from "../../../ui/states";
import type { Room } from "../useRoom";
import { InARow } from "./InARow";
import { Kept } from "./Kept";
import { MicrophoneHelp } from "./MicrophoneHelp";
import { Pieces } from "./Pieces";
import { RecordStage } from "./RecordStage";
import { Rungs } from "./Rungs";
import { Tempo } from "./Tempo";
import { useDelivery } from "./useDelivery";
import { useOnStand } from "./useOnStand";
import { FOCI } from "./words";

const FILES = ".wav,.flac,.ogg,.mp3,.webm,.m4a,.mp4,.mov,audio/*,video/mp4,video/quicktime,video/webm";
const FOCUS: readonly ["all" | "tune" | "time", string][] = [
  ["all", "All of it"],
  ["tune", FOCI.tune.name],
  ["time", FOCI.time.name],
];

interface Props {
  person: Person;
  room: Room;
  score: Schemas["ScoreOut"];
  /** The score of what was chosen is on its way: until it is there nothing is counted in. */
  turning: boolean;
  assignmentId: string;
  width: number;
  asked: Asked;
  bpm: number;
  onChange: (change: Partial<Asked>) => void;
  /** Whether it is being recorded, and has the page for itself. */
  onAlone: (alone: boolean) => void;
}

/** Choosing what to play and how fast, and playing it. */
export function PlayIt({ person, room, score, turning, assignmentId, width, asked, bpm, onChange, onAlone }: Props) {
  const [follow, setFollow] = useState(false);
  const [beatHeard, setBeatHeard] = useState(false);
  const [stopsItself, setStopsItself] = useState(true);
  const [way, setWay] = useState(0);
  const onStand = useOnStand(assignmentId, width, { ...asked, bpm }, score);
  const hints = useQuery({ queryKey: ["device"], queryFn: async () => deviceHints(await deviceState()) });
  const delivery = useDelivery(assignmentId, score.hidden);
  const { deliver, sending, problem, setProblem, waiting } = delivery;
  const mode = asked.mode ?? room.mode;
  const { bars, focus } = asked;
  const make = useCallback(
    () => ({
      key: crypto.randomUUID(),
      personId: person.id,
      assignmentId,
      title: score.title,
      startedAt: new Date().toISOString(),
      asked: { bpm, mode, ...(bars && { bars }), ...(focus && { focus }) },
    }),
    [person.id, assignmentId, score.title, bpm, mode, bars, focus],
  );
  const finishRef = useRef(() => {});
  const recorder = useRecorder(
    make,
    { bpm: score.tempo_bpm, words: score.count_in, beats: score.count_in_beats },
    {
      pulseBeats: beatHeard ? score.pulse_beats : null,
      calls: score.calls ? callsOf(score) : null,
      ending: stopsItself
        ? {
            expectedS: (lengthOf(score) * 60) / score.tempo_bpm,
            beatS: (score.pulse_beats * 60) / score.tempo_bpm,
            lastMidi: score.notes.at(-1)?.midi ?? 0,
            patient: mode !== "steady",
          }
        : null,
      onEnd: () => finishRef.current(),
    },
  );
  const { stage: state, stop, start } = recorder;
  const finish = useCallback(async () => {
    const take = await stop();
    if (take) await deliver(take);
  }, [stop, deliver]);
  useEffect(() => {
    finishRef.current = () => void finish();
  }, [finish]);
  const recording = state === "counting" || state === "recording" || state === "ending" || sending !== null;
  useEffect(() => {
    onAlone(recording);
    return () => onAlone(false);
  }, [recording, onAlone]);
  const ready = !turning && sending === null && ["idle", "refused", "ended"].includes(state) && person.may_record;
  const forget = delivery.forget;
  const begin = useCallback(() => {
    forget();
    void askToKeep();
    void start();
  }, [forget, start]);
  const keys = useMemo(
    () => ({ " ": state === "recording" ? () => void finish() : ready ? begin : undefined }),
    [state, finish, ready, begin],
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

  if (recording)
    return (
      <RecordStage recorder={recorder} score={onStand} follow={follow} sending={sending} onStop={() => void finish()} />
    );
  if (waiting && !waiting.file) return <Kept take={waiting} onAgain={forget} onSend={(take) => void deliver(take)} />;
  return (
    <Box sx={{ mt: 3, display: "grid", gap: 2.5 }}>
      {room.ladder && !bars ? (
        <Rungs ladder={room.ladder} bpm={bpm} onPick={(own) => onChange({ bpm: own })} />
      ) : (
        <Tempo room={room} bpm={bpm} onPick={(own) => onChange({ bpm: own })} label="How fast" />
      )}
      {score.calls && (
        <Typography sx={{ fontSize: "1.2rem" }}>
          Each bar is played to you, and then it is your turn: I listen only while you answer.
        </Typography>
      )}
      <Ways ways={score.ways} at={way} onPick={setWay} />
      {focus && <Typography sx={{ fontSize: "1.2rem" }}>{FOCI[focus].words}</Typography>}
      {!bars && <InARow count={room.good_in_a_row} />}
      {!person.may_record ? (
        <Note>An adult has to say yes before your first recording. Ask your teacher.</Note>
      ) : (
        <Box
          sx={{
            display: "flex",
            flexWrap: "wrap",
            gap: 2,
            alignItems: "center",
            // On a phone the music fills the page: the one button stays in reach.
            position: { xs: "fixed", sm: "static" },
            left: 0,
            right: 0,
            bottom: 0,
            px: { xs: 2, sm: 0 },
            py: { xs: 1, sm: 0 },
            borderTop: { xs: `1px solid ${colours.line}`, sm: 0 },
            bgcolor: colours.paper,
            zIndex: 1,
          }}
        >
          <Button
            variant="contained"
            size="large"
            onClick={begin}
            disabled={!ready}
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
      {person.may_record && hints.data?.map((words) => <Note key={words}>{words}</Note>)}
      {recorder.problem && <MicrophoneHelp problem={recorder.problem} />}
      {problem && <Note>{problem}</Note>}
      <Box component="details">
        <Box component="summary" sx={{ fontSize: "1.15rem", cursor: "pointer", py: 1.25 }}>
          Another way to practise it
        </Box>
        <Box sx={{ display: "grid", gap: 2, mt: 1 }}>
          {!score.hidden && <Pieces room={room} bars={bars} onPick={(own) => onChange({ bars: own })} />}
          <Box>
            <Typography sx={{ color: "text.secondary", mb: 0.5 }}>One thing at a time</Typography>
            <Few
              label="One thing at a time"
              value={focus ?? "all"}
              values={FOCUS}
              onPick={(own) => onChange({ focus: own === "all" ? undefined : own })}
            />
          </Box>
          <Box sx={{ display: "grid", justifyItems: "start" }}>
            <Choice
              label="Pauses allowed: stop, think, place the finger, play"
              on={mode === "pauses"}
              onSwitch={(on) => onChange({ mode: on ? "pauses" : room.mode === "pauses" ? "steady" : undefined })}
            />
            <Choice
              label="Several times in one go, with a stop between"
              on={mode === "repeats"}
              onSwitch={(on) => onChange({ mode: on ? "repeats" : room.mode === "repeats" ? "steady" : undefined })}
            />
            <Choice label="Show me where I am while I play" on={follow} onSwitch={setFollow} />
            <Choice
              label="Let me hear the beat (only with headphones, and low)"
              on={beatHeard}
              onSwitch={setBeatHeard}
            />
            <Choice label="Stop by itself after the last note" on={stopsItself} onSwitch={setStopsItself} />
          </Box>
        </Box>
      </Box>
    </Box>
  );
}

/** Of call and response: the calls sound in the rests of the pupil's line. */
function callsOf(score: Schemas["ScoreOut"]) {
  const quarter = 60 / score.tempo_bpm;
  const start = startOf(score);
  const toFirst = ((score.notes[0]?.start_beats ?? start) - start) * quarter;
  return {
    url: `${score.demonstration_url}&company=calls&line=false`,
    leadS: (score.demonstration_onsets[0] ?? 0) - toFirst,
    spans: score.rests.map((rest): [number, number] => [
      (rest.start_beats - start) * quarter,
      (rest.start_beats - start + rest.duration_beats) * quarter,
    ]),
  };
}

function Choice({ label, on, onSwitch }: { label: string; on: boolean; onSwitch: (on: boolean) => void }) {
  return (
    <FormControlLabel
      control={<Switch checked={on} onChange={(event) => onSwitch(event.target.checked)} />}
      label={label}
      sx={{ minHeight: 44 }}
      slotProps={{ typography: { sx: { fontSize: "1.1rem" } } }}
    />
  );
}

const WAY_WORDS: Record<Schemas["Way"], string> = {
  "sing it": "Sing it first, with the note names or on la. Nothing is recorded yet.",
  "pluck it": "Pluck it, and listen to each note. Nothing is recorded yet.",
  "bow it": "Now with the bow.",
};

/** Sing, pluck, bow: one exercise in its steps; the last of them is recorded. */
function Ways({ ways, at, onPick }: { ways: Schemas["Way"][]; at: number; onPick: (at: number) => void }) {
  if (ways.length < 2) return null;
  const own = ways[at] ?? ways[0]!;
  return (
    <Box>
      <Few
        label="Steps of this exercise"
        value={at}
        values={ways.map((way, place) => [place, `${place + 1}. ${way[0]!.toUpperCase()}${way.slice(1)}`] as const)}
        onPick={onPick}
      />
      <Typography sx={{ fontSize: "1.2rem", mt: 1 }}>
        {WAY_WORDS[own]}
        {at === ways.length - 1 && " This one is recorded."}
      </Typography>
    </Box>
  );
}
