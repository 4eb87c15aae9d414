import type { MicrophoneError } from "./microphone";

/** The states of a recording and what takes it from one to the next; nothing here touches a device. */

export type Stage = "idle" | "asking" | "counting" | "recording" | "ending" | "ended" | "refused";

export interface Recording {
  stage: Stage;
  /** Words of the count that have been said. */
  beat: number;
  /** Peak of the last piece, 0 to 1. */
  level: number;
  /** Since the line began. */
  seconds: number;
  /** Why it did not start, or ended early. */
  problem: MicrophoneError | null;
  /** When the line begins, on the page's clock (ms). */
  beganAt: number | null;
  /** Only speech comes through. */
  narrow: boolean;
  /** Every piece so far is on this device; otherwise it lasts only as long as the page. */
  safe: boolean;
}

export type Step =
  | { type: "ask" }
  | { type: "count"; beganAt: number; narrow: boolean }
  | { type: "beat"; beat: number }
  | { type: "begin" }
  | { type: "heard"; level: number; seconds: number | null }
  | { type: "not kept" }
  | { type: "end" }
  | { type: "ended" }
  | { type: "lost"; problem: MicrophoneError }
  | { type: "refuse"; problem: MicrophoneError }
  | { type: "reset" };

export const IDLE: Recording = {
  stage: "idle",
  beat: 0,
  level: 0,
  seconds: 0,
  problem: null,
  beganAt: null,
  narrow: false,
  safe: true,
};

/** From which stages a step may be taken; a late timer or message changes nothing. */
const FROM: Record<Exclude<Step["type"], "refuse" | "reset">, Stage[]> = {
  ask: ["idle", "ended", "refused"],
  count: ["asking"],
  beat: ["counting"],
  begin: ["counting"],
  heard: ["counting", "recording", "ending"],
  "not kept": ["asking", "counting", "recording", "ending"],
  lost: ["counting", "recording"],
  end: ["counting", "recording"],
  ended: ["ending"],
};

export function recordingAfter(now: Recording, step: Step): Recording {
  if (step.type === "refuse") return { ...now, stage: "refused", problem: step.problem };
  if (step.type === "reset") return IDLE;
  if (!FROM[step.type].includes(now.stage)) return now;
  switch (step.type) {
    case "ask":
      return { ...IDLE, stage: "asking" };
    case "count":
      return { ...now, stage: "counting", beat: 0, beganAt: step.beganAt, narrow: step.narrow };
    case "beat":
      return { ...now, beat: step.beat };
    case "begin":
      return { ...now, stage: "recording" };
    case "heard":
      return { ...now, level: step.level, seconds: step.seconds ?? now.seconds };
    case "not kept":
      return { ...now, safe: false };
    case "lost":
      return { ...now, problem: step.problem };
    case "end":
      return { ...now, stage: "ending" };
    case "ended":
      return { ...now, stage: "ended" };
  }
}
