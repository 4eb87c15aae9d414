// @vitest-environment jsdom
import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";

import { ErrorBoundary } from "./ErrorBoundary";

afterEach(cleanup);

function Breaks({ words }: { words: string }): never {
  throw new Error(words);
}

function shown(words: string): string {
  const quiet = vi.spyOn(console, "error").mockImplementation(() => undefined);
  render(
    <ErrorBoundary>
      <Breaks words={words} />
    </ErrorBoundary>,
  );
  expect(quiet).toHaveBeenCalled();
  quiet.mockRestore();
  return screen.getByRole("alert").textContent;
}

it.each([
  "Failed to fetch dynamically imported module: /assets/Week-1.js",
  "error loading dynamically imported module: /assets/Week-1.js",
  "Importing a module script failed.",
])("a part that is gone after an upgrade is called so: %s", (words) => {
  expect(shown(words)).toContain("There is a newer page");
  expect(screen.getByRole("button", { name: "Load the page again" })).toBeTruthy();
});

it("any other fault says that nothing is lost", () => {
  expect(shown("x is undefined")).toContain("Nothing that you recorded or sent is lost");
});
