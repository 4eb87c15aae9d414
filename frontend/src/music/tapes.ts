import type { Schemas } from "../api/client";

/** The colours of tapes, as on the strip that is printed. */
export const tapeColours: Record<Schemas["TapeOut"]["colour"], string> = {
  amber: "#d99a2b",
  teal: "#2f7f86",
  plum: "#6f4a72",
  white: "#f7f3ea",
  moss: "#6b7a3a",
  rust: "#a4552f",
  slate: "#5b6770",
};
