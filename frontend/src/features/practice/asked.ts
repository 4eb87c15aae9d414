import type { Asked } from "../../recording/keep";

export type At = "ready" | "hear" | "play";
const PLACES: readonly At[] = ["ready", "hear", "play"];
const MODES = ["steady", "pauses", "repeats"] as const;
const FOCI = ["tune", "time"] as const;

/** What is practised, as it stands in the address, so that a go leads back to just where it was played. */
export function askedFrom(search: URLSearchParams): Asked {
  const bars = /^(\d{1,3})-(\d{1,3})$/.exec(search.get("bars") ?? "");
  const bpm = Number(search.get("bpm"));
  const mode = MODES.find((own) => own === search.get("mode"));
  const focus = FOCI.find((own) => own === search.get("focus"));
  return {
    ...(bpm > 0 && { bpm }),
    ...(bars && { bars: { first: Number(bars[1]), last: Number(bars[2]) } }),
    ...(mode && { mode }),
    ...(focus && { focus }),
  };
}

export const placeFrom = (search: URLSearchParams): At | null => PLACES.find((own) => own === search.get("at")) ?? null;

export function searchOf(asked: Asked, at: At): string {
  const search = new URLSearchParams({ at });
  if (asked.bpm) search.set("bpm", String(asked.bpm));
  if (asked.bars) search.set("bars", `${asked.bars.first}-${asked.bars.last}`);
  if (asked.mode) search.set("mode", asked.mode);
  if (asked.focus) search.set("focus", asked.focus);
  return `?${search}`;
}

const DAY = "owl-ready-day";

/** Whether this device was made ready today: instrument up, strings heard. */
export const readyToday = () => window.localStorage.getItem(DAY) === new Date().toDateString();
export const nowReady = () => window.localStorage.setItem(DAY, new Date().toDateString());
