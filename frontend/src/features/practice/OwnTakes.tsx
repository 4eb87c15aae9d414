import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";

import { answer, api } from "../../api/client";
import { colours } from "../../app/theme";
import { dayWords, verdictWords } from "../../ui/words";

/** The pupil's own earlier takes of this exercise, with the teacher's word. */
export function OwnTakes({ assignmentId }: { assignmentId: string }) {
  const takes = useQuery({
    queryKey: ["own-takes", assignmentId],
    queryFn: () => answer(api.GET("/api/assignments/{id}/takes", { params: { path: { id: assignmentId } } })),
  });
  if (!takes.data?.takes.length) return null;
  return (
    <Box component="section">
      <Typography variant="h2" sx={{ fontSize: "1.2rem", mb: 0.5 }}>
        Your takes
      </Typography>
      <Box component="ul" sx={{ listStyle: "none", p: 0, m: 0 }}>
        {takes.data.takes.map((take) => (
          <Box component="li" key={take.id} sx={{ borderTop: `1px solid ${colours.line}`, py: 1, fontSize: "1.1rem" }}>
            <Box component={Link} to={`/takes/${take.id}`} sx={{ color: colours.spruce }}>
              {dayWords(take.recorded_at)},{" "}
              {new Date(take.recorded_at).toLocaleTimeString("en", { hour: "2-digit", minute: "2-digit" })}
            </Box>{" "}
            {take.verdict ? <b>{verdictWords(take.verdict)}</b> : take.pitch_word ? `pitch ${take.pitch_word}` : ""}
          </Box>
        ))}
      </Box>
    </Box>
  );
}
