import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import { Link } from "react-router";

import { colours } from "../../app/theme";
import { pieceWords } from "../../ui/pieces";
import { useSay } from "../../ui/vocabulary";
import { dayWords, verdictWords } from "../../ui/words";
import type { Go, Room } from "./useRoom";

const SHOWN = 8;

/** The pupil's own goes, the newest first: what is with the teacher, what the teacher said, and which is the best to hand in. */
export function Goes({ room }: { room: Room }) {
  const say = useSay();
  if (!room.goes.length) return null;
  // The favourites are never out of reach, however long ago they were.
  const shown = room.goes.filter((own, at) => at < SHOWN || own.kept || own.handed_in || own.id === room.best_id);
  return (
    <Box component="section" aria-label="Your goes">
      <Typography variant="h2" sx={{ fontSize: "1.2rem", mb: 0.5 }}>
        Your goes
      </Typography>
      <Box component="ul" sx={{ listStyle: "none", p: 0, m: 0 }}>
        {shown.map((own) => (
          <Box component="li" key={own.id} sx={{ borderTop: `1px solid ${colours.line}`, fontSize: "1.1rem" }}>
            <Box
              component={Link}
              to={`/takes/${own.id}`}
              sx={{
                display: "flex",
                flexWrap: "wrap",
                columnGap: 2,
                py: 1.25,
                color: colours.ink,
                minHeight: 44,
                textDecoration: "none",
              }}
            >
              <Box component="span" sx={{ color: colours.spruce, textDecoration: "underline" }}>
                {dayWords(own.recorded_at)},{" "}
                {new Date(own.recorded_at).toLocaleTimeString("en", { hour: "2-digit", minute: "2-digit" })}
              </Box>
              <span>
                {own.bars ? `${say(pieceWords(own.bars))}, ` : ""}at {Math.round(own.bpm)}
              </span>
              <span>{goWords(own)}</span>
              {own.id === room.best_id && <b>your best: hand this one in?</b>}
              {own.kept && <span>a favourite</span>}
              {own.verdict ? (
                <b>your teacher: {verdictWords(own.verdict)}</b>
              ) : own.handed_in ? (
                <b>with your teacher</b>
              ) : null}
            </Box>
          </Box>
        ))}
      </Box>
    </Box>
  );
}

function goWords(own: Go): string {
  if (own.state === "waiting" || own.state === "checking") return "being listened to";
  if (own.state === "stuck") return "not listened to yet";
  if (own.refusal) return own.refusal;
  return own.good ? "a good go" : `pitch ${own.pitch_word}`;
}
