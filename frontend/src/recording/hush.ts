/** An answer that comes a little early is heard whole. */
const EARLY_S = 0.06;

/**
 * Silences, in place, what of a piece of sound lies in spans of the line (seconds) in which the loudspeaker plays. `endsAt`: where the
 * piece ends.
 */
export function hush(piece: Float32Array, endsAt: number, spans: [number, number][], sampleRate: number): void {
  const begins = endsAt - piece.length / sampleRate;
  for (const [from, to] of spans) {
    const first = Math.max(Math.round((from - begins) * sampleRate), 0);
    const last = Math.min(Math.round((to - EARLY_S - begins) * sampleRate), piece.length);
    if (last > first) piece.fill(0, first, last);
  }
}
