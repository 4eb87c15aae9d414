import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import LinearProgress from "@mui/material/LinearProgress";
import Typography from "@mui/material/Typography";

import { colours } from "../../app/theme";
import type { Schemas } from "../../api/client";
import type { useRecorder } from "../../recording/useRecorder";
import { Note } from "../../ui/states";
import { clockWords } from "../../ui/words";

interface Props {
  recorder: ReturnType<typeof useRecorder>;
  /** Of the count. */
  words: Schemas["CountWordOut"][];
  sending: number | null;
  onStop: () => void;
}

/** While it happens: the count, the level, the one button that ends it; then the way to the teacher. */
export function RecordStage({ recorder, words, sending, onStop }: Props) {
  const { stage: state, beat, level, seconds, safe } = recorder;
  if (sending !== null || state === "ending") {
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
          value={(sending ?? 0) * 100}
          aria-label="Sending"
          sx={{ maxWidth: 420, mx: "auto", height: 8, borderRadius: 4 }}
        />
      </Box>
    );
  }
  return (
    <Box sx={{ mt: 3, display: "grid", justifyItems: "center", gap: 2 }}>
      <Typography
        aria-live="assertive"
        sx={{
          fontFamily: "h1.fontFamily",
          fontSize: state === "counting" ? "6rem" : "2.2rem",
          lineHeight: 1.1,
          fontWeight: 600,
          minHeight: "6.6rem",
          display: "grid",
          placeItems: "center",
        }}
      >
        {state === "counting" ? (words[beat - 1]?.word ?? "…") : `Listening  ${clockWords(seconds)}`}
      </Typography>
      <Level level={level} />
      {!safe && <Note>This device is full. Play on, and stay on this page until it has arrived.</Note>}
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
  );
}

/** How loud it is: a bar on a scale of decibels, with words at its ends. */
function Level({ level }: { level: number }) {
  const decibels = 20 * Math.log10(Math.max(level, 1e-4));
  const share = Math.max(0, Math.min(1, (decibels + 60) / 60));
  const words = decibels < -45 ? "very soft" : decibels > -1 ? "too close to the microphone" : "good";
  return (
    <Box sx={{ width: "min(420px, 90%)" }}>
      <Box
        role="meter"
        aria-label="Loudness"
        aria-valuemin={0}
        aria-valuemax={100}
        aria-valuenow={Math.round(share * 100)}
        aria-valuetext={words}
        sx={{ height: 14, borderRadius: 7, bgcolor: colours.line, overflow: "hidden" }}
      >
        <Box
          sx={{ height: "100%", bgcolor: decibels > -1 ? colours.lantern : colours.spruce }}
          style={{ width: `${share * 100}%` }}
        />
      </Box>
      <Typography sx={{ color: "text.secondary", textAlign: "center" }}>{words}</Typography>
    </Box>
  );
}
