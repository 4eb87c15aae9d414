import Box from "@mui/material/Box";
import FormControlLabel from "@mui/material/FormControlLabel";
import Switch from "@mui/material/Switch";
import Typography from "@mui/material/Typography";

import type { Asked } from "../../../recording/keep";
import { Few } from "../../../ui/Few";
import type { Room } from "../useRoom";
import { Pieces } from "./Pieces";
import { FOCI } from "./words";

const FOCUS: readonly ["all" | "tune" | "time", string][] = [
  ["all", "All of it"],
  ["tune", FOCI.tune.name],
  ["time", FOCI.time.name],
];

interface Props {
  room: Room;
  bars: Asked["bars"];
  mode: Room["mode"];
  focus: "all" | "tune" | "time";
  /** The line is to be played by ear: its bars can not be chosen. */
  hidden: boolean;
  follow: boolean;
  beatHeard: boolean;
  stopsItself: boolean;
  onChange: (change: Partial<Asked>) => void;
  onFollow: (on: boolean) => void;
  onBeatHeard: (on: boolean) => void;
  onStopsItself: (on: boolean) => void;
}

/** What may be chosen beside the tempo, out of the way until somebody looks for it. */
export function OtherWays(props: Props) {
  const { room, bars, mode, focus, hidden, follow, beatHeard, stopsItself } = props;
  const { onChange, onFollow, onBeatHeard, onStopsItself } = props;
  return (
    <Box component="details">
      <Box component="summary" sx={{ fontSize: "1.15rem", cursor: "pointer", py: 1.25 }}>
        Another way to practise it
      </Box>
      <Box sx={{ display: "grid", gap: 2, mt: 1 }}>
        {!hidden && <Pieces room={room} bars={bars} onPick={(own) => onChange({ bars: own })} />}
        <Box>
          <Typography sx={{ color: "text.secondary", mb: 0.5 }}>One thing at a time</Typography>
          <Few
            label="One thing at a time"
            value={focus}
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
          <Choice label="Show me where I am while I play" on={follow} onSwitch={onFollow} />
          <Choice label="Let me hear the beat (only with headphones, and low)" on={beatHeard} onSwitch={onBeatHeard} />
          <Choice label="Stop by itself after the last note" on={stopsItself} onSwitch={onStopsItself} />
        </Box>
      </Box>
    </Box>
  );
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
