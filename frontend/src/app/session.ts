import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { answer, api, rememberToken, type Schemas } from "../api/client";

export type Person = Schemas["Person"];

const KEY = ["session"];

async function fetchSession(): Promise<Person | null> {
  const state = await answer(api.GET("/api/session"));
  rememberToken(state.csrf_token);
  return state.person;
}

export function useSession() {
  return useQuery({ queryKey: KEY, queryFn: fetchSession, staleTime: Infinity });
}

/** Signing in or out: the answer is the new session; everything else that was known is let go. */
export function useSessionChange<T>(change: (input: T) => Promise<Schemas["SessionState"]>) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: change,
    onSuccess: (state) => {
      rememberToken(state.csrf_token);
      queries.removeQueries({ predicate: (query) => query.queryKey[0] !== KEY[0] });
      queries.setQueryData(KEY, state.person);
    },
  });
}

export const signOut = () => answer(api.DELETE("/api/session"));
