import { type DBSchema, type IDBPDatabase, openDB } from "idb";

import type { Schemas } from "../api/client";

/** A piece of the line, a tempo, a way of practising. */
export interface Asked {
  bpm?: number;
  bars?: Schemas["Bars"];
  mode?: Schemas["NewAssignment"]["mode"];
  focus?: "tune" | "time";
}

/** A recording on this device that the server has not confirmed yet. */
export interface KeptTake {
  key: string;
  personId: string;
  /** Whose it is, where a teacher recorded it at a lesson. */
  pupilId?: string;
  assignmentId: string;
  title: string;
  startedAt: string;
  sampleRate: number;
  /** How it was to be played, where that is not as the assignment has it. */
  asked?: Asked;
  /** Goes to the teacher when it arrives; else it is a go of the pupil's own. */
  handIn?: boolean;
  /** recording: the page may have been closed in the middle; what was written is still a take. */
  state: "recording" | "ready";
  /** A chosen file instead of recorded pieces. */
  file?: Blob;
  fileName?: string;
}

interface Shelf extends DBSchema {
  takes: { key: string; value: KeptTake };
  pieces: { key: [string, number]; value: Float32Array };
}

/** Held while a take is being recorded or sent, so that no other tab sends it half or twice. */
export const lockOf = (key: string) => `attentive-owl-take-${key}`;

let shelf: Promise<IDBPDatabase<Shelf>> | undefined;

function open(): Promise<IDBPDatabase<Shelf>> {
  shelf ??= openDB<Shelf>("attentive-owl", 1, {
    upgrade(database) {
      database.createObjectStore("takes", { keyPath: "key" });
      database.createObjectStore("pieces");
    },
  }).catch((error: unknown) => {
    // Asked again next time: there may be room then.
    shelf = undefined;
    throw error;
  });
  return shelf;
}

/** What this device had no room for. It lasts as long as the page, so that a full device loses nothing that can be sent. */
const held = new Map<string, Map<number, Float32Array>>();
const heldTakes = new Map<string, KeptTake>();

/** Whether it is on this device now. */
export async function keepTake(take: KeptTake): Promise<boolean> {
  const safe = await kept(async () => (await open()).put("takes", take));
  if (safe) heldTakes.delete(take.key);
  else heldTakes.set(take.key, take);
  return safe;
}

/** Whether it is on this device now; where not, the page holds it. */
export async function keepPiece(key: string, number: number, samples: Float32Array): Promise<boolean> {
  const safe = await kept(async () => (await open()).put("pieces", samples, [key, number]));
  if (!safe) held.set(key, (held.get(key) ?? new Map<number, Float32Array>()).set(number, samples));
  return safe;
}

/** A device that is full, or a private window that keeps nothing, fails here; anything else is a fault of ours. */
async function kept(put: () => Promise<unknown>): Promise<boolean> {
  try {
    await put();
    return true;
  } catch (error) {
    if (error instanceof DOMException) return false;
    throw error;
  }
}

export async function keptTakes(personId: string): Promise<KeptTake[]> {
  const takes = new Map<string, KeptTake>();
  await kept(async () => {
    for (const take of await (await open()).getAll("takes")) takes.set(take.key, take);
  });
  // What the page holds is newer than what was last kept of it.
  heldTakes.forEach((take) => takes.set(take.key, take));
  return [...takes.values()].filter((take) => take.personId === personId);
}

const piecesOf = (key: string) => IDBKeyRange.bound([key, 0], [key, Infinity]);

/** In the order in which they were played. */
export async function keptPieces(key: string): Promise<Float32Array[]> {
  const own = held.get(key);
  if (!own) return (await open()).getAll("pieces", piecesOf(key));
  const pieces = new Map(own);
  await kept(async () => {
    const database = await open();
    for (const place of await database.getAllKeys("pieces", piecesOf(key)))
      pieces.set(place[1], (await database.get("pieces", place))!);
  });
  return [...pieces].sort(([one], [other]) => one - other).map(([, samples]) => samples);
}

export async function letGo(key: string): Promise<void> {
  held.delete(key);
  heldTakes.delete(key);
  // Where it can not be deleted it is sent once more, which changes nothing: the server knows its key.
  await kept(async () => {
    const database = await open();
    await database.delete("pieces", piecesOf(key));
    await database.delete("takes", key);
  });
}
