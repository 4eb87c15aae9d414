import type { Schemas } from "../api/client";
import { colours } from "../app/theme";
import { distanceMm } from "./placing";

interface Props {
  score: Schemas["ScoreOut"];
  notes: Schemas["ReportNote"][];
  stringLengthMm: number;
  lit: ReadonlySet<number>;
  /** For a child: without millimetres. */
  plain?: boolean;
}

const WIDTH = 800;
/** Narrower for a child, so that everything on it is larger. */
const PLAIN_WIDTH = 420;
const ROW = 30;
const LEFT = 40;

/** The same take in the hand: each string, where the finger belongs (a line), where it stood (a dot). */
export function Fingerboard({ score, notes, stringLengthMm, lit, plain = false }: Props) {
  const played = notes.flatMap((note) => {
    const written = score.notes[note.index];
    if (!written?.string || !written.finger || written.semitones === null || note.tuned_cents === null) return [];
    if (note.status !== "played" && note.status !== "wrong_pitch") return [];
    return [
      {
        ...note,
        string: written.string,
        finger: written.finger,
        semitones: written.semitones,
        cents: note.tuned_cents,
      },
    ];
  });
  if (!played.length) return null;
  const width = plain ? PLAIN_WIDTH : WIDTH;
  const strings = [...new Set(score.notes.flatMap((note) => (note.string ? [note.string] : [])))];
  const end = Math.max(...played.map((note) => distanceMm(stringLengthMm, note.semitones + 1.2)));
  const x = (mm: number) => LEFT + (mm / end) * (width - LEFT - 16);
  const height = strings.length * ROW + 44;
  const places = new Map(played.map((note) => [`${note.string}${note.semitones}`, note]));
  return (
    <svg
      viewBox={`0 0 ${width} ${height}`}
      width="100%"
      role="img"
      aria-label="The fingerboard: where each finger belongs and where it stood"
      style={{ display: "block" }}
    >
      <rect x={LEFT} y="8" width={width - LEFT - 8} height={strings.length * ROW + 8} fill={colours.moss} rx="3" />
      <line x1={LEFT} x2={LEFT} y1="6" y2={strings.length * ROW + 18} stroke={colours.edge} strokeWidth="4" />
      {strings.map((string, at) => (
        <g key={string}>
          <line x1={LEFT} x2={width - 8} y1={row(at)} y2={row(at)} stroke={colours.ring} strokeWidth="2" />
          <text x={LEFT - 20} y={row(at) + 5} fontSize="15" fontWeight="700" fill={colours.quiet}>
            {string}
          </text>
        </g>
      ))}
      {[...places.values()].map((note) => {
        const mm = distanceMm(stringLengthMm, note.semitones);
        const y = row(strings.indexOf(note.string));
        return (
          <g key={`${note.string}${note.semitones}`}>
            <line x1={x(mm)} x2={x(mm)} y1={y - 11} y2={y + 11} stroke={colours.ink} strokeWidth="2" />
            <text x={x(mm) + 4} y={y - 5} fontSize="11" fill={colours.quiet}>
              {note.finger}
            </text>
          </g>
        );
      })}
      {played.map((note) => (
        <circle
          key={note.index}
          cx={x(distanceMm(stringLengthMm, note.semitones + note.cents / 100))}
          cy={row(strings.indexOf(note.string))}
          r={lit.has(note.index) ? 6.5 : 5}
          fill={note.in_tune ? colours.spruce : colours.lantern}
          fillOpacity="0.75"
          stroke={colours.card}
        />
      ))}
      <text x={LEFT} y={height - 8} fontSize="12" fill={colours.quiet}>
        nut
      </text>
      <text x={width - 8} y={height - 8} fontSize="12" textAnchor="end" fill={colours.quiet}>
        towards the bridge{plain ? "" : ` · string ${Math.round(stringLengthMm)} mm`}
      </text>
    </svg>
  );
}

const row = (at: number) => 24 + at * ROW;
