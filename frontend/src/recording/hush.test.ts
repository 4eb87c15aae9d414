import { describe, expect, it } from "vitest";

import { hush } from "./hush";

describe("while the loudspeaker plays", () => {
  it("nothing of it is kept, and all of the answer is", () => {
    const line = new Float32Array(4000).fill(1);
    const whole: number[] = [];
    // In pieces, as it comes: a call from 0 to 2 s and from 3 to 4 s, at 1000 samples a second.
    for (let at = 0; at < line.length; at += 256) {
      const piece = line.slice(at, at + 256);
      hush(piece, (at + piece.length) / 1000, [[0, 2], [3, 4]], 1000); // prettier-ignore
      whole.push(...piece);
    }
    const sounds = whole.map((sample, at) => (sample ? at : -1)).filter((at) => at >= 0);
    // The answer from 2 to 3 s, and the 60 ms before it.
    expect([sounds[0], sounds.findLast((at) => at < 3000)]).toEqual([1940, 2999]);
    expect(whole.slice(3000, 3940).some(Boolean)).toBe(false);
  });
});
