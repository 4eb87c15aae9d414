import { useCallback, useState } from "react";

/** Text that is not sent yet: it is there again when its place is come back to, until the tab is closed. */
export function useDraft(key: string): [string, (text: string) => void] {
  const place = `owl-draft-${key}`;
  const [text, setText] = useState(() => window.sessionStorage.getItem(place) ?? "");
  const change = useCallback(
    (next: string) => {
      setText(next);
      if (next) window.sessionStorage.setItem(place, next);
      else window.sessionStorage.removeItem(place);
    },
    [place],
  );
  return [text, change];
}
