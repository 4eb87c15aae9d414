import { describe, expect, it } from "vitest";

import { alterOf, change, fifthsOf, insert, midiOf, nearest, remove, spelt, transposed } from "./editing";

const note = (name: string | null, beats = "1") => ({ name, beats, slurred: false });
const pin = (index: number) => ({ instrument: "violin" as const, index, string: "D" as const, finger: 2 });

describe("names and numbers", () => {
  it("signatures are those of the circle of fifths", () => {
    expect(["C", "G", "D", "F", "Bb", "Eb"].map((tonic) => fifthsOf(tonic, false))).toEqual([0, 1, 2, -1, -2, -3]);
    expect(["A", "E", "D", "C"].map((tonic) => fifthsOf(tonic, true))).toEqual([0, 1, -1, -3]);
    expect([alterOf(2, "F"), alterOf(2, "C"), alterOf(2, "G"), alterOf(-2, "B"), alterOf(-2, "A")]).toEqual([
      1, 1, 0, -1, 0,
    ]);
  });
  it("middle C is 60 and A4 is 69, as MIDI has them", () => {
    expect(["C4", "A4", "Bb3", "F#4", "E#4", "Cb4"].map(midiOf)).toEqual([60, 69, 58, 66, 65, 59]);
  });
  it("spells for the key", () => {
    expect([spelt(66, 2), spelt(66, -2), spelt(70, -2), spelt(65, 2), spelt(60, 2)]).toEqual([
      "F#4",
      "Gb4",
      "Bb4",
      "F4",
      "C4",
    ]);
  });
  it("a letter is the nearest note of the key", () => {
    expect(nearest("F", 2, "D4")).toBe("F#4");
    expect(nearest("D", 0, "C5")).toBe("D5");
    expect(nearest("A", 0, null)).toBe("A4");
  });
  it("moves by a half step and by an octave, and not out of the world", () => {
    expect(transposed("F#4", 1, 2)).toBe("G4");
    expect(transposed("Bb3", 12, -2)).toBe("Bb4");
    expect(transposed("C1", -1, 0)).toBe("C1");
  });
});

describe("a line and its pins", () => {
  const three = { line: [note("D4"), note(null), note("F#4")], pins: [pin(1)] };
  it("a pin goes with its note when another is put in before it", () => {
    expect(insert(three, 0, note("A4")).pins).toEqual([pin(2)]);
    expect(insert(three, 3, note("A4")).pins).toEqual([pin(1)]);
    expect(insert(three, 1, note(null)).pins).toEqual([pin(1)]);
  });
  it("what is pressed on a string is pinned there", () => {
    const place = { instrument: "violin" as const, string: "D" as const, finger: 2 };
    expect(insert(three, 3, note("E4"), place).pins).toEqual([pin(1), pin(2)]);
  });
  it("a note that is taken out takes its pin with it", () => {
    expect(remove(three, 0).pins).toEqual([pin(0)]);
    expect(remove(three, 2).pins).toEqual([]);
    expect(remove(three, 1)).toEqual({ line: [note("D4"), note("F#4")], pins: [pin(1)] });
  });
  it("another pitch is not pinned, another length still is, a rest moves what follows", () => {
    expect(change(three, 2, { name: "G4" }).pins).toEqual([]);
    expect(change(three, 2, { beats: "2" }).pins).toEqual([pin(1)]);
    expect(change(three, 0, { name: null }).pins).toEqual([pin(0)]);
  });
});
