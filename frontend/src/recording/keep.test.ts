// @vitest-environment jsdom
import { beforeEach, expect, it, vi } from "vitest";

import type { KeptTake } from "./keep";

const take: KeptTake = {
  key: "k",
  personId: "p",
  assignmentId: "a",
  title: "t",
  startedAt: "2026-01-01T00:00:00Z",
  sampleRate: 48000,
  state: "recording",
};

/** A device's store with room for so many pieces. */
const device = { takes: true, room: 2, pieces: new Map<number, Float32Array>(), fault: null as Error | null };
vi.mock("idb", () => ({
  openDB: () =>
    Promise.resolve({
      put: (_: string, value: unknown, place?: [string, number]) => {
        if (device.fault) return Promise.reject(device.fault);
        if (!place)
          return device.takes ? Promise.resolve() : Promise.reject(new DOMException("full", "QuotaExceededError"));
        if (device.pieces.size >= device.room) return Promise.reject(new DOMException("full", "QuotaExceededError"));
        device.pieces.set(place[1], value as Float32Array);
        return Promise.resolve();
      },
      getAll: (store: string) => Promise.resolve(store === "takes" ? [] : [...device.pieces.values()]),
      getAllKeys: () => Promise.resolve([...device.pieces.keys()].map((number) => ["k", number])),
      get: (_: string, place: [string, number]) => Promise.resolve(device.pieces.get(place[1])),
      delete: () => Promise.resolve(device.pieces.clear()),
    }),
}));
vi.stubGlobal("IDBKeyRange", { bound: () => null });

beforeEach(() => {
  vi.resetModules();
  device.pieces.clear();
  device.fault = null;
  device.takes = true;
  device.room = 2;
});

const piece = (value: number) => new Float32Array([value]);

it("a device that is full loses no piece while the page is open, and their order stands", async () => {
  const { keepPiece, keptPieces, keepTake, letGo } = await import("./keep");
  expect(await keepTake(take)).toBe(true);
  const safe = [];
  for (let number = 0; number < 4; number++) safe.push(await keepPiece("k", number, piece(number)));
  expect(safe).toEqual([true, true, false, false]);
  expect((await keptPieces("k")).map((samples) => samples[0])).toEqual([0, 1, 2, 3]);
  await letGo("k");
  expect(await keptPieces("k")).toEqual([]);
});

it("room in the middle does not put a piece in the wrong place", async () => {
  const { keepPiece, keptPieces } = await import("./keep");
  device.room = 0;
  await keepPiece("k", 0, piece(0));
  device.room = 5;
  await keepPiece("k", 1, piece(1));
  expect((await keptPieces("k")).map((samples) => samples[0])).toEqual([0, 1]);
});

it("a take that the device could not keep waits with the others until it is sent", async () => {
  const { keepTake, keptTakes, letGo } = await import("./keep");
  device.takes = false;
  expect(await keepTake(take)).toBe(false);
  expect(await keepTake({ ...take, state: "ready" })).toBe(false);
  expect((await keptTakes("p")).map((waiting) => [waiting.key, waiting.state])).toEqual([["k", "ready"]]);
  expect(await keptTakes("somebody else")).toEqual([]);
  await letGo("k");
  expect(await keptTakes("p")).toEqual([]);
});

it("a fault of ours is not taken for a full device", async () => {
  const { keepPiece } = await import("./keep");
  device.fault = new TypeError("no such store");
  await expect(keepPiece("k", 0, piece(0))).rejects.toThrow("no such store");
});
