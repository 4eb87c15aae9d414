import { describe, expect, it } from "vitest";

import { inVocabulary } from "./vocabulary";

describe("the studio's vocabulary", () => {
  it("says crotchets and keeps capitals and plurals", () => {
    expect(inVocabulary("D major, one octave, quarters", "crotchet")).toBe("D major, one octave, crotchets");
    expect(inVocabulary("Four sixteenths, two eighths", "crotchet")).toBe("Four semiquavers, two quavers");
    expect(inVocabulary("Dotted quarter, eighth", "crotchet")).toBe("Dotted crotchet, quaver");
    expect(inVocabulary("Dotted halves", "crotchet")).toBe("Dotted minims");
    expect(inVocabulary("Dotted half note", "crotchet")).toBe("Dotted minim");
    expect(inVocabulary("Half note, quarter", "crotchet")).toBe("Minim, crotchet");
    expect(inVocabulary("Your eighths come out too slow.", "crotchet")).toBe("Your quavers come out too slow.");
  });
  it("says measure where quarters are said", () => {
    expect(inVocabulary("C was left out in bar 3.", "quarter")).toBe("C was left out in measure 3.");
    expect(inVocabulary("Bars 2 to 3", "quarter")).toBe("Measures 2 to 3");
    expect(inVocabulary("Bars 2 to 3", "crotchet")).toBe("Bars 2 to 3");
  });
});
