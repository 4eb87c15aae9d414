import { useMutation, useQueryClient } from "@tanstack/react-query";

import { answer, api, type Schemas } from "../api/client";

/** One press puts a warm-up onto the week's sheet that is being written. */
export function useOntoSheet() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["AddToSheet"]) => answer(api.POST("/api/sheets/add", { body })),
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: ["sheets"] });
      void queries.invalidateQueries({ queryKey: ["sheet"] });
    },
  });
}
