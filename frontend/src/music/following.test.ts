import { describe, expect, it } from "vitest";

import { lengthOf, noteAt, startOf, wordAt } from "./following";

const note = (index: number, start_beats: number, duration_beats: number, spoken: string, cue: string | null) => ({
  index, start_beats, duration_beats, spoken, cue, name: spoken, midi: 62, measure: 1, string: "D", finger: 0, position: "1",
  semitones: 0, mark: null,
}); // prettier-ignore
const score = {
  notes: [note(0, -1, 1, "A", "off"), note(1, 0, 1, "D", "ferry"), note(2, 2, 2, "F sharp", null)],
  rests: [{ start_beats: 1, duration_beats: 1 }],
  rest_word: "hush",
};

describe("what is said in time", () => {
  it("is the name of the note, its cue word, or the word of a rest", () => {
    expect([-1.2, -1, 0, 1.5, 2, 3.99, 4].map((at) => wordAt(score, at, "names"))).toEqual([
      "",
      "A",
      "D",
      "hush",
      "F sharp",
      "F sharp",
      "",
    ]);
    // A note without a cue word is called by its name.
    expect([-1, 0, 1.5, 2].map((at) => wordAt(score, at, "cues"))).toEqual(["off", "ferry", "hush", "F sharp"]);
    expect(wordAt(score, 0, "none")).toBe("");
  });

  it("follows the notes, and stays on the last one in a rest", () => {
    expect([-2, -1, 0.5, 1.5, 2, 9].map((at) => noteAt(score, at))).toEqual([null, 0, 1, 1, 2, 2]);
    expect([startOf(score), lengthOf(score)]).toEqual([-1, 5]);
  });
});
