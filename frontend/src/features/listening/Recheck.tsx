import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import LinearProgress from "@mui/material/LinearProgress";
import Typography from "@mui/material/Typography";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { answer, api } from "../../api/client";
import { Note } from "../../ui/states";

const ASK_AGAIN_MS = 1500;

/** Offers to check old takes with the ear of today, and shows how far it is; nothing where none is behind. */
export function Recheck() {
  const queries = useQueryClient();
  const [from, setFrom] = useState<number | null>(null);
  const progress = useQuery({
    queryKey: ["recheck"],
    queryFn: () => answer(api.GET("/api/recheck")),
    refetchInterval: (query) => (from !== null && query.state.data?.behind ? ASK_AGAIN_MS : false),
  });
  const start = useMutation({
    mutationFn: () => answer(api.POST("/api/recheck")),
    onSuccess: (told) => {
      setFrom(told.behind);
      void queries.invalidateQueries({ queryKey: ["recheck"] });
    },
  });
  const behind = progress.data?.behind ?? 0;
  if (from !== null && behind === 0)
    return <Note>All takes are checked by the ear of today. Earlier reports and your words are kept.</Note>;
  if (!behind) return null;
  return (
    <Box sx={{ mb: 2 }}>
      {from === null ? (
        <Note>
          {behind === 1 ? "One take was" : `${behind} takes were`} checked by an earlier ear.{" "}
          <Button size="small" onClick={() => start.mutate()} disabled={start.isPending}>
            Check again
          </Button>
        </Note>
      ) : (
        <Box role="status">
          <Typography gutterBottom>
            Checking again: {from - behind} of {from}
          </Typography>
          <LinearProgress
            variant="determinate"
            value={(100 * (from - behind)) / from}
            aria-label="Takes checked again"
          />
        </Box>
      )}
      {start.isError && <Note>{start.error.message}</Note>}
    </Box>
  );
}
