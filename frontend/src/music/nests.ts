import type { Schemas } from "../api/client";

export type ReportNote = Schemas["ReportNote"];
export type ScoreNote = Schemas["ScoreNoteOut"];
export type NestState = "home" | "away" | "wrong" | "missed" | "unclear";

export interface NestShape {
  index: number;
  state: NestState;
  /** Place of the dot in ring radii: right is late, down is flat. */
  dx: number;
  dy: number;
  /** The dot lies further out than it is drawn. */
  clamped: boolean;
}

/** How far out a dot may be drawn, in ring radii. */
export const REACH = 1.75;

/** Where a note's dot lands in its nest. The ring is the tolerance, so that it means the same for every note; whether it is
 * home is the report's word. */
export function nestShape(note: ReportNote): NestShape {
  if (note.status === "missed") return { index: note.index, state: "missed", dx: 0, dy: 0, clamped: false };
  const x = (note.timing_ms ?? 0) / note.timing_tolerance_ms;
  const y = -(note.tuned_cents ?? 0) / note.pitch_tolerance_cents;
  const distance = Math.hypot(x, y);
  const scale = distance > REACH ? REACH / distance : 1;
  const state =
    note.status === "unclear" ? "unclear" : note.status === "wrong_pitch" ? "wrong" : note.home ? "home" : "away";
  // Both within tolerance is home, even in the corner of the square: draw it inside the ring.
  const inside = state === "home" && distance > 0.86 ? 0.86 / distance : scale;
  return { index: note.index, state, dx: x * inside, dy: y * inside, clamped: distance > REACH };
}

/** The notes with the tuning of the strings left in, as they sounded. */
export function asHeard(notes: ReportNote[]): ReportNote[] {
  return notes.map((note) => ({ ...note, tuned_cents: note.cents, home: note.home_as_heard }));
}

const OVERRULED = { home: "it is home", away: "it is not home yet", missed: "it was left out" };
const FINGERS = ["open string", "first finger", "second finger", "third finger", "fourth finger"];
const STEPS = ["C", "C sharp", "D", "E flat", "E", "F", "F sharp", "G", "A flat", "A", "B flat", "B"];

export function placeWords(note: { string: string | null; finger: number | null }): string {
  if (note.string === null || note.finger === null) return "";
  return note.finger === 0 ? `open ${note.string} string` : `${FINGERS[note.finger]} on ${note.string}`;
}

/** Why a note could not be judged. */
const UNSURE: Record<string, string> = {
  noise: "too much noise around it",
  short: "too short to hear",
  joined: "one of several fast strokes",
  held: "the note before sounds on",
  which: "it may be this note or the one beside it",
  pitch: "no clear pitch, or two at once",
  faint: "so faint that something else may have sounded",
};

/** A note's nest in words, for pointing, for the keyboard and for ears: "C sharp, second finger on A: 30 cents low, on time". */
export function noteWords(note: ReportNote, spoken: string): string {
  const place = placeWords(note);
  const name = place ? `${spoken}, ${place}` : spoken;
  if (note.overruled) return `${name}: by the teacher's ear ${OVERRULED[note.overruled]}`;
  if (note.status === "missed") return `${name}: ${note.reason === "not_come_to" ? "not come to" : "not heard"}`;
  const parts: string[] = [];
  if (note.status === "unclear") parts.push(["not sure", UNSURE[note.reason ?? ""]].filter(Boolean).join(", "));
  else if (note.status === "wrong_pitch" && note.heard_midi !== null)
    parts.push(`sounded like ${STEPS[Math.round(note.heard_midi) % 12]}`);
  else if (note.tuned_cents !== null)
    parts.push(note.in_tune ? "in tune" : sideWords(note.tuned_cents, "cents", "high", "low"));
  if (note.timing_ms !== null) parts.push(note.on_time ? "on time" : sideWords(note.timing_ms, "ms", "late", "early"));
  return `${name}: ${parts.join(", ")}`;
}

function sideWords(value: number, unit: string, over: string, under: string): string {
  return `${Math.abs(Math.round(value))} ${unit} ${value > 0 ? over : under}`;
}

/** Radius that lets neighbouring nests stand apart. xs: places of the notes in pixels, in order. */
export function nestRadius(xs: number[], largest: number): number {
  let least = Infinity;
  for (let at = 1; at < xs.length; at++) least = Math.min(least, Math.abs(xs[at]! - xs[at - 1]!));
  return Math.max(4.5, Math.min(largest, least * 0.42));
}

export interface StringBand {
  string: string;
  from: number;
  to: number;
}

/** Runs of notes on one string: note indices, both ends included. */
export function stringBands(notes: ScoreNote[]): StringBand[] {
  const bands: StringBand[] = [];
  for (const note of notes) {
    if (note.string === null) continue;
    const last = bands.at(-1);
    if (last && last.string === note.string && last.to === note.index - 1) last.to = note.index;
    else bands.push({ string: note.string, from: note.index, to: note.index });
  }
  return bands;
}
