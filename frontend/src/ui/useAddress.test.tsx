// @vitest-environment jsdom
import { act, cleanup, renderHook, screen } from "@testing-library/react";
import { afterEach, expect, it } from "vitest";

import { Around } from "../testing/house";
import { useAddress } from "./useAddress";

afterEach(cleanup);

function opened(at: string) {
  return renderHook(() => useAddress(), { wrapper: ({ children }) => <Around at={at}>{children}</Around> }).result;
}
const address = () => screen.getByTestId("address").textContent;

it("a choice stands in the address, and begins at the first page", () => {
  const own = opened("/people?page=3&class=7");
  act(() => own.current.put("instrument", "cello"));
  expect(address()).toBe("/people?class=7&instrument=cello");
  expect(own.current.params.get("instrument")).toBe("cello");
});

it("turning the page keeps what is chosen; nothing chosen is no word in the address", () => {
  const own = opened("/people?class=7");
  act(() => own.current.put("page", "2"));
  expect(address()).toBe("/people?class=7&page=2");
  act(() => own.current.put("class", ""));
  expect(address()).toBe("/people");
});

it("all of it can be let go", () => {
  const own = opened("/people?class=7&search=ada&page=2");
  act(() => own.current.clear());
  expect(address()).toBe("/people");
});
