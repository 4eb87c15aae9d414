/** From the nut to where a string sounds so many semitones higher (Mersenne's law): L * (1 - 2 ** (-n / 12)). */
export function distanceMm(stringLengthMm: number, semitones: number): number {
  return stringLengthMm * (1 - 2 ** (-semitones / 12));
}

/** How far a finger stood from its place: above zero towards the bridge. */
export function offMm(stringLengthMm: number, semitones: number, cents: number): number {
  return distanceMm(stringLengthMm, semitones + cents / 100) - distanceMm(stringLengthMm, semitones);
}
