import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";

import type { Schemas } from "../api/client";
import { colours } from "../app/theme";
import type { ReportNote } from "./nests";

interface Props {
  report: Schemas["Report"];
  lit?: ReadonlySet<number>;
}

const WIDTH = 960;
const HEIGHT = 96;
const CURVE = 34;
const BEAT = 62;
const MARGIN = 8;

type Timed = ReportNote & { onset_s: number };

/** The beat, and where the notes fell: ticks where the pupil's own pulse put each note, dots where it came; above them
 * the tempo as it went, and the tempo that was set. A note of which it is not known when it came is left out. */
export function PulseStrip({ report, lit }: Props) {
  const notes = report.notes.filter((note): note is Timed => note.onset_s !== null && !note.moment_guessed);
  if (notes.length < 3) return null;
  const first = notes[0]!.onset_s;
  const last = notes.at(-1)!.onset_s;
  const x = (seconds: number) => MARGIN + ((seconds - first) / (last - first)) * (WIDTH - 2 * MARGIN);
  const curve = report.tempo.curve ?? [];
  const tempi = [...curve.map((point) => point.bpm), report.tempo.target_bpm];
  const [low, high] = [Math.min(...tempi) * 0.95, Math.max(...tempi) * 1.05];
  const y = (bpm: number) => CURVE - ((bpm - low) / (high - low)) * (CURVE - 8);
  const onset = new Map(notes.map((note) => [note.index, note.onset_s]));
  const points = curve.flatMap((point) => {
    const at = onset.get(point.index);
    return at === undefined ? [] : [`${x(at).toFixed(1)},${y(point.bpm).toFixed(1)}`];
  });
  const bars = notes.filter((note, at) => at === 0 || note.measure !== notes[at - 1]!.measure);
  return (
    <Box component="section" aria-label="Pulse" sx={{ mt: 2 }}>
      <Typography variant="h2" gutterBottom>
        Pulse
      </Typography>
      <Box sx={{ bgcolor: colours.card, border: `1px solid ${colours.line}`, borderRadius: 1, overflowX: "auto" }}>
        <svg
          viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
          style={{ display: "block", width: "100%", minWidth: 520 }}
          role="img"
          aria-label={words(report)}
        >
          <line
            x1={MARGIN}
            x2={WIDTH - MARGIN}
            y1={y(report.tempo.target_bpm)}
            y2={y(report.tempo.target_bpm)}
            stroke={colours.ring}
            strokeDasharray="5 4"
          />
          <text
            x={WIDTH - MARGIN}
            y={y(report.tempo.target_bpm) - 3}
            textAnchor="end"
            fontSize="11"
            fill={colours.quiet}
          >
            {report.tempo.target_bpm} set
          </text>
          <polyline points={points.join(" ")} fill="none" stroke={colours.spruce} strokeWidth="2" />
          {bars.map((note) => (
            <text
              key={note.index}
              x={x(note.onset_s)}
              y={HEIGHT - 5}
              textAnchor="middle"
              fontSize="11"
              fill={colours.quiet}
            >
              {note.measure}
            </text>
          ))}
          {notes.map((note) => {
            const expected = note.onset_s - (note.timing_ms ?? 0) / 1000;
            const home = Math.abs(note.timing_ms ?? 0) <= note.timing_tolerance_ms;
            const at = x(note.onset_s);
            return (
              <g key={note.index}>
                {lit?.has(note.index) && (
                  <rect x={at - 7} y={BEAT - 16} width="14" height="32" rx="3" fill={colours.lanternLight} />
                )}
                <line
                  x1={x(expected)}
                  x2={x(expected)}
                  y1={BEAT - 11}
                  y2={BEAT + 11}
                  stroke={colours.ring}
                  strokeWidth="2"
                />
                {home ? (
                  <circle cx={at} cy={BEAT} r="3.6" fill={colours.spruce} />
                ) : (
                  <circle cx={at} cy={BEAT} r="3.6" fill={colours.card} stroke={colours.lantern} strokeWidth="2" />
                )}
              </g>
            );
          })}
          {report.tempo.stops.map((stop) => {
            const end = onset.get(stop.index);
            if (end === undefined) return null;
            const start = x(end - stop.seconds);
            return (
              <g key={stop.index}>
                <rect
                  x={start}
                  y={BEAT - 11}
                  width={Math.max(x(end) - start - 6, 2)}
                  height="22"
                  fill={colours.lanternLight}
                />
                <text x={(start + x(end) - 6) / 2} y={BEAT + 4} textAnchor="middle" fontSize="11" fill={colours.ink}>
                  {stop.seconds.toFixed(1)} s
                </text>
              </g>
            );
          })}
        </svg>
      </Box>
    </Box>
  );
}

function words(report: Schemas["Report"]): string {
  const { played_bpm, target_bpm, drift_percent, stops } = report.tempo;
  const parts = [`played at ${Math.round(played_bpm ?? 0)}, ${target_bpm} set`];
  if (drift_percent !== null && Math.abs(drift_percent) >= 1)
    parts.push(`${Math.abs(Math.round(drift_percent))} % ${drift_percent > 0 ? "faster" : "slower"} at the end`);
  if (stops.length) parts.push(`${stops.length} ${stops.length === 1 ? "stop" : "stops"}`);
  return parts.join(", ");
}
