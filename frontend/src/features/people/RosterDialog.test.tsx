// @vitest-environment jsdom
import { cleanup, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, it, vi } from "vitest";

import type { Schemas } from "../../api/client";
import { type Asked, houseOf, refused, shown } from "../../testing/house";
import { RosterDialog } from "./RosterDialog";

afterEach(cleanup);

const GROUP = { id: "7", name: "Saturday" } as Schemas["ClassOut"];
const ROW = { line: 2, name: "Ada Moor", instrument: "violin", size: "3/4" };
const ROSTER = "POST /api/classes/7/roster";

function opened(says: (asked: Asked) => unknown) {
  const asked = houseOf({ [ROSTER]: says });
  const done = vi.fn();
  shown(<RosterDialog group={GROUP} onClose={vi.fn()} onDone={done} />);
  return { asked, done, list: screen.getByRole("textbox") };
}

const press = (name: RegExp) => userEvent.click(screen.getByRole("button", { name }));

it("every line that can not be used is named, and nobody is put in", async () => {
  const faults = [
    { line: 3, words: "“harp” is no instrument" },
    { line: 5, words: "there is no name" },
  ];
  const { asked, done, list } = opened(() => ({ rows: [ROW], faults, cards: [] }));
  await userEvent.type(list, "whatever");
  await press(/look it through/i);
  const told = (await screen.findByRole("alert")).textContent;
  expect(told).toContain("Nobody is put in yet");
  expect(told).toContain("2 lines");
  expect(told).toContain("line 3: “harp” is no instrument");
  expect(told).toContain("line 5: there is no name");
  expect(screen.queryByRole("button", { name: /make their cards/ })).toBeNull();
  expect(asked.map((own) => (own.body as { keep: boolean }).keep)).toEqual([false]);
  expect(done).not.toHaveBeenCalled();
});

it("a good list is looked at first and kept by a second press; its cards go on", async () => {
  const cards = [{ name: "Ada Moor", words: "tide lamp" }];
  const { asked, done, list } = opened(({ body }) => ({
    rows: [ROW],
    faults: [],
    cards: (body as { keep: boolean }).keep ? cards : [],
  }));
  await userEvent.type(list, "Ada Moor, violin, 3/4");
  await press(/look it through/i);
  expect((await screen.findByRole("status")).textContent).toContain("Ada Moor, violin 3/4");
  await press(/put 1 in/i);
  await vi.waitFor(() => expect(done).toHaveBeenCalledWith(cards));
  expect(asked.map((own) => own.body)).toEqual([
    { text: "Ada Moor, violin, 3/4", keep: false },
    { text: "Ada Moor, violin, 3/4", keep: true },
  ]);
});

it("what is changed after the look is looked at again before it can be kept", async () => {
  const { list } = opened(() => ({ rows: [ROW], faults: [], cards: [] }));
  await userEvent.type(list, "Ada Moor, violin");
  await press(/look it through/i);
  await screen.findByRole("button", { name: /put 1 in/i });
  await userEvent.type(list, "!");
  expect(screen.queryByRole("button", { name: /put 1 in/i })).toBeNull();
  expect(screen.queryByRole("status")).toBeNull();
});

it("what the house says stands there, and the list stays as it was typed", async () => {
  const { list } = opened(() => refused("A list can have 200 lines at most."));
  await userEvent.type(list, "Ada Moor, violin");
  await press(/look it through/i);
  expect((await screen.findByRole("alert")).textContent).toBe("A list can have 200 lines at most.");
  expect((list as HTMLTextAreaElement).value).toBe("Ada Moor, violin");
});
