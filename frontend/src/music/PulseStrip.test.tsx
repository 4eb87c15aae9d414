// @vitest-environment jsdom
import { cleanup, render } from "@testing-library/react";
import { afterEach, expect, it } from "vitest";

import type { Schemas } from "../api/client";
import { PulseStrip } from "./PulseStrip";

afterEach(cleanup);

const REPORT = {
  tempo: { target_bpm: 60, stops: [], curve: [] },
  notes: [0, 1, 2, 3, 4].map((index) => ({
    index,
    measure: 1,
    onset_s: index,
    timing_ms: index === 3 ? null : 5,
    timing_tolerance_ms: 90,
    moment_guessed: index === 3,
  })),
} as unknown as Schemas["Report"];

it("a note whose moment is a guess has no place on the beat", () => {
  const { container } = render(<PulseStrip report={REPORT} />);
  expect(container.querySelectorAll("circle")).toHaveLength(4);
});
