import Box from "@mui/material/Box";
import Paper from "@mui/material/Paper";
import Typography from "@mui/material/Typography";

import type { Schemas } from "../../../api/client";
import { Empty } from "../../../ui/states";
import { useSay } from "../../../ui/vocabulary";
import { cellWords, StandingSign } from "../../class/standing";
import { Habits } from "./Habits";
import { StepPlot } from "./StepPlot";

/** One pupil over months: by exercise, and by habit. */
export function Story({ story }: { story: Schemas["Story"] }) {
  const say = useSay();
  const played = story.steps.filter((step) => step.goes.length > 0);
  const silent = story.steps.filter((step) => step.goes.length === 0);
  if (story.steps.length === 0)
    return (
      <Empty title="Nothing was set yet.">
        <Typography>What is set and recorded is shown here, exercise by exercise.</Typography>
      </Empty>
    );
  return (
    <Box sx={{ display: "grid", gap: 2, gridTemplateColumns: { xs: "minmax(0, 1fr)", lg: "1fr 1fr" } }}>
      {played.map((step) => (
        <Paper component="section" key={step.key} aria-label={step.title} sx={{ p: 2, minWidth: 0 }}>
          <Box sx={{ display: "flex", alignItems: "center", gap: 1, flexWrap: "wrap" }}>
            <StandingSign state={step.cell.state} />
            <Typography variant="h3" component="h2">
              {say(step.title)}
            </Typography>
            <Typography sx={{ color: "text.secondary" }}>{cellWords(step.cell)}</Typography>
          </Box>
          <StepPlot step={step} />
        </Paper>
      ))}
      {story.habits.length > 0 && <Habits habits={story.habits} />}
      {silent.length > 0 && (
        <Box component="section" aria-label="Not recorded yet">
          <Typography variant="h2">Not recorded yet</Typography>
          <Box component="ul" sx={{ m: 0, pl: 3 }}>
            {silent.map((step) => (
              <li key={step.key}>
                {say(step.title)} ({cellWords(step.cell)})
              </li>
            ))}
          </Box>
        </Box>
      )}
    </Box>
  );
}
