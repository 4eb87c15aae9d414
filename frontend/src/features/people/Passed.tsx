import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Paper from "@mui/material/Paper";
import Typography from "@mui/material/Typography";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { answer, api, type Schemas } from "../../api/client";
import { Note } from "../../ui/states";
import { useSay } from "../../ui/vocabulary";
import { dayWords } from "../../ui/words";
import { PassDialog } from "./PassDialog";
import { rubricWords } from "./rubric";

/** Keys, patterns and steps that a teacher has passed; more can be, also what was never set. */
export function Passed({ pupilId, story }: { pupilId: string; story: Schemas["Story"] }) {
  const say = useSay();
  const queries = useQueryClient();
  const [passing, setPassing] = useState<{ recipe: Schemas["Recipe"]; title: string } | null>(null);
  const back = useMutation({
    mutationFn: (id: string) => answer(api.DELETE("/api/passed/{id}", { params: { path: { id } } })),
    onSuccess: () => void queries.invalidateQueries(),
  });
  const passed = new Set(story.passed.map((own) => own.key));
  const open = story.steps.filter((step) => !passed.has(step.key));
  return (
    <Box sx={{ display: "grid", gap: 2, maxWidth: 900 }}>
      {(story.keys.length > 0 || story.patterns.length > 0) && (
        <Typography>
          {story.keys.length > 0 && (
            <>
              <b>Keys:</b> {story.keys.join(", ")}.{" "}
            </>
          )}
          {story.patterns.length > 0 && (
            <>
              <b>Patterns:</b> {story.patterns.map(say).join(", ")}.
            </>
          )}
        </Typography>
      )}
      <Paper component="ul" aria-label="Passed" sx={{ listStyle: "none", m: 0, p: 0 }}>
        {story.passed.length === 0 && (
          <Typography component="li" sx={{ p: 2 }}>
            Nothing is passed yet. A step is passed here, or with a take while you listen.
          </Typography>
        )}
        {story.passed.map((own) => (
          <Box
            component="li"
            key={own.id}
            sx={{
              p: 1.5,
              borderTop: 1,
              borderColor: "divider",
              "&:first-of-type": { borderTop: 0 },
              display: "flex",
              gap: 2,
              flexWrap: "wrap",
            }}
          >
            <Box sx={{ flex: "1 1 300px" }}>
              <Typography>
                <b>{say(own.title)}</b>, {dayWords(own.created_at)}
                {own.at_lesson && ", at a lesson"}
              </Typography>
              {own.rubric.length > 0 && (
                <Typography sx={{ color: "text.secondary" }}>
                  {own.rubric.map(({ line, word }) => `${line}: ${rubricWords[word]}`).join(" · ")}
                </Typography>
              )}
              {own.remark && <Typography>“{own.remark}”</Typography>}
            </Box>
            <Button
              size="small"
              disabled={back.isPending}
              onClick={() => back.mutate(own.id)}
              aria-label={`Take back: ${own.title}`}
            >
              Take it back
            </Button>
          </Box>
        ))}
      </Paper>
      {back.isError && <Note>{back.error.message}</Note>}
      {open.length > 0 && (
        <Box component="section" aria-label="Not passed yet">
          <Typography variant="h2">Set, and not passed yet</Typography>
          <Box component="ul" sx={{ listStyle: "none", m: 0, p: 0 }}>
            {open.map((step) => (
              <Box component="li" key={step.key} sx={{ display: "flex", gap: 2, alignItems: "center", py: 0.5 }}>
                <Box sx={{ flexGrow: 1 }}>{say(step.title)}</Box>
                <Button
                  size="small"
                  variant="outlined"
                  onClick={() => setPassing(step)}
                  aria-label={`Pass: ${step.title}`}
                >
                  Pass it
                </Button>
              </Box>
            ))}
          </Box>
        </Box>
      )}
      {passing && (
        <PassDialog pupilId={pupilId} recipe={passing.recipe} title={passing.title} onClose={() => setPassing(null)} />
      )}
    </Box>
  );
}
