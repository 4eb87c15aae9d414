import { useCallback, useState } from "react";

const STEP = 40;

/** Width of an element, rounded down to steps so that a small resize does not ask for a new engraving. */
export function useWidth<T extends HTMLElement>() {
  const [width, setWidth] = useState<number | null>(null);
  const ref = useCallback((element: T | null) => {
    if (!element) return;
    const observer = new ResizeObserver(([entry]) => {
      setWidth(Math.max(280, Math.min(2000, Math.floor(entry!.contentRect.width / STEP) * STEP)));
    });
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  return { ref, width };
}
