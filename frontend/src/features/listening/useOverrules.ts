import { useMutation, useQueryClient } from "@tanstack/react-query";

import { answer, api, type Schemas } from "../../api/client";

export interface Overruling {
  ofNote: (index: number) => Schemas["OverruleOut"] | undefined;
  ofCause: (key: string) => Schemas["OverruleOut"] | undefined;
  say: (word: Pick<Schemas["NewOverrule"], "note_index" | "cause" | "says">) => void;
  takeBack: (id: string) => void;
  busy: boolean;
  error: Error | null;
}

/** The teacher's ear against the check, of a note or a cause; pressed again it is taken back. */
export function useOverrules(take: Schemas["TakeOut"]): Overruling {
  const queries = useQueryClient();
  const refresh = () => queries.invalidateQueries({ queryKey: ["take", take.id] });
  const send = useMutation({
    mutationFn: (word: Pick<Schemas["NewOverrule"], "note_index" | "cause" | "says">) =>
      answer(
        api.POST("/api/takes/{id}/overrules", { params: { path: { id: take.id } }, body: { remark: "", ...word } }),
      ),
    onSuccess: refresh,
  });
  const undo = useMutation({
    mutationFn: (id: string) => answer(api.DELETE("/api/overrules/{id}", { params: { path: { id } } })),
    onSuccess: refresh,
  });
  return {
    ofNote: (index) => take.overrules.find((own) => own.note_index === index),
    ofCause: (key) => take.overrules.find((own) => own.cause === key),
    say: (word) => send.mutate(word),
    takeBack: (id) => undo.mutate(id),
    busy: send.isPending || undo.isPending,
    error: send.error ?? undo.error,
  };
}
