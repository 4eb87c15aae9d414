import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { answer, api, rememberToken, type Schemas } from "../api/client";
import { forgetWeek } from "./installed";

export type Person = Schemas["Person"];

const KEY = ["session"];

/** Whether nobody has made a studio here yet, as the last answer said. */
const FIRST = ["first"];

export function useSession() {
  const queries = useQueryClient();
  const fetchSession = async (): Promise<Person | null> => {
    const state = await answer(api.GET("/api/session"));
    rememberToken(state.csrf_token);
    queries.setQueryData(FIRST, state.first);
    return state.person;
  };
  return useQuery({ queryKey: KEY, queryFn: fetchSession, staleTime: Infinity });
}

export function useIsFirst(): boolean {
  return useQuery({ queryKey: FIRST, queryFn: () => false, enabled: false, initialData: false }).data;
}

/** Signing in or out: the answer is the new session; everything else that was known is let go. */
export function useSessionChange<T>(change: (input: T) => Promise<Schemas["SessionState"]>) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: change,
    onSuccess: async (state) => {
      await forgetWeek();
      rememberToken(state.csrf_token);
      queries.removeQueries({ predicate: (query) => query.queryKey[0] !== KEY[0] });
      queries.setQueryData(FIRST, state.first);
      queries.setQueryData(KEY, state.person);
    },
  });
}

export const signOut = () => answer(api.DELETE("/api/session"));
