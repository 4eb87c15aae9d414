import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";

import { answer, api, type Schemas } from "../../api/client";

export type Sheet = Schemas["SheetOut"];
export type Item = Sheet["items"][number];
type Part = Partial<Pick<Sheet, "name" | "due_on" | "items">>;

const WAIT_MS = 500;

/** A sheet that keeps itself: changes are shown at once, and kept half a second after the last of them, one save after the other. */
export function useSheet(id: string) {
  const queries = useQueryClient();
  const kept = useQuery({
    queryKey: ["sheet", id],
    queryFn: () => answer(api.GET("/api/sheets/{id}", { params: { path: { id } } })),
  });
  const [changed, setChanged] = useState<Part | null>(null);
  const [error, setError] = useState<Error | null>(null);
  const [saving, setSaving] = useState(false);
  const sheet = kept.data && changed ? { ...kept.data, ...changed } : kept.data;
  const standing = useRef<{ sheet: Sheet | undefined; part: Part | null }>({ sheet: undefined, part: null });
  useEffect(() => {
    standing.current = { sheet: kept.data, part: changed };
  }, [kept.data, changed]);

  const save = useCallback(async (): Promise<boolean> => {
    const { sheet: base, part } = standing.current;
    if (!base || !part) return true;
    setSaving(true);
    try {
      const { name, due_on, items, changed_at } = { ...base, ...part };
      const next = await answer(
        api.PUT("/api/sheets/{id}", {
          params: { path: { id } },
          body: { name, due_on, items, seen: changed_at },
        }),
      );
      queries.setQueryData(["sheet", id], next);
      standing.current.sheet = next;
      // What was typed while it was on its way is kept for the next time.
      setChanged((now) => (now === part ? null : now));
      if (standing.current.part === part) standing.current.part = null;
      setError(null);
      void queries.invalidateQueries({ queryKey: ["sheet-pages", id] });
      void queries.invalidateQueries({ queryKey: ["sheets"] });
      return true;
    } catch (trouble) {
      setError(trouble as Error);
      return false;
    } finally {
      setSaving(false);
    }
  }, [id, queries]);

  useEffect(() => {
    // What was refused is not sent again and again: the next change, or a press, tries once more.
    if (!changed || saving || error) return;
    const timer = setTimeout(() => void save(), WAIT_MS);
    return () => clearTimeout(timer);
  }, [changed, saving, error, save]);

  const change = useCallback((part: Part) => {
    setError(null);
    setChanged((before) => ({ ...before, ...part }));
  }, []);
  const startAgain = () => {
    setChanged(null);
    setError(null);
    void kept.refetch();
  };
  return { sheet, change, save, startAgain, error, unsaved: changed !== null, loading: kept };
}
