import { describe, expect, it } from "vitest";

import { endingOf, soundsLike } from "./ending";

const RATE = 48000;
const PIECE = 4096;

function tone(midi: number, level = 0.3): Float32Array {
  const hz = 440 * 2 ** ((midi - 69) / 12);
  return Float32Array.from({ length: PIECE }, (_, at) => {
    const turn = (2 * Math.PI * hz * at) / RATE;
    return (level * (Math.sin(turn) + Math.sin(2 * turn) / 2 + Math.sin(3 * turn) / 3)) / 2;
  });
}
const hush = new Float32Array(PIECE);

describe("the last note", () => {
  it.each([28, 43, 55, 62, 76])("is told from its neighbours (key number %i)", (midi) => {
    expect(soundsLike(tone(midi), RATE, midi)).toBe(true);
    expect(soundsLike(tone(midi + 0.4), RATE, midi)).toBe(true);
    expect(soundsLike(tone(midi + 2), RATE, midi)).toBe(false);
    expect(soundsLike(tone(midi - 2), RATE, midi)).toBe(false);
    expect(soundsLike(hush, RATE, midi)).toBe(false);
  });
});

/** Plays (what sounds, for how long) one after the other; at which second it ended by itself. */
function ended(rule: Partial<Parameters<typeof endingOf>[0]>, ...parts: [Float32Array, number][]): number | null {
  const ends = endingOf({ expectedS: 10, beatS: 0.6, lastMidi: 62, patient: false, ...rule }, RATE);
  let at = 0;
  for (const [piece, seconds] of parts) {
    for (let left = seconds; left > 0; left -= PIECE / RATE) {
      at += PIECE / RATE;
      if (ends(piece, at)) return at;
    }
  }
  return null;
}

describe("a recording", () => {
  it("ends two beats after the last note", () => {
    expect(ended({}, [tone(69), 9.4], [tone(62), 0.6], [hush, 5])).toBeCloseTo(11.2, 0);
    expect(ended({ beatS: 1.5 }, [tone(69), 9.4], [tone(62), 0.6], [hush, 5])).toBeCloseTo(13, 0);
  });

  it("does not end while there is something to come", () => {
    // A stop in the middle, a quiet room, a line played at half its tempo.
    expect(ended({}, [tone(62), 4], [hush, 3.5], [tone(69), 0.5])).toBeNull();
    expect(ended({}, [hush, 30])).toBeNull();
    expect(ended({}, [tone(69), 12], [hush, 3], [tone(69), 5])).toBeNull();
    expect(ended({}, [tone(69), 12], [hush, 6])).toBeCloseTo(16, 0);
  });

  it("waits longer where pauses belong to it", () => {
    expect(ended({ patient: true }, [tone(62), 12], [hush, 7], [tone(62), 1])).toBeNull();
    expect(ended({ patient: true }, [tone(62), 12], [hush, 9])).toBeCloseTo(20, 0);
  });

  it("does not take the noise of a room for playing", () => {
    expect(ended({}, [tone(62), 10], [tone(50, 0.01), 5])).toBeCloseTo(11.2, 0);
  });
});
