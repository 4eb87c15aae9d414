import type { Schemas } from "../../api/client";
import { colours } from "../../app/theme";
import { dayWords } from "../../ui/words";

type State = Schemas["Cell"]["state"];

export const STATES: State[] = ["passed", "ready", "on_the_way", "stuck", "not_practised", "set", "not_set"];

export const stateWords: Record<State, string> = {
  passed: "passed",
  ready: "played well at its tempo",
  on_the_way: "on the way",
  stuck: "does not move",
  not_practised: "set, nothing recorded",
  set: "just set",
  not_set: "not set",
};

/** One sign a standing, told apart by its shape: a full nest, a full dot, a small dot, a barred nest, an empty nest. */
export function StandingSign({ state, size = 22 }: { state: State; size?: number }) {
  if (state === "not_set") return null;
  return (
    <svg width={size} height={size} viewBox="-11 -11 22 22" aria-hidden="true" style={{ verticalAlign: "middle" }}>
      {state === "passed" && (
        <>
          <circle r="9" fill={colours.spruce} />
          <circle r="3.5" fill={colours.card} />
        </>
      )}
      {state === "ready" && (
        <>
          <circle r="9" fill={colours.moss} stroke={colours.spruce} strokeWidth="2" />
          <circle r="4" fill={colours.spruce} />
        </>
      )}
      {state === "on_the_way" && (
        <>
          <circle r="9" fill="none" stroke={colours.ring} strokeWidth="2" />
          <circle r="3.5" cx="3" cy="-3" fill={colours.spruce} />
        </>
      )}
      {state === "stuck" && (
        <>
          <circle r="9" fill={colours.card} stroke={colours.lantern} strokeWidth="2.5" />
          <path d="M-5 0H5" stroke={colours.lantern} strokeWidth="3" />
        </>
      )}
      {state === "not_practised" && (
        <circle r="9" fill="none" stroke={colours.quiet} strokeWidth="1.6" strokeDasharray="3 3" />
      )}
      {state === "set" && <circle r="9" fill="none" stroke={colours.ring} strokeWidth="1.4" />}
    </svg>
  );
}

/** A cell in words: for who can not see the sign, and for who wants to know more. */
export function cellWords(cell: Schemas["Cell"]): string {
  const since = cell.since ? ` ${cell.state === "passed" ? "" : "since "}${dayWords(cell.since)}` : "";
  const goes = cell.goes ? `, ${cell.goes} ${cell.goes === 1 ? "go" : "goes"}` : "";
  const best = cell.best_bpm ? `, good at ${Math.round(cell.best_bpm)}` : "";
  return `${stateWords[cell.state]}${since}${goes}${best}`;
}
