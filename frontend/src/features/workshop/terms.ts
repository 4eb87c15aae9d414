import type { Schemas } from "../../api/client";

type Terms = Schemas["NewAssignment"];

/** What is in tune. */
export const SCHOOLS: [NonNullable<Terms["temperament"]>, string][] = [
  ["equal", "Equal, as a tuner has it"],
  ["pythagorean", "Pure fifths, narrow half steps"],
  ["ringing", "Ringing with the open strings"],
  ["just", "Pure thirds over a drone"],
];
/** How it is practised. */
export const WAYS: [NonNullable<Terms["mode"]>, string][] = [
  ["steady", "Steady, start to end"],
  ["pauses", "Pauses allowed: time is not judged"],
  ["repeats", "Several goes: the best one counts"],
];

/** Where a tempo ladder begins unless the teacher says otherwise; the share and the bounds are the house's. */
export const firstRung = ({ first_rung_share, lowest_tempo_bpm }: Schemas["Catalogue"], target: number) =>
  Math.max(lowest_tempo_bpm, Math.min(2 * Math.round((first_rung_share * target) / 2), target));
