import { useEffect, useSyncExternalStore } from "react";

const KEPT = "owl-single-keys";
const listeners = new Set<() => void>();

const areOn = () => window.localStorage.getItem(KEPT) !== "off";

/** Whether single keys act. A voice that types, or a hand that trembles, can switch them off (WCAG 2.1.4). */
export function useSingleKeys(): [boolean, (on: boolean) => void] {
  const on = useSyncExternalStore((changed) => {
    listeners.add(changed);
    return () => listeners.delete(changed);
  }, areOn);
  return [
    on,
    (next) => {
      window.localStorage.setItem(KEPT, next ? "on" : "off");
      listeners.forEach((changed) => changed());
    },
  ];
}

const TYPES = "input, textarea, select, [role=combobox], [role=menu]";
/** A button takes Space for itself, a slider the arrows; letters mean nothing to them. */
const TAKES_KEYS = `${TYPES}, button, a, summary, [role=slider], [role=button]`;

/** Single keys (as `event.key`, letters small) that act wherever nothing that takes them has the focus. */
export function useShortcuts(keys: Record<string, (() => void) | undefined>): void {
  const [on] = useSingleKeys();
  useEffect(() => {
    if (!on) return;
    const onKey = (event: KeyboardEvent) => {
      const letter = /^\p{L}$/u.test(event.key);
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      if ((event.target as Element).closest(letter ? TYPES : TAKES_KEYS)) return;
      const act = keys[event.key.length === 1 ? event.key.toLowerCase() : event.key];
      if (!act) return;
      event.preventDefault();
      act();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [on, keys]);
}

/** Ctrl (or Command) and Enter, wherever the focus is, but not while a dialog is open. */
export function useSendKey(send: (() => void) | undefined): void {
  useEffect(() => {
    if (!send) return;
    const onKey = (event: KeyboardEvent) => {
      if (event.key !== "Enter" || !(event.ctrlKey || event.metaKey)) return;
      if ((event.target as Element).closest("[role=dialog]")) return;
      event.preventDefault();
      send();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [send]);
}
