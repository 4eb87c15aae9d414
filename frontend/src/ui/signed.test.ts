import { expect, test } from "vitest";

import { signed } from "./signed";

test.each([
  [-0.4, 0, "0"],
  [0.4, 0, "0"],
  [-0.5, 0, "−1"],
  [12.3, 0, "+12"],
  [-0.04, 1, "0"],
  [0.06, 1, "+0.1"],
] as const)("%d with %d digits is read as %s", (value, digits, text) => {
  expect(signed(value, digits)).toBe(text);
});
