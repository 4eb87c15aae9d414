import Paper from "@mui/material/Paper";
import Typography from "@mui/material/Typography";
import { useQuery } from "@tanstack/react-query";

import { answer, api } from "../../api/client";
import { SuggestionList } from "../class/Suggestions";

/** What might come next for one pupil; nothing is shown where nothing comes to mind. */
export function NextForPupil({ pupilId }: { pupilId: string }) {
  const found = useQuery({
    queryKey: ["suggestions", pupilId],
    queryFn: () => answer(api.GET("/api/suggestions", { params: { query: { pupil_id: pupilId } } })),
  });
  const own = found.data?.pupils[0];
  if (!own?.suggestions.length) return null;
  return (
    <Paper component="section" aria-label="What might come next" className="no-print" sx={{ p: 2, mb: 2 }}>
      <Typography variant="h2">What might come next</Typography>
      <SuggestionList beside pupilId={pupilId} suggestions={own.suggestions} />
    </Paper>
  );
}
