import { useCallback, useEffect, useState } from "react";

interface History<T> {
  now: T;
  /** Makes the next state of the one that stands; steps of one kind that follow one another at once (a slider) are one
   * step of the history. */
  change: (next: (before: T) => T, kind?: string) => void;
  undo: (() => void) | null;
  redo: (() => void) | null;
}

interface Kept<T> {
  past: T[];
  now: T;
  future: T[];
  kind: string | undefined;
}

const MOST = 100;

/** A state with undo and redo, by button and by keyboard (Ctrl or Cmd with Z, with Shift or Y to go forward). */
export function useHistory<T>(first: T): History<T> {
  const [kept, setKept] = useState<Kept<T>>({ past: [], now: first, future: [], kind: undefined });
  const change = useCallback((next: (before: T) => T, kind?: string) => {
    setKept((before) => ({
      past: kind !== undefined && kind === before.kind ? before.past : [...before.past.slice(-MOST + 1), before.now],
      now: next(before.now),
      future: [],
      kind,
    }));
  }, []);
  const undo = useCallback(() => {
    setKept((before) => {
      const last = before.past.at(-1);
      if (last === undefined) return before;
      return {
        past: before.past.slice(0, -1),
        now: last,
        future: [before.now, ...before.future],
        kind: undefined,
      };
    });
  }, []);
  const redo = useCallback(() => {
    setKept((before) => {
      const [next, ...rest] = before.future;
      if (next === undefined) return before;
      return { past: [...before.past, before.now], now: next, future: rest, kind: undefined };
    });
  }, []);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const typing = (event.target as Element).closest("input:not([type=range]):not([type=checkbox]), textarea");
      if (typing || !(event.ctrlKey || event.metaKey)) return;
      const key = event.key.toLowerCase();
      if (key === "z" && !event.shiftKey) undo();
      else if (key === "y" || key === "z") redo();
      else return;
      event.preventDefault();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [undo, redo]);
  return {
    now: kept.now,
    change,
    undo: kept.past.length ? undo : null,
    redo: kept.future.length ? redo : null,
  };
}
