import { describe, expect, it } from "vitest";

import { distanceMm, offMm } from "./placing";

describe("the fingerboard", () => {
  it("has its octave in the middle of the string", () => {
    expect(distanceMm(328, 12)).toBeCloseTo(164);
    expect(distanceMm(328, 2)).toBeCloseTo(35.8, 1);
  });
  it("turns cents into millimetres: 10 cents at the first finger are 1.7 mm on a violin, 3.6 on a cello", () => {
    expect(offMm(328, 2, 10)).toBeCloseTo(1.7, 1);
    expect(offMm(690, 2, 10)).toBeCloseTo(3.55, 1);
    expect(offMm(328, 2, -10)).toBeLessThan(0);
  });
});
