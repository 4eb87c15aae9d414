import { describe, expect, it } from "vitest";

import { IDLE, type Recording, recordingAfter, type Step } from "./recording";

const through = (...steps: Step[]): Recording => steps.reduce(recordingAfter, IDLE);
const running: Step[] = [{ type: "ask" }, { type: "count" }, { type: "beat", beat: 2 }, { type: "begin" }];

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
    expect(through({ type: "ask" }, { type: "count" }, { type: "heard", level: 0.2, seconds: null })).toMatchObject({
      level: 0.2,
      seconds: 0,
    });
  });

  it("can be refused, and tried once more", () => {
    const refused = through({ type: "ask" }, { type: "refuse", problem: "No microphone." });
    expect(refused).toMatchObject({ stage: "refused", problem: "No microphone." });
    expect(recordingAfter(refused, { type: "ask" })).toMatchObject({ stage: "asking", problem: null });
    expect(recordingAfter(refused, { type: "reset" })).toEqual(IDLE);
  });
});
