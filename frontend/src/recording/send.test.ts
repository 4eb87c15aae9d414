import { beforeEach, expect, it, vi } from "vitest";

import { Problem } from "../api/client";
import type { KeptTake } from "./keep";

const RATE = 8000;
const TAKE: KeptTake = {
  key: "k",
  personId: "p",
  assignmentId: "a",
  title: "t",
  startedAt: "2026-11-27T10:00:00Z",
  sampleRate: RATE,
  state: "ready",
};

const device = { pieces: [new Float32Array(RATE)], gone: [] as string[] };
const house = { sha256: "ours" as string | Error, fields: [] as Record<string, string>[] };

vi.mock("./keep", () => ({
  keptPieces: () => Promise.resolve(device.pieces),
  letGo: (key: string) => Promise.resolve(void device.gone.push(key)),
  lockOf: (key: string) => `lock ${key}`,
}));
vi.mock("./wav", () => ({ sha256Hex: () => Promise.resolve("ours"), wavBlob: () => new Blob(["x"]) }));
vi.mock("../api/client", async (real) => ({
  ...(await real<object>()),
  sendTake: (fields: Record<string, string>) => {
    house.fields.push(fields);
    return house.sha256 instanceof Error
      ? Promise.reject(house.sha256)
      : Promise.resolve({ id: "7", sha256: house.sha256 });
  },
}));

let free = true;
vi.stubGlobal("navigator", {
  locks: {
    request: (_: string, { ifAvailable }: { ifAvailable: boolean }, then: (lock: object | null) => unknown) =>
      Promise.resolve(then(free || !ifAvailable ? {} : null)),
  },
});

beforeEach(() => {
  device.pieces = [new Float32Array(RATE)];
  device.gone = [];
  house.sha256 = "ours";
  house.fields = [];
  free = true;
});

const sent = async (take: Partial<KeptTake> = {}, wait = true) => {
  const { sendKept } = await import("./send");
  return sendKept({ ...TAKE, ...take }, () => undefined, wait);
};

it("a take is let go when the house has just what was sent", async () => {
  expect(await sent()).toBe("7");
  expect(device.gone).toEqual(["k"]);
  expect(house.fields).toEqual([
    { assignment_id: "a", client_key: "k", sha256: "ours", recorded_at: TAKE.startedAt, claimed_s: "1.000" },
  ]);
});

it("what arrived otherwise stays on the device", async () => {
  house.sha256 = "another";
  await expect(sent()).rejects.toThrow("It is still here; send it again.");
  expect(device.gone).toEqual([]);
});

it("what the house refuses, or does not answer, stays on the device", async () => {
  house.sha256 = new Problem("The connection is gone.", 0);
  await expect(sent()).rejects.toThrow("The connection is gone.");
  expect(device.gone).toEqual([]);
});

it("a slip of the finger is no take", async () => {
  device.pieces = [new Float32Array(RATE * 0.29)];
  expect(await sent()).toBeNull();
  expect([device.gone, house.fields]).toEqual([["k"], []]);
  device.pieces = [new Float32Array(RATE * 0.31)];
  expect(await sent()).toBe("7");
});

it("what was asked for goes with it", async () => {
  await sent({ asked: { bpm: 72, bars: { first: 2, last: 3 }, mode: "repeats", focus: "time" }, handIn: true });
  expect(house.fields[0]).toMatchObject({
    bpm: "72",
    first_bar: "2",
    last_bar: "3",
    mode: "repeats",
    focus: "time",
    hand_in: "true",
  });
});

it("where another tab is at it, it is left alone", async () => {
  free = false;
  expect(await sent({}, false)).toBeNull();
  expect([device.gone, house.fields]).toEqual([[], []]);
});
