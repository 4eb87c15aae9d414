import type { Schemas } from "../../api/client";

/** A recipe with every choice made. */
export type Recipe = Required<Schemas["Recipe"]>;
export type Family = Schemas["FamilyOut"];
export type InstrumentKey = Schemas["ScoreOut"]["instrument"];
export const ALL: InstrumentKey[] = ["violin", "viola", "cello", "bass"];
/** Puts a choice; changes of one kind (a slider that is drawn) are one step of undo. */
export type Change = (part: Partial<Recipe>, kind?: string) => void;

const NO_PINS: Recipe["pins"] = [];

/** Pins belong to note numbers; they only stay while the line keeps its notes. */
const KEEPS_NOTES: ReadonlySet<keyof Recipe> = new Set([
  "tempo_bpm",
  "pins",
  "cue",
  "fourth_finger",
  "bowing",
  "pickup",
  "bow_part",
  "dynamic",
  "fingers",
  "slows",
  "ways",
  "signs",
]);

export function changed(before: Recipe, part: Partial<Recipe>): Recipe {
  const keeps = (Object.keys(part) as (keyof Recipe)[]).every((key) => KEEPS_NOTES.has(key));
  return { ...before, ...(keeps ? {} : { pins: NO_PINS }), ...part };
}

/** The meter that a pattern is written in, the one before if it serves. */
export function meterFor(pattern: Schemas["PatternOut"] | undefined, before: Recipe["meter"]): Recipe["meter"] {
  return !pattern || pattern.meters.includes(before) ? before : pattern.meters[0]!;
}

export function pin(
  recipe: Recipe,
  own: Schemas["PinIn"] | { instrument: string; index: number; clear: true },
): Recipe {
  const others = recipe.pins.filter((p) => p.instrument !== own.instrument || p.index !== own.index);
  return { ...recipe, pins: "clear" in own ? others : [...others, own] };
}

/** Where the line lies on one instrument; what is as the program would have it is not kept. */
export function registered(recipe: Recipe, own: Required<Schemas["RegisterIn"]>): Partial<Recipe> {
  const others = recipe.registers.filter((one) => one.instrument !== own.instrument);
  return { registers: own.start || own.drop_after ? [...others, own] : others };
}

export const groupWords: Record<Family["group"], string> = {
  scales: "Scales and arpeggios",
  rhythm: "Rhythm",
  intonation: "Intonation",
  phrases: "Phrases",
};
