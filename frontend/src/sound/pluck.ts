let context: AudioContext | null = null;

const SECONDS = 0.6;
const LEVEL = 0.18;

/** A short plucked sound of a key number, at equal temperament on A = 440 (ISO 16:1975), kept low. */
export function pluck(midi: number): void {
  context ??= new AudioContext();
  const now = context.currentTime;
  const tone = context.createOscillator();
  const loudness = context.createGain();
  tone.type = "triangle";
  tone.frequency.value = 440 * 2 ** ((midi - 69) / 12);
  loudness.gain.setValueAtTime(0.0001, now);
  loudness.gain.exponentialRampToValueAtTime(LEVEL, now + 0.01);
  loudness.gain.exponentialRampToValueAtTime(0.0001, now + SECONDS);
  tone.connect(loudness).connect(context.destination);
  tone.start(now);
  tone.stop(now + SECONDS);
}
