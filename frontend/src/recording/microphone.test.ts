import { describe, expect, it } from "vitest";

import { faultOf, MicrophoneError } from "./microphone";

describe("a microphone that does not come", () => {
  // Names of Media Capture and Streams (W3C), getUserMedia, and of engines before it.
  it.each([
    ["NotAllowedError", "refused"],
    ["NotFoundError", "none"],
    ["NotReadableError", "taken"],
    ["TrackStartError", "taken"],
    ["SomethingNew", "failed"],
  ])("%s is told as %s", (name, fault) => {
    expect(faultOf(new DOMException("", name))).toBe(fault);
  });

  it("always says what to do", () => {
    for (const fault of ["refused", "none", "taken", "unplugged", "calls", "failed"] as const)
      expect(new MicrophoneError(fault).message).toMatch(/(try again|as a file instead)\.$/);
  });
});
