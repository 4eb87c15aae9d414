// @vitest-environment jsdom
import { QueryClient } from "@tanstack/react-query";
import { cleanup, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, it, vi } from "vitest";

import type { Schemas } from "../../api/client";
import { type Asked, houseOf, refused, shown } from "../../testing/house";
import { SignIn } from "./SignIn";

vi.mock("../../app/installed", () => ({ forgetWeek: () => Promise.resolve() }));
afterEach(cleanup);

function opened(here: Schemas["SessionState"]["here"], says: (asked: Asked) => unknown = () => refused("No.", 401)) {
  const asked = houseOf({ "POST /api/session/pupil": says, "POST /api/session/teacher": says });
  const queries = new QueryClient();
  queries.setQueryData(["here"], here);
  shown(<SignIn />, { queries });
  return { asked, queries };
}

it("where there is nothing yet, the first studio is the one thing to do", () => {
  opened("nothing");
  expect(screen.getByText("Nobody teaches here yet. Make the first studio.")).toBeTruthy();
});

it("where there is a studio, nobody is offered another", () => {
  opened("studio");
  expect(screen.getByLabelText(/class code/i)).toBeTruthy();
  expect(screen.queryByRole("button", { name: "A new studio" })).toBeNull();
});

it.each([
  ["I play", "Your words", false, "/"],
  ["I help at home", "The words", true, "/home"],
])("the card opens for who says “%s”", async (who, label, adult, place) => {
  const person = { id: "1", role: "pupil", name: "Ada" };
  const { asked, queries } = opened("studio", () => ({ csrf_token: "t", person, here: "studio" }));
  await userEvent.click(screen.getByRole("button", { name: who }));
  await userEvent.type(screen.getByLabelText(/class code/i), "TIDE2");
  await userEvent.type(screen.getByLabelText(new RegExp(label)), "lamp rope");
  await userEvent.click(screen.getByRole("button", { name: "Come in" }));
  await vi.waitFor(() => expect(queries.getQueryData(["session"])).toEqual(person));
  expect(asked[0]?.body).toEqual({ class_code: "TIDE2", passphrase: "lamp rope", adult });
  await vi.waitFor(() => expect(screen.getByTestId("address").textContent).toBe(place));
});

it("wrong words are told in the house's sentence, and what was typed stays", async () => {
  opened("studio", () => refused("These words are not on a card of this class.", 401));
  await userEvent.type(screen.getByLabelText(/class code/i), "TIDE2");
  await userEvent.type(screen.getByLabelText(/your words/i), "lamp rop");
  await userEvent.click(screen.getByRole("button", { name: "Come in" }));
  expect((await screen.findByRole("alert")).textContent).toBe("These words are not on a card of this class.");
  expect(screen.getByLabelText<HTMLInputElement>(/your words/i).value).toBe("lamp rop");
});

it("nothing is asked while something is missing", async () => {
  const { asked } = opened("studio");
  await userEvent.type(screen.getByLabelText(/class code/i), "TIDE2");
  await userEvent.click(screen.getByRole("button", { name: "Come in" }));
  expect(asked).toEqual([]);
});
