// @vitest-environment jsdom
import { cleanup, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, it, vi } from "vitest";

import type { Schemas } from "../../api/client";
import { houseOf, refused, shown } from "../../testing/house";
import { AcceptTogether, TakenTogether, type Together } from "./AcceptTogether";

afterEach(cleanup);

const TAKES = ["Ada", "Bo", "Cai"].map((name, at) => ({ id: String(at), pupil_name: name })) as Schemas["TakeRow"][];
const MADE = { marks: [{ id: "m0" }, { id: "m2" }], left_out: 1 } as Together;

it("whoever is left out is not accepted; the word goes to the others", async () => {
  const asked = houseOf({ "POST /api/marks": () => MADE });
  const done = vi.fn();
  shown(<AcceptTogether takes={TAKES} onDone={done} />);
  await userEvent.click(screen.getByLabelText("Bo"));
  await userEvent.type(screen.getByLabelText(/a word to each/i), "Clear starts");
  await userEvent.click(screen.getByRole("button", { name: "Accept these 2" }));
  await vi.waitFor(() => expect(done).toHaveBeenCalledWith(MADE));
  expect(asked[0]?.body).toEqual({ take_ids: ["0", "2"], verdict: "accepted", remark: "Clear starts" });
});

it("can be taken in again, and with nobody left there is nothing to accept", async () => {
  houseOf({});
  shown(<AcceptTogether takes={TAKES.slice(0, 1)} onDone={vi.fn()} />);
  const button = () => screen.getByRole<HTMLButtonElement>("button", { name: /accept/i });
  expect(button().textContent).toBe("Accept this one");
  await userEvent.click(screen.getByLabelText("Ada"));
  expect(button().disabled).toBe(true);
  await userEvent.click(screen.getByLabelText("Ada"));
  expect(button().disabled).toBe(false);
});

it("what was done is told with what was left, and each mark of it is taken back", async () => {
  const asked = houseOf({ "DELETE /api/marks/m0": () => ({}), "DELETE /api/marks/m2": () => ({}) });
  const close = vi.fn();
  shown(<TakenTogether made={MADE} onClose={close} />);
  const told = screen.getByRole("status").textContent;
  expect(told).toContain("2 takes are accepted");
  expect(told).toContain("1 had a word in the meantime and was left");
  await userEvent.click(screen.getByRole("button", { name: "Take it back" }));
  await vi.waitFor(() => expect(close).toHaveBeenCalled());
  expect(asked.map((own) => own.path)).toEqual(["/api/marks/m0", "/api/marks/m2"]);
});

it("what can not be taken back any more is said, and the line stays", async () => {
  houseOf({ "DELETE /api/marks/m0": () => refused("It was written over in the meantime.", 409) });
  const close = vi.fn();
  shown(<TakenTogether made={MADE} onClose={close} />);
  await userEvent.click(screen.getByRole("button", { name: "Take it back" }));
  expect((await screen.findByRole("alert")).textContent).toBe("It was written over in the meantime.");
  expect(close).not.toHaveBeenCalled();
});
