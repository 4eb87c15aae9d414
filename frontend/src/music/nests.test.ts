import { describe, expect, it } from "vitest";

import { nestRadius, nestShape, noteWords, type ReportNote, REACH, stringBands } from "./nests";

const note: ReportNote = {
  index: 6,
  measure: 2,
  beat: 3,
  midi: 73,
  name: "C#5",
  string: "A",
  finger: 2,
  status: "played",
  reason: null,
  heard_midi: 72.7,
  cents: -30,
  tuned_cents: -30,
  approach_cents: null,
  onset_s: 4.2,
  offset_s: 5,
  timing_ms: 10,
  duration_ratio: 1,
  confidence: 0.97,
  pitch_tolerance_cents: 25,
  timing_tolerance_ms: 90,
  in_tune: false,
  on_time: true,
  home: false,
  home_as_heard: false,
  overruled: null,
};

describe("a nest", () => {
  it("puts a flat note under the middle and a late one to the right", () => {
    const shape = nestShape(note);
    expect(shape.state).toBe("away");
    expect(shape.dy).toBeGreaterThan(1);
    expect(shape.dx).toBeGreaterThan(0);
  });

  it("is home when both are within tolerance, and then the dot is drawn inside the ring", () => {
    const shape = nestShape({ ...note, tuned_cents: -24, timing_ms: 85, in_tune: true, home: true });
    expect(shape.state).toBe("home");
    expect(Math.hypot(shape.dx, shape.dy)).toBeLessThan(1);
  });

  it("means the same at every tolerance", () => {
    const wide = nestShape({ ...note, tuned_cents: -60, pitch_tolerance_cents: 50 });
    expect(wide.dy).toBeCloseTo(nestShape(note).dy);
  });

  it("clamps what is far out, and says so", () => {
    const shape = nestShape({ ...note, tuned_cents: 120, status: "wrong_pitch" });
    expect(shape.clamped).toBe(true);
    expect(Math.hypot(shape.dx, shape.dy)).toBeCloseTo(REACH);
  });

  it("is empty for a missed note", () => {
    expect(nestShape({ ...note, status: "missed", cents: null, timing_ms: null }).state).toBe("missed");
  });
});

describe("words", () => {
  it("name the note, the place, the pitch and the time", () => {
    expect(noteWords(note, "C sharp")).toBe("C sharp, second finger on A: 30 cents low, on time");
  });
  it("name the note that a wrong one sounded like", () => {
    expect(noteWords({ ...note, status: "wrong_pitch", heard_midi: 72.02 }, "C sharp")).toContain("sounded like C");
  });
  it("say of a missed note only that it was not heard", () => {
    expect(noteWords({ ...note, status: "missed" }, "C sharp")).toBe("C sharp, second finger on A: not heard");
  });
});

describe("lanes", () => {
  it("shrink nests until neighbours stand apart", () => {
    expect(nestRadius([0, 100, 200], 15)).toBe(15);
    expect(nestRadius([0, 20, 60], 15)).toBeCloseTo(8.4);
  });
  it("join notes on one string into a band", () => {
    const line = ["D", "D", "A", "A", "D"].map((string, index) => ({ string, index }) as never);
    expect(stringBands(line)).toEqual([
      { string: "D", from: 0, to: 1 },
      { string: "A", from: 2, to: 3 },
      { string: "D", from: 4, to: 4 },
    ]);
  });
});
