import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Paper from "@mui/material/Paper";
import Typography from "@mui/material/Typography";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "react-router";

import { answer, api, type Schemas } from "../../api/client";
import { colours } from "../../app/theme";
import { Empty, Loading, Note, Trouble } from "../../ui/states";
import { dayWords, instrumentWords, verdictWords } from "../../ui/words";
import { FirstSteps } from "./FirstSteps";
import { useSay } from "../../ui/vocabulary";

type Assignment = Schemas["AssignmentOut"];

/** What is set, who has practised it, what waits. */
export function Week() {
  const week = useQuery({ queryKey: ["week"], queryFn: () => answer(api.GET("/api/week")), refetchInterval: 15_000 });
  if (week.isPending) return <Loading what="Looking at the week" />;
  if (week.isError) return <Trouble error={week.error} again={() => void week.refetch()} />;
  const { assignments, unmarked, checking, today } = week.data;
  return (
    <>
      <Box sx={{ display: "flex", flexWrap: "wrap", alignItems: "center", gap: 2, mb: 2.5 }}>
        <Box sx={{ flexGrow: 1 }}>
          <Typography variant="h1">This week</Typography>
          <Typography sx={{ color: "text.secondary" }}>
            {week.data.takes === 0
              ? "Nothing has been handed in yet."
              : unmarked === 0
                ? "Every take has your word."
                : `${unmarked} ${unmarked === 1 ? "take waits" : "takes wait"} for your word`}
            {checking > 0 && ` · ${checking} being checked`}
          </Typography>
        </Box>
        <Button component={Link} to="/workshop" variant="outlined">
          New warm-up
        </Button>
        <Button component={Link} to="/sheets" variant="outlined">
          Week’s sheet
        </Button>
        {unmarked > 0 && (
          <Button component={Link} to="/listening" variant="contained">
            Listen
          </Button>
        )}
      </Box>
      {week.data.takes === 0 && <FirstSteps week={week.data} />}
      {assignments.length === 0 && week.data.pupils === 0 ? null : assignments.length === 0 ? (
        <Empty title="Nothing is set yet.">
          <Typography sx={{ mb: 2 }}>
            Make a warm-up in the workshop; it goes to every pupil in their own clef and fingering.
          </Typography>
          <Button component={Link} to="/workshop" variant="contained">
            Open the workshop
          </Button>
        </Empty>
      ) : (
        <Box sx={{ display: "grid", gap: 2, gridTemplateColumns: { xs: "1fr", lg: "1fr 1fr" }, alignItems: "start" }}>
          {assignments.map((assignment) => (
            <AssignmentCard key={assignment.id} assignment={assignment} past={assignment.due_on < today} />
          ))}
        </Box>
      )}
    </>
  );
}

function AssignmentCard({ assignment, past }: { assignment: Assignment; past: boolean }) {
  const say = useSay();
  const queries = useQueryClient();
  const takeBack = useMutation({
    mutationFn: () => answer(api.DELETE("/api/assignments/{id}", { params: { path: { id: assignment.id } } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["week"] }),
  });
  const practised = assignment.standings.filter((s) => s.takes > 0).length;
  return (
    <Paper component="section" sx={{ p: 2, opacity: past ? 0.85 : 1 }}>
      <Box sx={{ display: "flex", alignItems: "baseline", gap: 1 }}>
        <Typography variant="h3" component="h2" sx={{ flexGrow: 1 }}>
          {say(assignment.title)}
        </Typography>
        <Typography sx={{ color: past ? "text.secondary" : "text.primary", whiteSpace: "nowrap" }}>
          {past ? "was due" : "due"} {dayWords(assignment.due_on)}
        </Typography>
      </Box>
      <Typography sx={{ color: "text.secondary", mb: 1 }}>
        up to {assignment.target_bpm} · {assignment.good_repeats} good goes a day · {practised} of{" "}
        {assignment.standings.length} have recorded
        {assignment.note && ` · “${assignment.note}”`}
      </Typography>
      <Box component="ul" sx={{ listStyle: "none", m: 0, p: 0 }}>
        {assignment.standings.map((standing) => (
          <Standing key={standing.pupil_id} standing={standing} />
        ))}
      </Box>
      {practised === 0 && !past && (
        <Button size="small" onClick={() => takeBack.mutate()} sx={{ mt: 1, color: colours.quiet }}>
          Take it back
        </Button>
      )}
      {takeBack.isError && <Note>{takeBack.error.message}</Note>}
    </Paper>
  );
}

function Standing({ standing }: { standing: Schemas["Standing"] }) {
  const status =
    standing.takes === 0
      ? "not yet"
      : standing.waiting > 0
        ? `${standing.waiting} to hear`
        : standing.last_verdict
          ? verdictWords(standing.last_verdict)
          : "";
  return (
    <Box
      component="li"
      sx={{ display: "flex", gap: 1.5, alignItems: "baseline", borderTop: `1px solid ${colours.line}`, py: 0.7 }}
    >
      <Box sx={{ flex: "1 1 40%", minWidth: 0 }}>
        {standing.pupil_name}{" "}
        <Box component="span" sx={{ color: "text.secondary" }}>
          {instrumentWords[standing.instrument]}
        </Box>
      </Box>
      <Box sx={{ flex: "0 0 auto", color: "text.secondary", whiteSpace: "nowrap" }}>
        {standing.takes > 0 && `${standing.good} of ${standing.takes} good`}
      </Box>
      <Box sx={{ flex: "0 0 130px", textAlign: "right" }}>
        {standing.last_take_id ? (
          <Box
            component={Link}
            to={`/listening/${standing.last_take_id}`}
            sx={{
              color: standing.waiting ? colours.lantern : colours.spruce,
              fontWeight: standing.waiting ? 700 : 400,
            }}
          >
            {status}
          </Box>
        ) : (
          <Box component="span" sx={{ color: "text.secondary" }}>
            {status}
          </Box>
        )}
      </Box>
    </Box>
  );
}
