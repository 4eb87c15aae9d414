import { describe, expect, it } from "vitest";

import { deviceHints } from "./device";

const well = { free: 5e9, battery: 0.8, charging: false };

describe("a device", () => {
  it("that has enough of everything, or says nothing of it, is not spoken of", () => {
    expect(deviceHints(well)).toEqual([]);
    expect(deviceHints({ free: null, battery: null, charging: false })).toEqual([]);
  });

  it("is said to be full, or tired, in time", () => {
    expect(deviceHints({ ...well, free: 50e6 })[0]).toMatch("nearly full");
    expect(deviceHints({ ...well, battery: 0.06 })[0]).toMatch("battery");
    expect(deviceHints({ ...well, battery: 0.06, charging: true })).toEqual([]);
  });
});
