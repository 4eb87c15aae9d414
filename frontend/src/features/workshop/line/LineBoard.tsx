import Box from "@mui/material/Box";

import type { Schemas } from "../../../api/client";
import { colours } from "../../../app/theme";
import { distanceMm } from "../../../music/placing";
import { spelt } from "./editing";

type InstrumentOut = Schemas["InstrumentOut"];

interface Props {
  instrument: InstrumentOut;
  fifths: number;
  onPress: (string: InstrumentOut["strings"][number], place: InstrumentOut["hand"][number]) => void;
}

const WIDTH = 330;
const ROW = 34;
const LEFT = 46;
const TALL = 30;

/** The fingerboard in first position, as the player sees it lying on its side: a press puts the note in. */
export function LineBoard({ instrument, fifths, onPress }: Props) {
  const strings = [...instrument.strings].reverse();
  const stopped = instrument.hand.filter((place) => place.semitones > 0);
  const last = Math.max(...stopped.map((place) => place.semitones));
  const end = distanceMm(1, last + 0.7);
  const x = (semitones: number) =>
    semitones === 0 ? LEFT / 2 : LEFT + (distanceMm(1, semitones) / end) * (WIDTH - LEFT);
  return (
    <Box
      component="svg"
      viewBox={`0 0 ${WIDTH} ${strings.length * ROW + 8}`}
      role="group"
      aria-label={`Fingerboard of the ${instrument.name.toLowerCase()}, first position`}
      sx={{ width: "100%", display: "block", "& [role=button]": { cursor: "pointer" } }}
    >
      <rect x={LEFT} y="2" width={WIDTH - LEFT} height={strings.length * ROW + 4} fill={colours.moss} rx="3" />
      <line x1={LEFT} x2={LEFT} y1="0" y2={strings.length * ROW + 8} stroke={colours.edge} strokeWidth="4" />
      {strings.map((string, at) => {
        const y = at * ROW + ROW / 2 + 4;
        return (
          <g key={string.name}>
            <line x1={LEFT} x2={WIDTH} y1={y} y2={y} stroke={colours.ring} strokeWidth={1.5 + at * 0.7} />
            {instrument.hand.map((place) => {
              const name = spelt(string.midi + place.semitones, fifths);
              const press = () => onPress(string, place);
              return (
                <g
                  key={place.semitones}
                  role="button"
                  tabIndex={-1}
                  aria-label={`${name}, ${place.finger === 0 ? "open" : `finger ${place.finger} on`} ${string.name}`}
                  onClick={press}
                >
                  <rect x={x(place.semitones) - 15} y={y - TALL / 2} width="30" height={TALL} fill="transparent" />
                  <circle cx={x(place.semitones)} cy={y} r="12.5" fill={colours.card} stroke={colours.ring} />
                  <text x={x(place.semitones)} y={y + 4} textAnchor="middle" fontSize="11.5" fill={colours.ink}>
                    {name.replace(/\d$/, "").replace("#", "♯").replace("b", "♭")}
                  </text>
                </g>
              );
            })}
          </g>
        );
      })}
    </Box>
  );
}
