import { useEffect } from "react";

import { answer, api, type Schemas } from "../../api/client";
import { keepsPages } from "../../app/installed";

const SIZES = ["usual", "large", "largest"] as const;

/**
 * Fetches what the week is practised from, so that this device has it where there is no network: pages, scores in their sizes, and the
 * sounds. One after the other, and once a visit; nothing is done where nothing is kept.
 */
export function useWeekKept(items: Schemas["TodayItem"][] | undefined, width: number | null): void {
  const ids = (items ?? []).map((item) => item.assignment_id).join(" ");
  useEffect(() => {
    if (!ids || width === null || !keepsPages()) return;
    let gone = false;
    const keep = async () => {
      await answer(api.GET("/api/session"));
      await answer(api.GET("/api/studio/settings"));
      for (const id of ids.split(" ")) {
        if (gone) return;
        const room = await answer(api.GET("/api/assignments/{id}/room", { params: { path: { id } } }));
        const now = room.ladder?.bpm ?? room.target_bpm;
        for (const bpm of new Set([now, ...(room.ladder?.rungs ?? [])])) {
          // Of the other rungs the music and its count; the sound and the larger staves of the one that is practised.
          for (const size of bpm === now ? SIZES : SIZES.slice(0, 1)) {
            const query = { width, bpm, ...(size !== "usual" && { size }) };
            const score = await answer(api.GET("/api/assignments/{id}/score", { params: { path: { id }, query } }));
            if (bpm === now && size === "usual")
              await fetch(score.demonstration_url + (score.calls ? "&company=calls&line=false" : ""));
          }
        }
      }
    };
    // What can not be had now is asked for on the next visit; the page itself says when something is missing.
    keep().catch((error: unknown) => console.info("not all of the week is on this device yet", error));
    return () => {
      gone = true;
    };
  }, [ids, width]);
}
