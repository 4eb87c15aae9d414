// @vitest-environment jsdom
import { cleanup, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, expect, it, vi } from "vitest";

import type { Schemas } from "../../api/client";
import { type Asked, houseOf, refused, shown } from "../../testing/house";
import { MarkPanel } from "./MarkPanel";

beforeEach(() => {
  window.localStorage.clear();
  window.sessionStorage.clear();
});
afterEach(cleanup);

const MARK = { id: "m1", verdict: "once_more", remark: "Slower", created_at: "2026-11-27T10:00:00Z" };

function opened(take: object, says: (asked: Asked) => unknown = () => MARK) {
  const asked = houseOf({
    "POST /api/takes/1/marks": says,
    "DELETE /api/marks/m1": () => MARK,
    "GET /api/takes/1/drafts": () => ({ drafts: [] }),
  });
  shown(
    <MarkPanel
      take={{ id: "1", marks: [], next_unmarked_id: "2", report: null, ...take } as unknown as Schemas["TakeOut"]}
    />,
  );
  return asked;
}

const sent = (asked: Asked[]) => asked.filter((own) => own.method !== "GET");
const chosen = () => screen.getAllByRole("button", { pressed: true }).map((own) => own.textContent);
const word = () => screen.getByLabelText<HTMLTextAreaElement>("A word to the pupil");

it("one key marks, another sends, and the next take is there", async () => {
  const asked = opened({});
  await userEvent.keyboard("o");
  expect(chosen()[0]).toContain("Once more");
  await userEvent.type(word(), "Slower");
  await userEvent.keyboard("{Control>}{Enter}{/Control}");
  await vi.waitFor(() => expect(screen.getByTestId("address").textContent).toBe("/listening/2"));
  expect(sent(asked).map((own) => own.body)).toEqual([{ verdict: "once_more", remark: "Slower", after: null }]);
  expect(word().value).toBe("");
});

it("nothing goes without a mark", async () => {
  const asked = opened({});
  await userEvent.type(word(), "Slower");
  await userEvent.keyboard("{Control>}{Enter}{/Control}");
  expect(screen.getByRole<HTMLButtonElement>("button", { name: "Send and next" }).disabled).toBe(true);
  expect(sent(asked)).toEqual([]);
});

it("it says which word it comes after; a colleague who was quicker is told of, and nothing that was typed is lost", async () => {
  const asked = opened({ marks: [MARK] }, () => refused("Somebody else has marked it in the meantime.", 409));
  await userEvent.type(word(), "Well done");
  await userEvent.click(screen.getByRole("button", { name: /accepted/i }));
  await userEvent.click(screen.getByRole("button", { name: "Send and next" }));
  expect((await screen.findByRole("alert")).textContent).toBe("Somebody else has marked it in the meantime.");
  expect(sent(asked)[0]?.body).toMatchObject({ after: "m1" });
  expect(word().value).toBe("Well done");
  expect(chosen()[0]).toContain("Accepted");
  expect(screen.getByTestId("address").textContent).toBe("/");
});

it("what is taken back lies there to be sent again", async () => {
  opened({ marks: [MARK], next_unmarked_id: null });
  await userEvent.click(screen.getByRole("button", { name: "Take it back" }));
  await vi.waitFor(() => expect(word().value).toBe("Slower"));
  expect(chosen()[0]).toContain("Once more");
  expect(screen.getByRole("button", { name: "Send" })).toBeTruthy();
});

it("only what was heard whole and well can be a step that is passed", () => {
  opened({ report: { accepted: true }, bars: null });
  expect(screen.queryByRole("button", { name: /pass this step/i })).toBeTruthy();
  cleanup();
  opened({ report: { accepted: true }, bars: [1, 2] });
  expect(screen.queryByRole("button", { name: /pass this step/i })).toBeNull();
});
