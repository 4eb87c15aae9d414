import { useSyncExternalStore } from "react";
import { registerSW } from "virtual:pwa-register";

/** The page as it is kept on this device: its worker, whether there is a newer page, and what was kept of a person's week. */

const listeners = new Set<() => void>();
let newer = false;
let load: ((reload?: boolean) => Promise<void>) | undefined;

export function keepPage(): void {
  load = registerSW({
    onNeedRefresh: () => {
      newer = true;
      listeners.forEach((tell) => tell());
    },
  });
}

/** A newer page is there; it comes when it is asked for. */
export function useNewerPage(): [boolean, () => void] {
  const there = useSyncExternalStore(
    (tell) => {
      listeners.add(tell);
      return () => listeners.delete(tell);
    },
    () => newer,
  );
  return [there, () => void load?.(true)];
}

/** Nobody finds the week of another on a device that is shared. */
export async function forgetWeek(): Promise<void> {
  if (!("caches" in window)) return;
  for (const name of await caches.keys()) if (name.startsWith("owl-")) await caches.delete(name);
}

/** Whether what is fetched now is kept for later. */
export const keepsPages = () => !!navigator.serviceWorker?.controller;
