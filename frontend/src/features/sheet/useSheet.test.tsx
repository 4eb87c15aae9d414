// @vitest-environment jsdom
import { act, cleanup, renderHook, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, expect, it } from "vitest";

import { Around, houseOf, refused } from "../../testing/house";
import { type Sheet, useSheet } from "./useSheet";

const KEPT: Sheet = {
  id: "1",
  name: "Harbour",
  kind: "draft",
  due_on: null,
  titles: [],
  teacher_name: "Ida",
  changed_at: "2026-11-27T10:00:00Z",
  sent_at: null,
  items: [],
};
const saves: { name: string; seen: string }[] = [];
let status = 200;

beforeEach(() => {
  saves.length = 0;
  status = 200;
});
afterEach(cleanup);

async function opened() {
  houseOf({
    "GET /api/sheets/1": () => KEPT,
    "PUT /api/sheets/1": ({ body }) => {
      const own = body as { name: string; seen: string };
      saves.push(own);
      if (status !== 200) return refused("Somebody else has written.", status);
      return { ...KEPT, name: own.name, changed_at: `2026-11-27T10:00:0${saves.length}Z` };
    },
  });
  const hook = renderHook(() => useSheet("1"), { wrapper: Around });
  await waitFor(() => expect(hook.result.current.sheet?.name).toBe("Harbour"));
  return hook.result;
}

it("a change is shown at once and kept a little later, each save after the one before", async () => {
  const own = await opened();
  act(() => own.current.change({ name: "Ice" }));
  expect(own.current.sheet?.name).toBe("Ice");
  expect(own.current.unsaved).toBe(true);
  await waitFor(() => expect(own.current.unsaved).toBe(false), { timeout: 3000 });
  act(() => own.current.change({ name: "Ice days" }));
  await waitFor(() => expect(saves).toHaveLength(2), { timeout: 3000 });
  expect(saves.map((save) => save.seen)).toEqual(["2026-11-27T10:00:00Z", "2026-11-27T10:00:01Z"]);
});

it("what is refused is told, stays as it was typed, and is not sent again by itself", async () => {
  const own = await opened();
  status = 409;
  act(() => own.current.change({ name: "Mine" }));
  await waitFor(() => expect(own.current.error?.message).toBe("Somebody else has written."), { timeout: 3000 });
  await new Promise((resolve) => setTimeout(resolve, 1300));
  expect(saves).toHaveLength(1);
  expect(own.current.sheet?.name).toBe("Mine");
  status = 200;
  act(() => own.current.change({ name: "Mine after all" }));
  await waitFor(() => expect(own.current.unsaved).toBe(false), { timeout: 3000 });
  expect(own.current.error).toBeNull();
});
