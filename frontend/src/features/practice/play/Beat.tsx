import Box from "@mui/material/Box";
import { useEffect, useState } from "react";

import type { Schemas } from "../../../api/client";
import { colours } from "../../../app/theme";
import { noteAt, startOf } from "../../../music/following";

type Score = Schemas["ScoreOut"];

/** Quarter notes since the line began, in steps of its shortest note; null before it. Asked for once a frame, told when it changes. */
export function useBeats(score: Score, beganAt: number | null): number | null {
  const [beats, setBeats] = useState<number | null>(null);
  const grid = Math.min(score.pulse_beats, ...score.notes.map((note) => note.duration_beats)) / 2;
  useEffect(() => {
    if (beganAt === null) return;
    let frame = 0;
    const follow = () => {
      const since = ((performance.now() - beganAt) * score.tempo_bpm) / 60_000;
      setBeats(since < 0 ? null : Math.floor(since / grid) * grid);
      frame = requestAnimationFrame(follow);
    };
    frame = requestAnimationFrame(follow);
    return () => cancelAnimationFrame(frame);
  }, [beganAt, grid, score.tempo_bpm]);
  return beganAt === null ? null : beats;
}

/** Which note is to sound now. */
export const followed = (score: Score, beats: number | null) =>
  beats === null ? null : noteAt(score, beats + startOf(score));

/** The beats of a measure, large and quiet: one is lit. Seen and not heard. */
export function Beat({ score, beats }: { score: Score; beats: number | null }) {
  const count = Math.max(Math.round(score.measure_beats / score.pulse_beats), 1);
  const at = beats === null ? null : Math.floor((beats + startOf(score)) / score.pulse_beats + 1e-6);
  const lit = at === null ? null : ((at % count) + count) % count;
  return (
    <Box aria-hidden="true" sx={{ display: "flex", gap: { xs: 2, sm: 3 }, justifyContent: "center" }}>
      {Array.from({ length: count }, (_, place) => (
        <Box
          key={place}
          sx={{
            width: { xs: 34, sm: 46 },
            height: { xs: 34, sm: 46 },
            borderRadius: place === 0 ? 1.5 : "50%",
            border: `3px solid ${colours.ring}`,
            bgcolor: place === lit ? colours.spruce : "transparent",
            // Which one is lit is told by its colour alone: it stays where a device has colours of its own.
            forcedColorAdjust: "none",
          }}
        />
      ))}
    </Box>
  );
}
