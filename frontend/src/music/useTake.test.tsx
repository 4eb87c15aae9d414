// @vitest-environment jsdom
import { act, cleanup, renderHook } from "@testing-library/react";
import { afterEach, beforeEach, expect, it, vi } from "vitest";

import { houseOf, Around } from "../testing/house";
import { useTake } from "./useTake";

beforeEach(() => void vi.useFakeTimers());
afterEach(() => {
  cleanup();
  vi.useRealTimers();
});

/** In steps of a tenth of a second; at which of them it was asked. */
async function asking(states: (times: number) => string, seconds: number): Promise<number[]> {
  const at: number[] = [];
  let now = 0;
  houseOf({
    "GET /api/takes/1": () => {
      at.push(now);
      return { id: "1", state: states(at.length) };
    },
  });
  renderHook(() => useTake("1", 400), { wrapper: Around });
  for (; now < seconds; now += 0.1) await act(() => vi.advanceTimersByTimeAsync(100));
  return at;
}

it("a take that waits is asked for again, more seldom each time, and at least every two seconds", async () => {
  const at = await asking(() => "waiting", 30);
  const pauses = at.slice(1).map((time, index) => time - at[index]!);
  expect(pauses[0]).toBeLessThan(0.8);
  expect(Math.max(...pauses)).toBeLessThan(2.3);
  expect(pauses.at(-1)).toBeGreaterThan(1.7);
  expect(at.length).toBeLessThan(24);
});

it("when it is checked nothing more is asked", async () => {
  const at = await asking((times) => (times < 3 ? "checking" : "checked"), 20);
  expect(at).toHaveLength(3);
});
