import { expect, test } from "vitest";

import type { Schemas } from "../api/client";
import { noteWords, nestShape, type ReportNote } from "./nests";
import { withOverrules } from "./overruled";

const note = {
  index: 0,
  status: "played",
  string: "D",
  finger: 2,
  cents: -60,
  timing_ms: 0,
  pitch_tolerance_cents: 25,
  timing_tolerance_ms: 90,
} as ReportNote;
const finger = {
  key: "finger:2",
  kind: "finger",
  string: null,
  finger: 2,
  notes: [0],
} as unknown as Schemas["CauseOut"];
const report = {
  notes: [note],
  causes: [finger],
  advice: [
    { kind: "praise", text: "Good.", cause: null },
    { kind: "change", text: "Put the second finger higher.", cause: 0 },
  ],
} as unknown as Schemas["ReportOut"];
const word = (own: Partial<Schemas["OverruleOut"]>) =>
  ({ id: "1", note_index: null, cause: null, remark: "", ...own }) as Schemas["OverruleOut"];

test("a note that the teacher heard in tune is home, and its words say whose ear it was", () => {
  const heard = withOverrules(report, [word({ note_index: 0, says: "home" })]).notes[0]!;
  expect(nestShape(note).state).toBe("away");
  expect(nestShape(heard).state).toBe("home");
  expect(Math.hypot(nestShape(heard).dx, nestShape(heard).dy)).toBeLessThan(1);
  expect(noteWords(heard, "F sharp")).toContain("teacher");
});

test("nothing is advised from a cause that is not so", () => {
  const kept = withOverrules(report, [word({ cause: "finger:2", says: "not_so" })]);
  expect(kept.advice.map((own) => own.kind)).toEqual(["praise"]);
  expect(withOverrules(report, [word({ cause: "finger:3", says: "not_so" })]).advice).toHaveLength(2);
});
