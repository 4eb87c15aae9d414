import { type QueryClient, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";

import { keptTakes } from "./keep";
import { sendKept } from "./send";

/** Where there is no sign of the network coming back, it is tried again after this. */
const AGAIN_MS = 45_000;
const PROBLEM = ["kept-problem"];

export const keptKey = (personId: string) => ["kept", personId];
const sentKey = (key: string) => ["sent", key];

/** Takes that are on this device and not yet at the house; what was kept of them is read again now and then. */
export function useKept(personId: string) {
  return useQuery({
    queryKey: keptKey(personId),
    queryFn: () => keptTakes(personId),
    staleTime: 0,
    refetchInterval: (query) => (query.state.data?.length ? 2_000 : false),
  });
}

/** Why the last one did not go. */
export function useSendingProblem(): string | null {
  return useQuery({ queryKey: PROBLEM, queryFn: () => null, enabled: false, initialData: null as string | null }).data;
}

export const tellProblem = (queries: QueryClient, words: string | null) => queries.setQueryData(PROBLEM, words);

/** The id that a take got at the house, once it has arrived. */
export function useArrived(key: string): string | null {
  return useQuery({ queryKey: sentKey(key), queryFn: () => null, enabled: false, initialData: null as string | null })
    .data;
}

/** Sends what waits on this device: when the page opens, when the network comes back, and again after a while. Each goes once. */
export function useSender(personId: string): void {
  const queries = useQueryClient();
  useEffect(() => {
    let busy = false;
    const sendAll = async () => {
      if (busy) return;
      busy = true;
      try {
        await sendWaiting(queries, personId);
      } finally {
        busy = false;
      }
    };
    void sendAll();
    const again = () => void sendAll();
    const timer = window.setInterval(again, AGAIN_MS);
    window.addEventListener("online", again);
    return () => {
      window.clearInterval(timer);
      window.removeEventListener("online", again);
    };
  }, [personId, queries]);
}

async function sendWaiting(queries: QueryClient, personId: string): Promise<void> {
  const waiting = await keptTakes(personId);
  if (waiting.length === 0) return;
  let problem: string | null = null;
  for (const take of waiting) {
    try {
      // One that is being recorded, or that another page is at, is left alone.
      const id = await sendKept(take, () => {}, false);
      if (id) queries.setQueryData(sentKey(take.key), id);
    } catch (error) {
      // One that the house will not have does not hold up the others.
      problem = (error as Error).message;
    }
  }
  tellProblem(queries, problem);
  for (const key of [keptKey(personId), ["today"], ["room"]]) void queries.invalidateQueries({ queryKey: key });
}
