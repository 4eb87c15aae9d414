import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";

import type { Schemas } from "../../../api/client";
import { Few } from "../../../ui/Few";

const WAY_WORDS: Record<Schemas["Way"], string> = {
  "sing it": "Sing it first, with the note names or on la. Nothing is recorded yet.",
  "pluck it": "Pluck it, and listen to each note. Nothing is recorded yet.",
  "bow it": "Now with the bow.",
};

/** Sing, pluck, bow: one exercise in its steps; the last of them is recorded. */
export function Ways({ ways, at, onPick }: { ways: Schemas["Way"][]; at: number; onPick: (at: number) => void }) {
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
