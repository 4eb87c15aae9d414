import type { Schemas } from "../../api/client";

export type RubricWord = Schemas["Rubric"]["word"];

export const rubricWords: Record<RubricWord, string> = { not_yet: "not yet", nearly: "nearly", yes: "yes" };

export const RUBRIC: readonly (readonly [RubricWord, string])[] = [
  ["not_yet", "not yet"],
  ["nearly", "nearly"],
  ["yes", "yes"],
];
