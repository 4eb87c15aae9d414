import { useEffect, useRef, useState } from "react";

const STEP = 40;

/** Width of an element, rounded down to steps so that a small resize does not ask for a new engraving. */
export function useWidth<T extends HTMLElement>() {
  const ref = useRef<T>(null);
  const [width, setWidth] = useState<number | null>(null);
  useEffect(() => {
    if (!ref.current) return;
    const observer = new ResizeObserver(([entry]) => {
      const fresh = Math.max(280, Math.min(2000, Math.floor(entry!.contentRect.width / STEP) * STEP));
      setWidth(fresh);
    });
    observer.observe(ref.current);
    return () => observer.disconnect();
  }, []);
  return { ref, width };
}
