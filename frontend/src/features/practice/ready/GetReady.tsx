import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import Typography from "@mui/material/Typography";
import { useQueryClient } from "@tanstack/react-query";

import type { Schemas } from "../../../api/client";
import type { Person } from "../../../app/session";
import type { Room } from "../useRoom";
import { FirstNote } from "./FirstNote";
import { TuningCheck } from "./TuningCheck";

interface Props {
  person: Person;
  room: Room;
  score: Schemas["ScoreOut"];
  assignmentId: string;
  onReady: () => void;
}

/** Before the first note: the body, the strings, the first note. Each can be passed over. */
export function GetReady({ person, room, score, assignmentId, onReady }: Props) {
  const queries = useQueryClient();
  return (
    <Box sx={{ mt: 3, display: "grid", gap: 3 }}>
      <Box component="section" aria-labelledby="body">
        <Typography id="body" variant="h2" sx={{ fontSize: "1.3rem", mb: 0.5 }}>
          Look at yourself
        </Typography>
        <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", sm: "1fr 1fr" } }}>
          {room.checklist.map((line) => (
            <FormControlLabel
              key={line}
              control={<Checkbox sx={{ p: 1.25, "& svg": { fontSize: 30 } }} />}
              label={line}
              slotProps={{ typography: { sx: { fontSize: "1.25rem" } } }}
            />
          ))}
        </Box>
        <Typography sx={{ fontSize: "1.05rem", color: "text.secondary" }}>
          Stop if anything hurts, and shake out your hands now and then. If it goes on hurting, tell an adult.
        </Typography>
      </Box>
      {person.may_record && (
        <>
          <Box component="section" aria-labelledby="strings">
            <Typography id="strings" variant="h2" sx={{ fontSize: "1.3rem", mb: 1 }}>
              Are your strings in tune?
            </Typography>
            <TuningCheck
              strings={score.strings}
              care={room.tuning_care}
              known={room.tuned_today}
              onHeard={() => void queries.invalidateQueries({ queryKey: ["room"] })}
            />
          </Box>
          {!score.hidden && (
            <Box component="section" aria-labelledby="first">
              <Typography id="first" variant="h2" sx={{ fontSize: "1.3rem", mb: 1 }}>
                Try the first note
              </Typography>
              <FirstNote assignmentId={assignmentId} score={score} walk={room.walk} />
            </Box>
          )}
        </>
      )}
      <Button
        variant="contained"
        size="large"
        onClick={onReady}
        sx={{ fontSize: "1.35rem", px: 5, minHeight: 64, justifySelf: "start" }}
      >
        I am ready
      </Button>
    </Box>
  );
}
