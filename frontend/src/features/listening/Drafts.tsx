import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useQuery } from "@tanstack/react-query";

import { answer, api } from "../../api/client";

const SOURCES = { own: "your words of before", report: "from the report" };

/** Words that may be said: the teacher's own on the same thing, then the report's. They are taken into the field, to be changed. */
export function Drafts({ takeId, onTake }: { takeId: string; onTake: (text: string) => void }) {
  const drafts = useQuery({
    queryKey: ["drafts", takeId],
    queryFn: () => answer(api.GET("/api/takes/{id}/drafts", { params: { path: { id: takeId } } })),
  });
  if (!drafts.data?.drafts.length) return null;
  return (
    <Box component="ul" aria-label="Drafts" sx={{ listStyle: "none", m: 0, p: 0, mb: 1.5, display: "grid", gap: 0.5 }}>
      {drafts.data.drafts.map((draft) => (
        <li key={draft.text}>
          <Button
            variant="outlined"
            size="small"
            onClick={() => onTake(draft.text)}
            sx={{
              borderRadius: 2,
              textAlign: "left",
              justifyContent: "flex-start",
              width: "100%",
              px: 1.5,
              py: 0.75,
              fontWeight: 400,
            }}
          >
            <span>
              {draft.text}{" "}
              <Typography component="span" sx={{ color: "text.secondary", fontSize: "0.9rem" }}>
                ({SOURCES[draft.source]})
              </Typography>
            </span>
          </Button>
        </li>
      ))}
    </Box>
  );
}
