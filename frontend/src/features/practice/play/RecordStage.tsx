import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import LinearProgress from "@mui/material/LinearProgress";
import Typography from "@mui/material/Typography";
import { type RefObject, useEffect, useRef, useState } from "react";

import type { Schemas } from "../../../api/client";
import { colours } from "../../../app/theme";
import { ScoreView } from "../../../music/ScoreView";
import type { useRecorder } from "../../../recording/useRecorder";
import { Note } from "../../../ui/states";
import { clockWords } from "../../../ui/words";
import { Beat, followed, useBeats } from "./Beat";
import { SoundHint } from "./MicrophoneHelp";

interface Props {
  recorder: ReturnType<typeof useRecorder>;
  /** Engraved large, for the stand. */
  score: Schemas["ScoreOut"];
  /** The note that is to sound is lit up, in the tempo that was counted. */
  follow: boolean;
  sending: number | null;
  onStop: () => void;
}

/** While it happens: the count, then the beat and the music, large; the level; the one button that ends it; then the way to the house. */
export function RecordStage({ recorder, score, follow, sending, onStop }: Props) {
  const { stage: state, beat, seconds, safe, level } = recorder;
  const beats = useBeats(score, state === "recording" ? recorder.beganAt : null);
  const music = useRef<HTMLDivElement>(null);
  useTurning(music, score, followed(score, beats));
  if (sending !== null || state === "ending") return <OnItsWay safe={safe} share={sending ?? 0} />;
  return (
    <Box sx={{ display: "grid", gap: 2 }}>
      <Box sx={{ minHeight: { xs: 84, sm: 108 }, display: "grid", placeItems: "center" }}>
        {state === "counting" ? (
          <Typography
            aria-live="assertive"
            sx={{ fontFamily: "h1.fontFamily", fontSize: { xs: "4.4rem", sm: "6rem" }, lineHeight: 1, fontWeight: 600 }}
          >
            {score.count_in[beat - 1]?.word ?? "…"}
          </Typography>
        ) : (
          <Beat score={score} beats={beats} />
        )}
      </Box>
      <div ref={music}>
        {!score.hidden && (
          <ScoreView score={score} current={follow ? followed(score, beats) : null} showStrings={false} />
        )}
      </div>
      <Box
        sx={{
          position: "sticky",
          bottom: 0,
          bgcolor: colours.paper,
          py: 1.5,
          display: "grid",
          gap: 1.5,
          justifyItems: "center",
        }}
      >
        <Hint recorder={recorder} />
        {!safe && <Note>This device is full. Play on, and stay on this page until it has arrived.</Note>}
        <Box
          sx={{
            display: "flex",
            alignItems: "center",
            gap: 2,
            flexWrap: "wrap",
            justifyContent: "center",
            width: "100%",
          }}
        >
          <Level level={level} />
          <Typography sx={{ minWidth: 56, fontSize: "1.2rem" }}>{clockWords(Math.max(seconds, 0))}</Typography>
          <Button
            variant="contained"
            color="secondary"
            size="large"
            onClick={onStop}
            disabled={state !== "recording"}
            sx={{ fontSize: "1.35rem", px: 6, minHeight: 64 }}
          >
            I am done
          </Button>
        </Box>
      </Box>
    </Box>
  );
}

/** Where the music is longer than the page, the line of the beat is brought into sight. */
function useTurning(box: RefObject<HTMLDivElement | null>, score: Schemas["ScoreOut"], index: number | null) {
  const line = index === null ? -1 : score.systems.findIndex((own) => own.notes.some((note) => note.index === index));
  useEffect(() => {
    const own = line < 0 ? null : box.current?.querySelectorAll<HTMLElement>(".engraving")[line];
    if (own && document.documentElement.scrollHeight > window.innerHeight)
      own.scrollIntoView({ block: "center", behavior: prefersStill() ? "auto" : "smooth" });
  }, [box, line]);
}

const prefersStill = () => window.matchMedia("(prefers-reduced-motion: reduce)").matches;

function OnItsWay({ safe, share }: { safe: boolean; share: number }) {
  return (
    <Box sx={{ mt: 4, textAlign: "center" }} role="status">
      <Typography variant="h1" component="p" gutterBottom>
        On its way
      </Typography>
      <Typography sx={{ fontSize: "1.1rem", mb: 2 }}>
        {safe
          ? "It is kept on this device until it has arrived."
          : "This device has no room for it: stay on this page until it has arrived."}
      </Typography>
      <LinearProgress
        variant="determinate"
        value={share * 100}
        aria-label="Sending"
        sx={{ maxWidth: 420, mx: "auto", height: 8, borderRadius: 4 }}
      />
    </Box>
  );
}

const decibelsOf = (level: number) => 20 * Math.log10(Math.max(level, 1e-5));
const VERY_SOFT = -45;
const TOO_CLOSE = -1;
/** Not even the noise of a room: a switch on the device, for the most part. */
const NOTHING = -95;

/** What would make it easier to hear; once it has been so for a while, and never over the playing itself. */
function Hint({ recorder }: { recorder: ReturnType<typeof useRecorder> }) {
  const [loudest, setLoudest] = useState(0);
  const [clipped, setClipped] = useState(false);
  if (recorder.level > loudest) setLoudest(recorder.level);
  if (!clipped && decibelsOf(recorder.level) > TOO_CLOSE) setClipped(true);
  if (recorder.stage === "recording" && recorder.seconds > 1.5 && decibelsOf(loudest) < NOTHING)
    return <SoundHint words="I hear nothing at all. Is the microphone switched off, or covered?" />;
  if (clipped) return <SoundHint words="That is very loud. Put the microphone a little further away." />;
  if (recorder.stage === "recording" && recorder.seconds > 3 && decibelsOf(loudest) < VERY_SOFT)
    return <SoundHint words="You are very soft. Come nearer to the microphone." />;
  if (recorder.narrow)
    return <SoundHint words="This headset was made for speaking. The device’s own microphone hears you better." />;
  return null;
}

/** How loud it is: a bar on a scale of decibels, with words at its ends. */
function Level({ level }: { level: number }) {
  const decibels = decibelsOf(level);
  const share = Math.max(0, Math.min(1, (decibels + 60) / 60));
  const words = decibels < VERY_SOFT ? "very soft" : decibels > TOO_CLOSE ? "too close to the microphone" : "good";
  return (
    <Box
      role="meter"
      aria-label="Loudness"
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(share * 100)}
      aria-valuetext={words}
      sx={{ width: "min(320px, 60%)", height: 14, borderRadius: 7, bgcolor: colours.line, overflow: "hidden" }}
    >
      <Box
        sx={{ height: "100%", bgcolor: decibels > TOO_CLOSE ? colours.lantern : colours.spruce }}
        style={{ width: `${share * 100}%` }}
      />
    </Box>
  );
}
