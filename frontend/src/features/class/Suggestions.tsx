import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Paper from "@mui/material/Paper";
import Typography from "@mui/material/Typography";
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import { answer, api, type Schemas } from "../../api/client";
import { OntoSheet } from "../../ui/OntoSheet";
import { Empty, Loading, Note, Trouble } from "../../ui/states";
import { useSay } from "../../ui/vocabulary";
import { instrumentWords } from "../../ui/words";

const KINDS: Record<Schemas["SuggestionOut"]["kind"], string> = {
  repair: "To mend",
  next: "Next",
  surprise: "A surprise",
  again: "An old friend",
};

/** For each pupil what might come next, and why: taken, changed in the workshop, or passed over. */
export function Suggestions({ query }: { query: { class_id?: string } }) {
  const found = useQuery({
    queryKey: ["suggestions", query],
    queryFn: () => answer(api.GET("/api/suggestions", { params: { query } })),
  });
  if (found.isPending) return <Loading what="Thinking of what might come next" />;
  if (found.isError) return <Trouble error={found.error} again={() => void found.refetch()} />;
  const some = found.data.pupils.filter((pupil) => pupil.suggestions.length > 0);
  if (some.length === 0)
    return (
      <Empty title="Nothing comes to mind.">
        <Typography>
          A pupil with a learning path gets its next step here, with the reason; it is chosen on the pupil’s own page
          under People.
        </Typography>
      </Empty>
    );
  return (
    <Box sx={{ display: "grid", gap: 2, gridTemplateColumns: { xs: "1fr", lg: "1fr 1fr" }, alignItems: "start" }}>
      {some.map((pupil) => (
        <Paper component="section" key={pupil.pupil_id} aria-label={pupil.name} sx={{ p: 2 }}>
          <Typography variant="h3" component="h2" sx={{ mb: 0.5 }}>
            <Box component={Link} to={`/people/${pupil.pupil_id}`} sx={{ color: "inherit" }}>
              {pupil.name}
            </Box>{" "}
            <Box component="span" sx={{ color: "text.secondary", fontWeight: 400 }}>
              {instrumentWords[pupil.instrument]}
            </Box>
          </Typography>
          <SuggestionList pupilId={pupil.pupil_id} suggestions={pupil.suggestions} />
        </Paper>
      ))}
    </Box>
  );
}

interface ListProps {
  pupilId: string;
  suggestions: Schemas["SuggestionOut"][];
  /** Beside each other, where there is room. */
  beside?: boolean;
}

export function SuggestionList({ pupilId, suggestions, beside = false }: ListProps) {
  const say = useSay();
  // What was said since the list was fetched: it stays in its place until then, so that a slip can be taken back.
  const [resting, setResting] = useState<ReadonlySet<string>>(new Set());
  const decline = useMutation({
    mutationFn: ({ own, rests }: { own: Schemas["SuggestionOut"]; rests: boolean }) =>
      answer(
        api.PUT("/api/pupils/{id}/declined", {
          params: { path: { id: pupilId } },
          body: { recipe: own.recipe, rests },
        }),
      ),
    onSuccess: (_, { own, rests }) =>
      setResting((before) => {
        const next = new Set(before);
        if (rests) next.add(own.reason);
        else next.delete(own.reason);
        return next;
      }),
  });
  return (
    <Box
      component="ul"
      sx={{
        listStyle: "none",
        m: 0,
        p: 0,
        ...(beside && {
          display: "grid",
          columnGap: 3,
          gridTemplateColumns: { xs: "1fr", md: "repeat(auto-fit, minmax(300px, 1fr))" },
        }),
      }}
    >
      {suggestions.map((own) => (
        <Box component="li" key={own.reason} sx={{ py: 1, borderTop: 1, borderColor: "divider" }}>
          <Typography>
            <b>{KINDS[own.kind]}:</b> {say(own.title)}
          </Typography>
          {resting.has(own.reason) ? (
            <Typography role="status" sx={{ color: "text.secondary" }}>
              Let rest for three weeks.{" "}
              <Button size="small" onClick={() => decline.mutate({ own, rests: false })}>
                Bring it back
              </Button>
            </Typography>
          ) : (
            <>
              <Typography sx={{ color: "text.secondary", mb: 0.5 }}>{say(own.reason)}</Typography>
              <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "center" }}>
                <OntoSheet
                  body={{ recipe: own.recipe, pupil_ids: [pupilId] }}
                  words="Onto the sheet"
                  label={`Onto the sheet: ${own.title}`}
                />
                <Button size="small" component={Link} to="/workshop" state={{ recipe: own.recipe }}>
                  Change it first
                </Button>
                <Button
                  size="small"
                  disabled={decline.isPending}
                  onClick={() => decline.mutate({ own, rests: true })}
                  aria-label={`Not now: ${own.title}`}
                >
                  Not now
                </Button>
              </Box>
            </>
          )}
          {decline.isError && decline.variables.own === own && <Note>{decline.error.message}</Note>}
        </Box>
      ))}
    </Box>
  );
}
