/** 16-bit mono WAV of float samples (RIFF, Microsoft 1991). */
export function wavBlob(pieces: Float32Array[], sampleRate: number): Blob {
  const count = pieces.reduce((sum, piece) => sum + piece.length, 0);
  const buffer = new ArrayBuffer(44 + count * 2);
  const view = new DataView(buffer);
  const text = (at: number, letters: string) =>
    [...letters].forEach((letter, i) => view.setUint8(at + i, letter.charCodeAt(0)));
  text(0, "RIFF");
  view.setUint32(4, 36 + count * 2, true);
  text(8, "WAVEfmt ");
  view.setUint32(16, 16, true);
  view.setUint16(20, 1, true);
  view.setUint16(22, 1, true);
  view.setUint32(24, sampleRate, true);
  view.setUint32(28, sampleRate * 2, true);
  view.setUint16(32, 2, true);
  view.setUint16(34, 16, true);
  text(36, "data");
  view.setUint32(40, count * 2, true);
  let at = 44;
  for (const piece of pieces) {
    for (const sample of piece) {
      const held = Math.max(-1, Math.min(1, sample));
      view.setInt16(at, Math.round(held < 0 ? held * 0x8000 : held * 0x7fff), true);
      at += 2;
    }
  }
  return new Blob([buffer], { type: "audio/wav" });
}

export async function sha256Hex(blob: Blob): Promise<string> {
  const digest = await crypto.subtle.digest("SHA-256", await blob.arrayBuffer());
  return [...new Uint8Array(digest)].map((byte) => byte.toString(16).padStart(2, "0")).join("");
}
