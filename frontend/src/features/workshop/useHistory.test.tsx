// @vitest-environment jsdom
import { act, cleanup, renderHook } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, it } from "vitest";

import { useHistory } from "./useHistory";

afterEach(cleanup);

it("goes back and forward one step at a time; a new step ends what lay ahead", () => {
  const { result } = renderHook(() => useHistory(1));
  expect(result.current.undo).toBeNull();
  act(() => result.current.change((now) => now + 1));
  act(() => result.current.change((now) => now + 10));
  expect(result.current.now).toBe(12);
  act(() => result.current.undo!());
  expect(result.current.now).toBe(2);
  act(() => result.current.redo!());
  expect(result.current.now).toBe(12);
  act(() => result.current.undo!());
  act(() => result.current.change(() => 5));
  expect(result.current.redo).toBeNull();
});

it("a slider that is drawn is one step", () => {
  const { result } = renderHook(() => useHistory(60));
  act(() => result.current.change(() => 61, "tempo"));
  act(() => result.current.change(() => 62, "tempo"));
  act(() => result.current.change(() => 99, "key"));
  act(() => result.current.undo!());
  expect(result.current.now).toBe(62);
  act(() => result.current.undo!());
  expect(result.current.now).toBe(60);
});

it("hears Ctrl with Z and Y", async () => {
  const { result } = renderHook(() => useHistory("a"));
  act(() => result.current.change(() => "b"));
  await userEvent.keyboard("{Control>}z{/Control}");
  expect(result.current.now).toBe("a");
  await userEvent.keyboard("{Control>}y{/Control}");
  expect(result.current.now).toBe("b");
});
