import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";

import { answer, api, type Schemas } from "../api/client";
import { usePlayer } from "./usePlayer";
import { useWidth } from "./useWidth";

const BEFORE_S = 0.15;

/** The longest pause between two questions. */
const SELDOM_MS = 2000;
const SLOWER = 1.25;

/** A take by its id; while it is being checked it is asked for again and again, more seldom the longer it takes: on an evening on which a
 * whole school hands in, the questions would cost more than the answers. */
export function useTake(id: string, askAgainMs: number) {
  return useQuery({
    queryKey: ["take", id],
    queryFn: () => answer(api.GET("/api/takes/{id}", { params: { path: { id } } })),
    refetchInterval: (query) =>
      query.state.data && ["waiting", "checking"].includes(query.state.data.state)
        ? Math.min(askAgainMs * SLOWER ** query.state.dataUpdateCount, SELDOM_MS)
        : false,
  });
}

/** What every view of a take needs: its score for the width there is, its sound with a cursor, and the note pointed at. */
export function useTakeOnScore(take: Schemas["TakeOut"]) {
  const { ref, width } = useWidth<HTMLDivElement>();
  const [pointed, setPointed] = useState<number | null>(null);
  const score = useQuery({
    queryKey: ["take-score", take.id, width],
    queryFn: () =>
      answer(api.GET("/api/takes/{id}/score", { params: { path: { id: take.id }, query: { width: width! } } })),
    enabled: width !== null,
    staleTime: Infinity,
    placeholderData: (before) => before,
  });
  const accepted = take.report?.accepted ? take.report : null;
  const notes = take.report?.notes;
  const onsets = useMemo(
    () => (notes ?? []).flatMap((note) => (note.onset_s === null ? [] : [{ index: note.index, at: note.onset_s }])),
    [notes],
  );
  const player = usePlayer(take.audio_url ?? undefined, onsets);
  const playNote = (index: number) => {
    const note = notes?.[index];
    if (note?.onset_s != null && note.offset_s != null) player.playSpan(note.onset_s - BEFORE_S, note.offset_s);
  };
  const pointedNote = pointed === null ? undefined : accepted?.notes[pointed];
  return { ref, score, player, accepted, pointedNote, setPointed, playNote };
}
