// @vitest-environment jsdom
import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, it, vi } from "vitest";

import type { Schemas } from "../api/client";
import type { ReportNote } from "./nests";
import { ScoreView } from "./ScoreView";

afterEach(cleanup);

const NAMES = ["D4", "E4", "F#4", "G4"];
const SCORE = {
  systems: [0, 1].map((line) => ({
    svg: `<svg><g id="note-${2 * line}"><path/></g><g id="note-${2 * line + 1}"><path/></g></svg>`,
    width: 100,
    height: 40,
    notes: [0, 1].map((at) => ({ index: 2 * line + at, x: 0.2 + 0.4 * at })),
  })),
  notes: NAMES.map((name, index) => ({ index, name, spoken: name, string: "D", finger: index, mark: null })),
} as unknown as Schemas["ScoreOut"];
const NOTES = NAMES.map((name, index) => ({
  index,
  name,
  status: "played",
  in_tune: index !== 2,
  on_time: true,
  home: index !== 2,
  tuned_cents: index === 2 ? -30 : 2,
  cents: 2,
  timing_ms: 5,
  pitch_tolerance_cents: 25,
  timing_tolerance_ms: 90,
})) as unknown as ReportNote[];

const focused = () =>
  document.activeElement?.getAttribute("data-nest") ?? document.activeElement?.getAttribute("data-finger");

it("nests are walked through with the arrows, over the end of a line, and stop at the ends", async () => {
  const point = vi.fn();
  render(<ScoreView score={SCORE} notes={NOTES} onPoint={point} />);
  await userEvent.tab();
  expect(focused()).toBe("0");
  await userEvent.keyboard("{ArrowRight}{ArrowRight}");
  expect(focused()).toBe("2");
  expect(point).toHaveBeenLastCalledWith(2);
  await userEvent.keyboard("{End}");
  expect(focused()).toBe("3");
  await userEvent.keyboard("{ArrowRight}");
  expect(focused()).toBe("3");
  await userEvent.keyboard("{Home}{ArrowLeft}");
  expect(focused()).toBe("0");
});

it("Enter plays the note that is pointed at, as a press does", async () => {
  const play = vi.fn();
  render(<ScoreView score={SCORE} notes={NOTES} onPlay={play} />);
  await userEvent.tab();
  await userEvent.keyboard("{ArrowRight}{Enter}");
  expect(play.mock.calls).toEqual([[1]]);
  await userEvent.click(screen.getAllByRole("button")[3]!);
  expect(play.mock.calls).toEqual([[1], [3]]);
});

it("each nest says its note, and one state is not like another", () => {
  render(<ScoreView score={SCORE} notes={NOTES} />);
  const nests = screen.getAllByRole("button");
  expect(nests.map((own) => own.getAttribute("data-state"))).toEqual(["home", "home", "away", "home"]);
  expect(nests[2]!.getAttribute("aria-label")).toMatch(/F#4.*low/);
  // One stop of the Tab key for the whole score.
  expect(nests.filter((own) => own.tabIndex === 0)).toHaveLength(1);
});

it("where fingerings are pinned, a note is chosen by key or in the engraving", async () => {
  const choose = vi.fn();
  render(<ScoreView score={SCORE} onChoose={choose} pinned={new Set([1])} />);
  expect(screen.getAllByRole("button")[1]!.getAttribute("aria-label")).toContain("finger 1 on D, pinned");
  await userEvent.tab();
  await userEvent.keyboard("{ArrowRight} ");
  await userEvent.click(document.querySelector("[data-note=note-3] path")!);
  expect(choose.mock.calls.map(([index]) => index as number)).toEqual([1, 3]);
});
