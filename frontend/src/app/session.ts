import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { answer, api, rememberToken, type Schemas } from "../api/client";
import { forgetWeek } from "./installed";

export type Person = Schemas["Person"];

const KEY = ["session"];

/** What stands on this installation, as the last answer said. */
const HERE = ["here"];

export function useSession() {
  const queries = useQueryClient();
  const fetchSession = async (): Promise<Person | null> => {
    const state = await answer(api.GET("/api/session"));
    rememberToken(state.csrf_token);
    queries.setQueryData(HERE, state.here);
    return state.person;
  };
  return useQuery({ queryKey: KEY, queryFn: fetchSession, staleTime: Infinity });
}

/** Whether the person who is signed in may do such things; the server asks too. */
export function useMay(right: Person["may"][number]): boolean {
  return useSession().data?.may.includes(right) ?? false;
}

export function useWhatIsHere(): Schemas["SessionState"]["here"] {
  return useQuery({ queryKey: HERE, queryFn: () => "studio" as const, enabled: false, initialData: "studio" as const })
    .data;
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
      queries.setQueryData(HERE, state.here);
      queries.setQueryData(KEY, state.person);
    },
  });
}

export const signOut = () => answer(api.DELETE("/api/session"));
