import { useQuery } from "@tanstack/react-query";

import { answer, api, type Schemas } from "../api/client";

export type Values = NonNullable<Schemas["StudioWords"]["values"]>;
type CountIn = NonNullable<Schemas["StudioWords"]["count_in"]>;

const CROTCHETS: [RegExp, string][] = [
  [/\b(w)hole notes?\b/gi, "semibreve"],
  [/\b(d)otted halves\b/gi, "dotted minim"],
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

/** What is shown (and read out) on each beat of the count-in. */
export function countIn(style: CountIn, beats: number): string[] {
  const numbers = Array.from({ length: beats }, (_, at) => String(at + 1));
  if (style === "4 3 2 1") return numbers.reverse();
  if (style === "1 2 ready go" && beats > 2) return [...numbers.slice(0, beats - 2), "ready", "go"];
  if (style === "1 and 2 and" && beats % 2 === 0) {
    return numbers.map((_, at) => (at % 2 ? "and" : String(at / 2 + 1)));
  }
  return numbers;
}

export function useStudioWords() {
  return useQuery({
    queryKey: ["studio-words"],
    queryFn: () => answer(api.GET("/api/studio/words")),
    staleTime: 5 * 60_000,
  });
}

/** Says our sentences in the studio's vocabulary; as they are until it is known. */
export function useSay(): (text: string) => string {
  const values = useStudioWords().data?.values;
  return (text) => (values ? inVocabulary(text, values) : text);
}
