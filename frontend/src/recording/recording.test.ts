import { describe, expect, it } from "vitest";

import { MicrophoneError } from "./microphone";
import { IDLE, type Recording, recordingAfter, type Step } from "./recording";

const COUNT: Step = { type: "count", beganAt: 2500, narrow: false };
const through = (...steps: Step[]): Recording => steps.reduce(recordingAfter, IDLE);
const running: Step[] = [{ type: "ask" }, COUNT, { type: "beat", beat: 2 }, { type: "begin" }];

describe("a recording", () => {
  it("goes from asking over the count to its end", () => {
    expect(through(...running)).toMatchObject({ stage: "recording", beat: 2, safe: true });
    expect(through(...running, { type: "end" }, { type: "ended" }).stage).toBe("ended");
  });

  it("is not brought back by a timer that comes late", () => {
    expect(through(...running, { type: "end" }, { type: "begin" }).stage).toBe("ending");
    expect(through(...running, { type: "end" }, { type: "ended" }, { type: "beat", beat: 4 }).beat).toBe(2);
    expect(through({ type: "begin" }).stage).toBe("idle");
  });

  it("goes on when the device is full, and says so until the next one", () => {
    const full = through(...running, { type: "not kept" }, { type: "heard", level: 0.4, seconds: 3 });
    expect(full).toMatchObject({ stage: "recording", safe: false, level: 0.4, seconds: 3 });
    const ended = [{ type: "end" }, { type: "ended" }] as const;
    expect([...ended, { type: "ask" } as const].reduce(recordingAfter, full)).toEqual({ ...IDLE, stage: "asking" });
  });

  it("keeps the time while the count is heard", () => {
    expect(through({ type: "ask" }, COUNT, { type: "heard", level: 0.2, seconds: null })).toMatchObject({
      level: 0.2,
      seconds: 0,
    });
  });

  it("keeps what came before its microphone went away", () => {
    const problem = new MicrophoneError("unplugged");
    const lost = through(...running, { type: "lost", problem });
    expect(lost).toMatchObject({ stage: "recording", problem });
    expect(
      [{ type: "end" }, { type: "ended" }].reduce((now, step) => recordingAfter(now, step as Step), lost),
    ).toMatchObject({ stage: "ended", problem });
    expect(through({ type: "ask" }).problem).toBeNull();
  });

  it("can be refused, and tried once more", () => {
    const problem = new MicrophoneError("none");
    const refused = through({ type: "ask" }, { type: "refuse", problem });
    expect(refused).toMatchObject({ stage: "refused", problem });
    expect(recordingAfter(refused, { type: "ask" })).toMatchObject({ stage: "asking", problem: null });
    expect(recordingAfter(refused, { type: "reset" })).toEqual(IDLE);
  });
});
