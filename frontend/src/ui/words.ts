import type { Schemas } from "../api/client";

/** A verdict is called as it is kept: once_more is "Once more". */
export const verdictWords = (verdict: Schemas["MarkOut"]["verdict"]): string => {
  const words = verdict.replaceAll("_", " ");
  return words[0]!.toUpperCase() + words.slice(1);
};

export const instrumentWords: Record<string, string> = {
  violin: "violin",
  viola: "viola",
  cello: "cello",
  bass: "double bass",
};

export function dayWords(iso: string, today: Date = new Date()): string {
  const day = iso.length === 10 ? new Date(`${iso}T12:00:00`) : new Date(iso);
  const distance = Math.round((startOfDay(day).getTime() - startOfDay(today).getTime()) / 86_400_000);
  if (distance === 0) return "today";
  if (distance === 1) return "tomorrow";
  if (distance === -1) return "yesterday";
  if (distance > 1 && distance < 7) return day.toLocaleDateString("en", { weekday: "long" });
  return day.toLocaleDateString("en", { weekday: "short", day: "numeric", month: "short" });
}

function startOfDay(date: Date): Date {
  return new Date(date.getFullYear(), date.getMonth(), date.getDate());
}

export function clockWords(seconds: number): string {
  const whole = Math.max(0, Math.round(seconds));
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, "0")}`;
}
