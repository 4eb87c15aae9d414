import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";

import type { Room } from "../useRoom";

const STEP = 4;

interface Props {
  room: Room;
  bpm: number;
  onPick: (bpm: number) => void;
  label: string;
}

/** The tempo, a step slower or faster, and never over the target. */
export function Tempo({ room, bpm, onPick, label }: Props) {
  const slower = Math.max(room.lowest_bpm, bpm - STEP);
  const faster = Math.min(room.target_bpm, bpm + STEP);
  return (
    <Box role="group" aria-label={label} sx={{ display: "flex", alignItems: "center", gap: 1.5, flexWrap: "wrap" }}>
      <Button variant="outlined" disabled={slower === bpm} onClick={() => onPick(slower)} sx={{ minWidth: 100 }}>
        Slower
      </Button>
      <Typography aria-live="polite" sx={{ fontSize: "1.3rem", fontWeight: 700, minWidth: 48, textAlign: "center" }}>
        {Math.round(bpm)}
      </Typography>
      <Button variant="outlined" disabled={faster === bpm} onClick={() => onPick(faster)} sx={{ minWidth: 100 }}>
        Faster
      </Button>
      <Typography sx={{ color: "text.secondary" }}>
        {bpm < room.target_bpm ? `on the way to ${Math.round(room.target_bpm)}` : "this is the tempo that is set"}
      </Typography>
    </Box>
  );
}
