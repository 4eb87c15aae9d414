import Box from "@mui/material/Box";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import Typography from "@mui/material/Typography";

import type { Schemas } from "../../../api/client";
import type { Asked } from "../../../recording/keep";
import { pieceWords } from "../../../ui/pieces";
import { useSay } from "../../../ui/vocabulary";
import type { Room } from "../useRoom";

type Bars = Asked["bars"];
const keyOf = (bars: Bars) => (bars ? `${bars.first}-${bars.last}` : "");

interface Props {
  room: Room;
  bars: Bars;
  onPick: (bars: Bars) => void;
}

/** All of the line, or a piece of it: the bar that went worst and then its neighbours, or from the end. */
export function Pieces({ room, bars, onPick }: Props) {
  const say = useSay();
  if (room.bars < 2) return null;
  const rows: [string, Schemas["Bars"][]][] = [
    ["The hard place, then with its neighbours", room.hardest],
    ["From the end", room.from_the_end],
  ];
  const pick = (key: string | null) => {
    const [first, last] = (key ?? "").split("-").map(Number);
    onPick(first && last ? { first, last } : undefined);
  };
  const button = (own: Bars) => (
    <ToggleButton key={keyOf(own)} value={keyOf(own)} sx={{ minHeight: 48 }}>
      {own ? say(pieceWords(own)) : "The whole line"}
    </ToggleButton>
  );
  return (
    <Box sx={{ display: "grid", gap: 1 }}>
      <ToggleButtonGroup
        exclusive
        value={keyOf(bars)}
        onChange={(_, key: string | null) => pick(key)}
        aria-label="All of it"
      >
        {button(undefined)}
      </ToggleButtonGroup>
      {rows.map(
        ([name, pieces]) =>
          pieces.length > 0 && (
            <Box key={name}>
              <Typography sx={{ color: "text.secondary", mb: 0.5 }}>{name}</Typography>
              <ToggleButtonGroup
                exclusive
                value={keyOf(bars)}
                onChange={(_, key: string | null) => pick(key)}
                aria-label={name}
              >
                {pieces.map(button)}
              </ToggleButtonGroup>
            </Box>
          ),
      )}
    </Box>
  );
}
