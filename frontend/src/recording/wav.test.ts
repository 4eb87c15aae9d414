import { describe, expect, it } from "vitest";

import { sha256Hex, wavBlob } from "./wav";

describe("a WAV file", () => {
  it("has the sizes, the rate and the samples where the format puts them", async () => {
    const blob = wavBlob([new Float32Array([0, 1]), new Float32Array([-1, 0.5, 2])], 48000);
    const view = new DataView(await blob.arrayBuffer());
    expect(view.byteLength).toBe(44 + 5 * 2);
    expect(view.getUint32(4, true)).toBe(view.byteLength - 8);
    expect(view.getUint32(24, true)).toBe(48000);
    expect(view.getUint32(40, true)).toBe(10);
    expect([0, 1, 2, 3, 4].map((i) => view.getInt16(44 + 2 * i, true))).toEqual([0, 32767, -32768, 16384, 32767]);
  });

  it("is hashed as the published test vector says (FIPS 180-4, 'abc')", async () => {
    expect(await sha256Hex(new Blob(["abc"]))).toBe("ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad");
  });
});
