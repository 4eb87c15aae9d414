import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import ButtonBase from "@mui/material/ButtonBase";
import Typography from "@mui/material/Typography";

import type { Schemas } from "../../../api/client";
import { colours } from "../../../app/theme";

interface Props {
  ladder: Schemas["LadderOut"];
  bpm: number;
  onPick: (bpm: number) => void;
}

/** The tempo ladder: each rung a plank, higher ones to the right and up. The next one is offered when it has been earned; any may be taken. */
export function Rungs({ ladder, bpm, onPick }: Props) {
  const { rungs, reached_bpm, offered_bpm, clean_in_a_row, in_a_row, done } = ladder;
  const own = rungs.findLast((rung) => rung <= bpm + 0.5) ?? rungs[0]!;
  const left = Math.max(clean_in_a_row - in_a_row, 0);
  const reward = own === rungs.at(-1) ? "and you are at the top" : "and the next rung opens";
  return (
    <Box component="section" aria-label="Tempo ladder">
      <Box sx={{ display: "flex", alignItems: "flex-end", gap: 0.75, flexWrap: "wrap" }}>
        {rungs.map((rung, at) => {
          const reached = reached_bpm !== null && rung <= reached_bpm + 0.5;
          const here = rung === own;
          return (
            <ButtonBase
              key={rung}
              onClick={() => onPick(rung)}
              aria-pressed={here}
              aria-label={`${Math.round(rung)}${reached ? ", played clean" : ""}`}
              sx={{
                width: 58,
                height: 46 + (30 * at) / Math.max(rungs.length - 1, 1),
                alignItems: "flex-end",
                pb: 1,
                borderRadius: 1,
                fontFamily: "body1.fontFamily",
                fontSize: "1.1rem",
                fontWeight: here ? 700 : 400,
                color: here ? colours.card : colours.ink,
                bgcolor: here ? colours.spruce : reached ? colours.moss : colours.card,
                border: `2px ${reached || here ? "solid" : "dashed"} ${here ? colours.spruce : colours.edge}`,
                "&:focus-visible": { outline: `3px solid ${colours.lantern}`, outlineOffset: 2 },
              }}
            >
              {Math.round(rung)}
            </ButtonBase>
          );
        })}
      </Box>
      <Typography sx={{ fontSize: "1.15rem", mt: 1 }} aria-live="polite">
        {done
          ? `You are at the top: ${Math.round(rungs.at(-1)!)}, and clean.`
          : offered_bpm !== null
            ? `Clean ${clean_in_a_row === 1 ? "once" : `${clean_in_a_row} times`} at ${Math.round(ladder.bpm)}. The next rung is ${Math.round(offered_bpm)}, when you like.`
            : own !== ladder.bpm || in_a_row === 0
              ? `${clean_in_a_row} clean ${clean_in_a_row === 1 ? "go" : "goes in a row"}, ${reward}. Slow and clean is just right.`
              : `${left} more clean ${left === 1 ? "go" : "goes"} in a row at ${Math.round(ladder.bpm)}, ${reward}.`}
      </Typography>
      {offered_bpm !== null && own !== offered_bpm && (
        <Button variant="outlined" size="large" sx={{ mt: 1 }} onClick={() => onPick(offered_bpm)}>
          Up to {Math.round(offered_bpm)}
        </Button>
      )}
    </Box>
  );
}
