import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { Link } from "react-router";

import type { Schemas } from "../../../api/client";
import { searchOf } from "../asked";
import { useRoom } from "../useRoom";

/** After a good go below the target: that it is just right so, and which rung comes next. Offered, and never asked for. */
export function NextRung({ take }: { take: Schemas["TakeOut"] }) {
  const room = useRoom(take.assignment_id).data;
  if (!room?.ladder || take.bars || !take.report?.good_go?.good) return null;
  const { offered_bpm, clean_in_a_row, in_a_row, bpm, done } = room.ladder;
  const left = clean_in_a_row - in_a_row;
  const slow = take.target_bpm < room.target_bpm;
  return (
    <Box sx={{ my: 1 }}>
      <Typography sx={{ fontSize: "1.25rem" }}>
        {slow && "Slow and clean is just right. "}
        {offered_bpm !== null
          ? `The next rung is ${Math.round(offered_bpm)}, when you like.`
          : done
            ? `That is the tempo that is set, and clean.`
            : left > 0 &&
              `${left} more clean ${left === 1 ? "go" : "goes"} in a row at ${Math.round(bpm)}, and ${bpm < room.target_bpm ? "the next rung opens" : "you are at the top"}.`}
      </Typography>
      {offered_bpm !== null && (
        <Button
          component={Link}
          to={`/practice/${take.assignment_id}${searchOf({ bpm: offered_bpm }, "play")}`}
          variant="outlined"
          size="large"
          sx={{ mt: 1 }}
        >
          Up to {Math.round(offered_bpm)}
        </Button>
      )}
    </Box>
  );
}
