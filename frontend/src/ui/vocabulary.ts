import { useQuery } from "@tanstack/react-query";

import { answer, api, type Schemas } from "../api/client";

export type Values = NonNullable<Schemas["StudioSettings"]["values"]>;

const CROTCHETS: [RegExp, string][] = [
  [/\b(w)hole notes?\b/gi, "semibreve"],
  [/\b(d)otted (?:halves|half notes?)\b/gi, "dotted minim"],
  [/\b(h)alf notes?\b/gi, "minim"],
  [/\b(s)ixteenths?( notes?)?\b/gi, "semiquaver"],
  [/\b(e)ighths?( notes?)?\b/gi, "quaver"],
  [/\b(q)uarters?( notes?)?\b/gi, "crotchet"],
];

/** A sentence of ours in the studio's vocabulary: "quarters" and "measure", or "crotchets" and "bar". */
export function inVocabulary(text: string, values: Values): string {
  if (values === "quarter")
    return text.replace(
      /\b([Bb])ar(s?)\b/g,
      (_, first: string, end: string) => `${first === "B" ? "M" : "m"}easure${end}`,
    );
  return CROTCHETS.reduce(
    (said, [pattern, word]) =>
      said.replace(pattern, (found: string, first: string) => {
        const plural = /s$/.test(found) || /ves$/.test(found);
        const own = first === first.toUpperCase() ? word[0]!.toUpperCase() + word.slice(1) : word;
        return own + (plural ? "s" : "");
      }),
    text,
  );
}

export function useStudioSettings() {
  return useQuery({
    queryKey: ["studio-settings"],
    queryFn: () => answer(api.GET("/api/studio/settings")),
    staleTime: 5 * 60_000,
  });
}

/** Says our sentences in the studio's vocabulary; as they are until it is known. */
export function useSay(): (text: string) => string {
  const values = useStudioSettings().data?.values;
  return (text) => (values ? inVocabulary(text, values) : text);
}
