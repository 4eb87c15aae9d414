import { type DBSchema, type IDBPDatabase, openDB } from "idb";

/** A recording on this device that the server has not confirmed yet. */
export interface KeptTake {
  key: string;
  personId: string;
  assignmentId: string;
  title: string;
  startedAt: string;
  sampleRate: number;
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
  });
  return shelf;
}

export async function keepTake(take: KeptTake): Promise<void> {
  await (await open()).put("takes", take);
}

export async function keepPiece(key: string, number: number, samples: Float32Array): Promise<void> {
  await (await open()).put("pieces", samples, [key, number]);
}

export async function keptTakes(personId: string): Promise<KeptTake[]> {
  return (await (await open()).getAll("takes")).filter((take) => take.personId === personId);
}

const piecesOf = (key: string) => IDBKeyRange.bound([key, 0], [key, Infinity]);

export async function keptPieces(key: string): Promise<Float32Array[]> {
  return (await open()).getAll("pieces", piecesOf(key));
}

export async function letGo(key: string): Promise<void> {
  const database = await open();
  await database.delete("pieces", piecesOf(key));
  await database.delete("takes", key);
}
