// @vitest-environment jsdom
import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useMemo, useState } from "react";
import { afterEach, beforeEach, expect, it } from "vitest";

import { useSingleKeys, useShortcuts } from "./shortcuts";
import { useDraft } from "./useDraft";

beforeEach(() => {
  window.localStorage.clear();
  window.sessionStorage.clear();
});
afterEach(cleanup);

function Panel({ take }: { take: string }) {
  const [said, setSaid] = useState("nothing");
  const [remark, setRemark] = useDraft(take);
  const [on, setOn] = useSingleKeys();
  useShortcuts(useMemo(() => ({ a: () => setSaid("accepted"), ArrowDown: () => setSaid("next"), o: undefined }), []));
  return (
    <>
      <output>{said}</output>
      <input aria-label="remark" value={remark} onChange={(event) => setRemark(event.target.value)} />
      <button onClick={() => setOn(!on)}>keys {on ? "on" : "off"}</button>
    </>
  );
}

const said = () => screen.getByRole("status").textContent;

it("single keys act, large or small, and not with Ctrl", async () => {
  render(<Panel take="1" />);
  await userEvent.keyboard("{Control>}a{/Control}o");
  expect(said()).toBe("nothing");
  await userEvent.keyboard("A");
  expect(said()).toBe("accepted");
  await userEvent.keyboard("{ArrowDown}");
  expect(said()).toBe("next");
});

it("whoever types types", async () => {
  render(<Panel take="1" />);
  await userEvent.type(screen.getByLabelText("remark"), "a clear start");
  expect(said()).toBe("nothing");
});

it("on a button letters act, and the button keeps Space and arrows", async () => {
  render(<Panel take="1" />);
  screen.getByRole("button").focus();
  await userEvent.keyboard("{ArrowDown}");
  expect(said()).toBe("nothing");
  await userEvent.keyboard("a");
  expect(said()).toBe("accepted");
});

it("single keys can be switched off, for good", async () => {
  const { unmount } = render(<Panel take="1" />);
  await userEvent.click(screen.getByRole("button"));
  (document.activeElement as HTMLElement).blur();
  await userEvent.keyboard("a");
  expect(said()).toBe("nothing");
  unmount();
  render(<Panel take="1" />);
  expect(screen.getByRole("button").textContent).toBe("keys off");
});

it("a remark that was not sent is there when its take is come back to, and at no other", async () => {
  const { unmount } = render(<Panel take="1" />);
  await userEvent.type(screen.getByLabelText("remark"), "good bow");
  unmount();
  const { unmount: away } = render(<Panel take="2" />);
  expect(screen.getByLabelText<HTMLInputElement>("remark").value).toBe("");
  away();
  render(<Panel take="1" />);
  expect(screen.getByLabelText<HTMLInputElement>("remark").value).toBe("good bow");
  await userEvent.clear(screen.getByLabelText("remark"));
  expect(window.sessionStorage.length).toBe(0);
});
