import type { Schemas } from "../api/client";

type Score = Pick<Schemas["ScoreOut"], "notes" | "rests" | "rest_word">;
export type Words = "none" | "names" | "cues";

/** What is said at a place of the line (in quarter notes from its first full measure): the note's name, its cue word, a rest's own word;
 * nothing before the first and after the last. */
export function wordAt(score: Score, beats: number, kind: Words): string {
  if (kind === "none") return "";
  const within = (own: { start_beats: number; duration_beats: number }) =>
    beats >= own.start_beats && beats < own.start_beats + own.duration_beats;
  const note = score.notes.find(within);
  if (note) return kind === "names" ? note.spoken : (note.cue ?? note.spoken);
  return score.rests.some(within) ? score.rest_word : "";
}

/** The note that is to sound at a place of the line; the last one before it in a rest. */
export function noteAt(score: Pick<Score, "notes">, beats: number): number | null {
  const note = score.notes.findLast((own) => own.start_beats <= beats);
  return note?.index ?? null;
}

/** Where the line begins (a pickup stands before its first full measure), in quarter notes. */
export const startOf = (score: Score) => Math.min(...[...score.notes, ...score.rests].map((own) => own.start_beats));

/** How long the line is, in quarter notes. */
export const lengthOf = (score: Score) =>
  Math.max(...[...score.notes, ...score.rests].map((own) => own.start_beats + own.duration_beats)) - startOf(score);
