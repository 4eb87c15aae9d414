import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useCallback, useState } from "react";

import { answer, api, type Schemas } from "../../../api/client";
import { colours } from "../../../app/theme";
import { momentForm } from "../../../recording/moment";
import { useMoments } from "../../../recording/useMoments";
import { Note } from "../../../ui/states";

type Reading = Schemas["StringReading"];

/** A quarter tone: as far as the picture goes. */
const MOST_CENTS = 50;

interface Props {
  strings: string[];
  /** The caution, for this instrument. */
  care: string;
  /** What was found of them earlier today. */
  known: Schemas["TunedString"][];
  onHeard: () => void;
}

/** Before playing: bow one open string after the other, and see which is in tune. */
export function TuningCheck({ strings, care, known, onHeard }: Props) {
  const [readings, setReadings] = useState<Record<string, Reading>>({});
  const [last, setLast] = useState<Reading | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const onMoment = useCallback(
    async (samples: Float32Array, sampleRate: number) => {
      const form = momentForm(samples, sampleRate);
      const body = form as unknown as Schemas["MomentUpload"];
      try {
        const reading = await answer(api.POST("/api/tuning-check", { body, bodySerializer: () => form }));
        setProblem(null);
        if (reading.string === null) return;
        setLast(reading);
        setReadings((before) => ({ ...before, [reading.string!]: reading }));
        onHeard();
      } catch (error) {
        setProblem((error as Error).message);
      }
    },
    [onHeard],
  );
  const moments = useMoments(onMoment);
  return (
    <Box component="section" aria-label="Tuning check">
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 2, alignItems: "center" }}>
        <Button
          variant="outlined"
          size="large"
          onClick={() => (moments.listening ? moments.stop() : void moments.start())}
        >
          {moments.listening ? "Stop listening" : "Listen to my strings"}
        </Button>
        <Box sx={{ display: "flex", gap: { xs: 1, sm: 2 } }}>
          {strings.map((string) => {
            const now = readings[string];
            const before = known.find((own) => own.string === string);
            return (
              <StringNest
                key={string}
                string={string}
                cents={now?.cents ?? before?.cents ?? null}
                home={now ? now.word === "in tune" : (before?.in_tune ?? false)}
                now={last?.string === string}
              />
            );
          })}
        </Box>
      </Box>
      {moments.listening && (
        <Typography role="status" sx={{ fontSize: "1.15rem", mt: 1 }}>
          {last?.words ?? "Play one open string, long and quiet."}
        </Typography>
      )}
      <Typography sx={{ color: "text.secondary", mt: 0.5 }}>{care}</Typography>
      {(moments.problem ?? problem) && <Note>{moments.problem ?? problem}</Note>}
    </Box>
  );
}

/** One string: a ring, and where its sound lies; up is high. */
function StringNest({
  string,
  cents,
  home,
  now,
}: {
  string: string;
  cents: number | null;
  home: boolean;
  now: boolean;
}) {
  const away = Math.max(-1, Math.min(1, (cents ?? 0) / MOST_CENTS));
  const label =
    cents === null
      ? `${string}: not heard yet`
      : `${string}: ${home ? "in tune" : `${Math.abs(Math.round(cents))} cents ${cents < 0 ? "low" : "high"}`}`;
  return (
    <svg width="58" height="92" viewBox="0 0 58 92" role="img" aria-label={label}>
      <line x1="29" x2="29" y1="6" y2="66" stroke={colours.ring} strokeWidth={now ? 4 : 2} />
      <circle cx="29" cy="36" r="11" fill={home ? colours.moss : colours.card} stroke={colours.ring} strokeWidth="2" />
      {cents !== null && (
        <circle
          cx="29"
          cy={36 - 28 * away}
          r="6"
          fill={home ? colours.spruce : colours.card}
          stroke={home ? colours.spruce : colours.lantern}
          strokeWidth="2.5"
        />
      )}
      <text x="29" y="87" textAnchor="middle" fontSize="17" fontWeight="700" fill={now ? colours.ink : colours.quiet}>
        {string}
      </text>
    </svg>
  );
}
