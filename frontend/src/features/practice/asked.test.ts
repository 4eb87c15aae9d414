import { describe, expect, it } from "vitest";

import { askedFrom, placeFrom, searchOf } from "./asked";

describe("what is practised", () => {
  it("comes back from the address as it went in", () => {
    const asked = { bpm: 66, bars: { first: 2, last: 3 }, mode: "pauses" as const, focus: "tune" as const };
    const search = new URLSearchParams(searchOf(asked, "play"));
    expect(askedFrom(search)).toEqual(asked);
    expect(placeFrom(search)).toBe("play");
    expect(askedFrom(new URLSearchParams(searchOf({}, "hear")))).toEqual({});
  });

  it("takes nothing from an address that says nothing", () => {
    const search = new URLSearchParams("bpm=fast&bars=2&mode=loud&focus=&at=nowhere");
    expect(askedFrom(search)).toEqual({});
    expect(placeFrom(search)).toBeNull();
  });
});
