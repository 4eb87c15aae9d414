import type { Schemas } from "../../../api/client";

type LineNote = Required<Schemas["LineNoteIn"]>;
type Pin = Schemas["PinIn"];

/** A line with its pins; every edit gives both, so that a pin stays with its note. */
export interface Edited {
  line: LineNote[];
  pins: Pin[];
}

const STEPS = "CDEFGAB";
const SEMITONES = [0, 2, 4, 5, 7, 9, 11];
const SHARPS = "FCGDAEB";
const NAME = /^([A-G])(##|#|bb|b)?([0-8])$/;
const SIGNS: Record<string, number> = { "##": 2, "#": 1, "": 0, b: -1, bb: -2 };
const LOWEST = 24;
const HIGHEST = 100;

/** Sharps counted up, flats counted down, as a signature has them. */
export function fifthsOf(tonic: string, minor: boolean): number {
  const sign = { "#": 7, b: -7 }[tonic[1] ?? ""] ?? 0;
  return SHARPS.indexOf(tonic[0]!) - 1 + sign - (minor ? 3 : 0);
}

/** What a signature does to a letter. */
export function alterOf(fifths: number, step: string): number {
  const at = SHARPS.indexOf(step);
  return fifths > 0 ? (at < fifths ? 1 : 0) : 6 - at < -fifths ? -1 : 0;
}

export function midiOf(name: string): number {
  const found = NAME.exec(name);
  if (!found) throw new Error(`${name} is no note`);
  return 12 * (Number(found[3]) + 1) + SEMITONES[STEPS.indexOf(found[1]!)]! + SIGNS[found[2] ?? ""]!;
}

const written = (step: string, alter: number, octave: number) =>
  `${step}${Object.keys(SIGNS).find((sign) => SIGNS[sign] === alter)!}${octave}`;

/** A key number spelt for a signature: its own note where it has one, else a sharp in sharp keys, a flat in flat ones. */
export function spelt(midi: number, fifths: number): string {
  const fit = [alterOf, () => 0, () => (fifths < 0 ? -1 : 1)].flatMap((alter) =>
    [...STEPS].flatMap((step, at) => {
      const own = alter(fifths, step);
      const octave = (midi - SEMITONES[at]! - own) / 12 - 1;
      return Number.isInteger(octave) ? [written(step, own, octave)] : [];
    }),
  );
  return fit[0]!;
}

/** The note of a letter that lies nearest to the one before it. */
export function nearest(step: string, fifths: number, before: string | null): string {
  const near = before ? midiOf(before) : 69;
  const octaves = [1, 2, 3, 4, 5, 6].map((octave) => written(step, alterOf(fifths, step), octave));
  return octaves.reduce((best, own) => (Math.abs(midiOf(own) - near) < Math.abs(midiOf(best) - near) ? own : best));
}

/** Which of the notes that are played a place of the line is, rests not counted. */
const noteIndex = (line: LineNote[], at: number) => line.slice(0, at).filter((note) => note.name !== null).length;

const moved = (pins: Pin[], from: number, by: number) =>
  pins.map((pin) => (pin.index >= from ? { ...pin, index: pin.index + by } : pin));

/** Puts a note or a rest in before place `at`; `place` pins it on the instrument on which it was pressed. */
export function insert({ line, pins }: Edited, at: number, note: LineNote, place?: Omit<Pin, "index">): Edited {
  const index = noteIndex(line, at);
  const shifted = note.name === null ? pins : moved(pins, index, 1);
  return {
    line: [...line.slice(0, at), at === 0 ? { ...note, slurred: false } : note, ...line.slice(at)],
    pins: place && note.name !== null ? [...shifted, { ...place, index }] : shifted,
  };
}

export function remove({ line, pins }: Edited, at: number): Edited {
  const index = noteIndex(line, at);
  const sounding = line[at]?.name !== null;
  const left = sounding ? pins.filter((pin) => pin.index !== index) : pins;
  return { line: line.filter((_, place) => place !== at), pins: sounding ? moved(left, index + 1, -1) : left };
}

/** Changes one note; another pitch takes its pins away. */
export function change({ line, pins }: Edited, at: number, part: Partial<LineNote>): Edited {
  const before = line[at]!;
  const next = { ...before, ...part };
  const list = line.map((note, place) => (place === at ? next : note));
  if ((before.name === null) !== (next.name === null)) {
    return insert(remove({ line, pins }, at), at, next);
  }
  const index = noteIndex(line, at);
  return { line: list, pins: next.name === before.name ? pins : pins.filter((pin) => pin.index !== index) };
}

/** A note moved by so many semitones, as far as there are notes. */
export function transposed(name: string, semitones: number, fifths: number): string {
  const midi = midiOf(name) + semitones;
  if (midi < LOWEST || midi > HIGHEST) return name;
  if (Math.abs(semitones) === 12) return name.replace(/\d$/, (octave) => String(Number(octave) + semitones / 12));
  return spelt(midi, fifths);
}
