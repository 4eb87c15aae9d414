import Box from "@mui/material/Box";
import { Link } from "react-router";

import type { Schemas } from "../../api/client";
import { colours } from "../../app/theme";
import { dayWords } from "../../ui/words";

type Go = Schemas["GoOnTheWay"];
const APART = 38;
const LEFT = 40;
const TALL = 150;
const FLAT = 56;
const EDGE = 24;
const SHOWN = 24;

/** Own way with an exercise: a nest for each go, the faster the higher, its egg the larger the more notes were home; a good one is framed. */
export function WayPicture({ goes }: { goes: Go[] }) {
  const shown = goes.slice(-SHOWN);
  const tempos = shown.map((own) => own.bpm);
  const [low, high] = [Math.min(...tempos), Math.max(...tempos)];
  const height = high === low ? FLAT : TALL;
  const y = (bpm: number) =>
    high === low ? height / 2 : height - EDGE - ((bpm - low) / (high - low)) * (height - 2 * EDGE);
  const places = shown.map((own, at) => ({ own, x: LEFT + at * APART + APART / 2, y: y(own.bpm) }));
  return (
    <>
      <Box sx={{ overflowX: "auto" }} tabIndex={0} role="group" aria-label="The way from go to go">
        <svg width={LEFT + shown.length * APART + 8} height={height} role="img" aria-label={words(shown)}>
          {[...new Set([low, high])].map((bpm) => (
            <text key={bpm} x="0" y={y(bpm) + 5} fontSize="14" fill={colours.quiet}>
              {Math.round(bpm)}
            </text>
          ))}
          <polyline
            points={places.map((own) => `${own.x},${own.y}`).join(" ")}
            fill="none"
            stroke={colours.line}
            strokeWidth="2"
          />
          {places.map(({ own, x, y: at }) => (
            <g key={own.id}>
              {own.good && (
                <rect
                  x={x - 15}
                  y={at - 15}
                  width="30"
                  height="30"
                  rx="7"
                  fill="none"
                  stroke={colours.spruce}
                  strokeWidth="2"
                />
              )}
              <circle cx={x} cy={at} r="11" fill={colours.card} stroke={colours.ring} strokeWidth="2" />
              <circle cx={x} cy={at} r={1.5 + 7.5 * own.home_share} fill={colours.spruce} />
              <title>{goWords(own)}</title>
            </g>
          ))}
        </svg>
      </Box>
      <Box component="details">
        <Box component="summary" sx={{ py: 1.25, cursor: "pointer" }}>
          Go by go
        </Box>
        <Box component="ol" sx={{ m: 0, pl: 3 }}>
          {shown.map((own) => (
            <Box component="li" key={own.id} sx={{ py: 0.75 }}>
              <Box component={Link} to={`/takes/${own.id}`} sx={{ color: colours.spruce }}>
                {goWords(own)}
              </Box>
            </Box>
          ))}
        </Box>
      </Box>
    </>
  );
}

const goWords = (own: Go) =>
  `${dayWords(own.recorded_at)}, at ${Math.round(own.bpm)}: ${Math.round(100 * own.home_share)} % home${own.good ? ", a good go" : ""}`;

function words(goes: Go[]): string {
  const first = goes[0]!;
  const last = goes.at(-1)!;
  if (first === last) return `One go, ${goWords(first)}.`;
  return `${goes.length} goes, from ${goWords(first)}, to ${goWords(last)}.`;
}
