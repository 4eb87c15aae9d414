import { useQuery } from "@tanstack/react-query";

import type { Schemas } from "../../../api/client";
import type { Asked } from "../../../recording/keep";
import { scoreQuery } from "../useRoom";

/** Narrower pages have no room for a larger staff. */
const LEAST_PX = 600;
/** What else is on the page while it is recorded: the name, the beat, the level and the button. */
const BESIDE_PX = 320;

const heightOf = (score: Schemas["ScoreOut"], width: number) =>
  score.systems.reduce((sum, system) => sum + (system.height * width) / system.width, 0);

/** The score in the largest staff with which all of it fits on the page; as it is where none does. */
export function useOnStand(id: string, width: number, asked: Asked, usual: Schemas["ScoreOut"]): Schemas["ScoreOut"] {
  const room = window.innerHeight - BESIDE_PX;
  const fits = (score: Schemas["ScoreOut"] | undefined) => score && heightOf(score, width) <= room;
  const largest = useQuery({ ...scoreQuery(id, width, asked, "largest"), enabled: width >= LEAST_PX });
  const smaller = largest.data !== undefined && !fits(largest.data);
  const large = useQuery({ ...scoreQuery(id, width, asked, "large"), enabled: smaller });
  if (fits(largest.data)) return largest.data!;
  return fits(large.data) ? large.data! : usual;
}
