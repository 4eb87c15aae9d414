/** When a recording ends by itself: after the last note and a silence that no pupil makes within the line. */

export interface EndingRule {
  /** How long the line lasts at the tempo that was asked for. */
  expectedS: number;
  beatS: number;
  /** Key number of the last note. */
  lastMidi: number;
  /** Pauses or several goes are part of the exercise: a silence says little. */
  patient: boolean;
}

/** Under this share of the loudest piece nothing is played (24 dB). */
const QUIET = 0.063;
/** Under this share (12 dB) a piece says nothing sure of its pitch. */
const CLEAR = 0.25;
/** Nobody plays the whole line in less than this share of its time. */
const EARLIEST = 0.85;
const AFTER_THE_LAST = { beats: 2, least: 1.2 };
/** Where the last note was not heard: who lost the way needs time to find it. */
const WITHOUT_IT = { beats: 4, least: 4 };
const PATIENT_S = 8;
const NEAR_CENTS = 45;
/** A sine a whole step away, less those cents, comes to 0.83. */
const ALIKE = 0.87;

/** Takes one piece of sound after the other, with the second at which it ends; true once the recording may end. */
export function endingOf(rule: EndingRule, sampleRate: number): (piece: Float32Array, endsAt: number) => boolean {
  let loudest = 0;
  let soundedAt: number | null = null;
  let last: Float32Array | null = null;
  return (piece, endsAt) => {
    const level = peakOf(piece);
    loudest = Math.max(loudest, level);
    if (level > QUIET * loudest) soundedAt = endsAt;
    if (level > CLEAR * loudest) last = piece;
    if (soundedAt === null || last === null || endsAt < EARLIEST * rule.expectedS) return false;
    const silent = endsAt - soundedAt;
    if (rule.patient) return silent >= PATIENT_S;
    const wait = soundsLike(last, sampleRate, rule.lastMidi) ? AFTER_THE_LAST : WITHOUT_IT;
    return silent >= Math.max(wait.beats * rule.beatS, wait.least);
  };
}

export function peakOf(samples: Float32Array): number {
  let most = 0;
  for (const sample of samples) most = Math.max(most, Math.abs(sample));
  return most;
}

/** Whether a piece repeats itself after one period of this key number (A = 440, equal temperament), or nearly. */
export function soundsLike(piece: Float32Array, sampleRate: number, midi: number): boolean {
  const period = sampleRate / (440 * 2 ** ((midi - 69) / 12));
  const width = 2 ** (NEAR_CENTS / 1200);
  const [from, to] = [Math.floor(period / width), Math.ceil(period * width)];
  if (to * 2 > piece.length) return false;
  for (let lag = from; lag <= to; lag++) {
    let both = 0;
    let one = 0;
    let other = 0;
    for (let at = 0; at + lag < piece.length; at++) {
      both += piece[at]! * piece[at + lag]!;
      one += piece[at]! ** 2;
      other += piece[at + lag]! ** 2;
    }
    if (both > ALIKE * Math.sqrt(one * other) && both > 0) return true;
  }
  return false;
}
