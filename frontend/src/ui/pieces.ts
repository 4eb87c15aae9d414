import type { Schemas } from "../api/client";

/** "bar 2", "bars 2 to 3". */
export const pieceWords = ({ first, last }: Schemas["Bars"]) =>
  first === last ? `bar ${first}` : `bars ${first} to ${last}`;

/** How a go felt, as the pupil said it. */
export const feltWords: Record<NonNullable<Schemas["GoOut"]["felt"]>, string> = {
  easy: "easy",
  right: "just right",
  too_hard: "too hard",
};
