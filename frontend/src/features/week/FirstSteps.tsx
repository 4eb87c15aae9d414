import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Paper from "@mui/material/Paper";
import Typography from "@mui/material/Typography";
import { Link } from "react-router";

import type { Schemas } from "../../api/client";
import { colours } from "../../app/theme";
import { useSay } from "../../ui/vocabulary";

/** From an empty studio to a first checked take: what is done, and the one thing that comes next. Gone once a take is there. */
export function FirstSteps({ week }: { week: Schemas["Week"] }) {
  const say = useSay();
  const steps: { name: string; done: boolean; words: string; to: string; act: string }[] = [
    {
      name: "A class",
      done: week.classes > 0,
      words: "A name is enough: Tuesday beginners.",
      to: "/people",
      act: "Make a class",
    },
    {
      name: "Its pupils, and their cards",
      done: week.pupils > 0,
      words: "Type or paste a list. Print the cards, and note which adult has said yes to recordings.",
      to: "/people",
      act: "Put pupils in",
    },
    {
      name: "A first warm-up",
      done: week.assignments.length > 0,
      words: "D major in quarters stands ready in the workshop: press Assign.",
      to: "/workshop",
      act: "Open the workshop",
    },
    {
      name: "A first take",
      done: week.takes > 0,
      words: "A pupil comes in with the card, plays, and hands it in. It waits for you under Listening.",
      to: "/listening",
      act: "Look for it",
    },
  ];
  const next = steps.findIndex((step) => !step.done);
  if (next < 0) return null;
  return (
    <Paper component="section" aria-label="First steps" sx={{ p: 2.5, mb: 2.5 }}>
      <Typography variant="h2" sx={{ mb: 1 }}>
        First steps
      </Typography>
      <Box component="ol" sx={{ listStyle: "none", m: 0, p: 0, display: "grid", gap: 1.5 }}>
        {steps.map((step, at) => (
          <Box component="li" key={step.name} sx={{ display: "flex", gap: 1.5, alignItems: "flex-start" }}>
            <svg width="26" height="26" viewBox="-13 -13 26 26" role="img" aria-label={step.done ? "done" : "to do"}>
              <circle
                r="10"
                fill={step.done ? colours.moss : "none"}
                stroke={at === next ? colours.lantern : colours.ring}
                strokeWidth="2"
              />
              {step.done && <circle r="4.5" fill={colours.spruce} />}
            </svg>
            <Box>
              <Typography sx={{ fontWeight: at === next ? 700 : 400 }}>{step.name}</Typography>
              {at === next && (
                <>
                  <Typography sx={{ color: "text.secondary", mb: 1 }}>{say(step.words)}</Typography>
                  <Button component={Link} to={step.to} variant="contained">
                    {step.act}
                  </Button>
                </>
              )}
            </Box>
          </Box>
        ))}
      </Box>
    </Paper>
  );
}
