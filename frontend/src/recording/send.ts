import { Problem, sendTake } from "../api/client";
import { type KeptTake, keptPieces, letGo, lockOf } from "./keep";
import { sha256Hex, wavBlob } from "./wav";

const SHORTEST_S = 0.3;

/**
 * Sends a kept take and lets it go only when the server's hash is ours. The key makes a second sending harmless.
 * Gives the take's id; null where there was nothing in it, or where another tab has it.
 */
export async function sendKept(
  take: KeptTake,
  onShare: (share: number) => void,
  /** false: leave it where another tab is at it. */
  wait = true,
): Promise<string | null> {
  return navigator.locks.request(lockOf(take.key), { ifAvailable: !wait }, (lock) =>
    lock ? send(take, onShare) : null,
  );
}

async function send(take: KeptTake, onShare: (share: number) => void): Promise<string | null> {
  let sound = take.file;
  let seconds: number | undefined;
  if (!sound) {
    const pieces = await keptPieces(take.key);
    seconds = pieces.reduce((sum, piece) => sum + piece.length, 0) / take.sampleRate;
    if (seconds < SHORTEST_S) {
      await letGo(take.key);
      return null;
    }
    sound = wavBlob(pieces, take.sampleRate);
  }
  const sha256 = await sha256Hex(sound);
  const fields: Record<string, string> = {
    assignment_id: take.assignmentId,
    client_key: take.key,
    sha256,
    recorded_at: take.startedAt,
  };
  const { bpm, bars, mode, focus } = take.asked ?? {};
  if (bpm !== undefined) fields.bpm = String(bpm);
  if (bars) Object.assign(fields, { first_bar: String(bars.first), last_bar: String(bars.last) });
  if (mode) fields.mode = mode;
  if (focus) fields.focus = focus;
  if (take.pupilId) fields.pupil_id = take.pupilId;
  if (take.handIn) fields.hand_in = "true";
  if (seconds !== undefined) fields.claimed_s = seconds.toFixed(3);
  const receipt = await sendTake(fields, sound, take.fileName ?? "take.wav", onShare);
  if (receipt.sha256 !== sha256)
    throw new Problem("The recording was damaged on the way. It is still here; send it again.", 0);
  await letGo(take.key);
  return receipt.id;
}
