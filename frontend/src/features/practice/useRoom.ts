import { useQuery } from "@tanstack/react-query";

import { answer, api, type Schemas } from "../../api/client";
import type { Asked } from "../../recording/keep";

export type Room = Schemas["Room"];
export type Go = Schemas["GoOut"];

export const roomQuery = (id: string) => ({
  queryKey: ["room", id],
  queryFn: () => answer(api.GET("/api/assignments/{id}/room", { params: { path: { id } } })),
});

/** Goes, ladder and pieces of one exercise; while a go is being listened to it is asked for again. */
export function useRoom(id: string) {
  return useQuery({
    ...roomQuery(id),
    refetchInterval: (query) =>
      query.state.data?.goes.some((own) => own.state === "waiting" || own.state === "checking") ? 1500 : false,
  });
}

type StaffSize = "usual" | "large" | "largest";

export const scoreQuery = (
  id: string,
  width: number,
  asked: Pick<Asked, "bpm" | "bars">,
  size: StaffSize = "usual",
) => ({
  queryKey: ["practice", id, width, asked.bpm ?? null, asked.bars ?? null, size],
  queryFn: () =>
    answer(
      api.GET("/api/assignments/{id}/score", {
        params: {
          path: { id },
          query: {
            width,
            ...(asked.bpm && { bpm: asked.bpm }),
            ...(asked.bars && { first_bar: asked.bars.first, last_bar: asked.bars.last }),
            ...(size !== "usual" && { size }),
          },
        },
      }),
    ),
  staleTime: Infinity,
});
