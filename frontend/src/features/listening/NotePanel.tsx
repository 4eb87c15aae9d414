import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";

import type { Schemas } from "../../api/client";
import { colours } from "../../app/theme";
import { noteWords, type ReportNote } from "../../music/nests";
import { type Onset, type Player, usePlayer } from "../../music/usePlayer";
import { useSay } from "../../ui/vocabulary";
import type { Overruling } from "./useOverrules";

interface Props {
  note: ReportNote;
  notes: ReportNote[];
  score: Schemas["ScoreOut"];
  player: Player;
  overruling: Overruling;
}

const BEFORE_S = 0.12;
const NO_ONSETS: Onset[] = [];
const EARS: ["home" | "away" | "missed", string][] = [
  ["home", "It is home"],
  ["away", "It is not"],
  ["missed", "It was left out"],
];

/** One note of the take: alone, after the one before it, beside how it should sound; and the teacher's ear about it. */
export function NotePanel({ note, notes, score, player, overruling }: Props) {
  const { attach, duration, failed, playSpan } = usePlayer(score.demonstration_url, NO_ONSETS);
  const say = useSay();
  const before = notes[note.index - 1];
  const bar = notes.filter((own) => own.measure === note.measure);
  const heard = (from: ReportNote | undefined, to: ReportNote | undefined) => {
    if (from?.onset_s != null && to?.offset_s != null) player.playSpan(from.onset_s - BEFORE_S, to.offset_s);
  };
  const shouldSound = (from: number, to: number) => {
    const onsets = score.demonstration_onsets;
    const end = onsets[to + 1] ?? duration;
    playSpan(onsets[from]!, Math.max(end, onsets[from]! + 0.2));
  };
  const own = overruling.ofNote(note.index);
  const small = { size: "small", variant: "outlined" } as const;
  return (
    <Box
      component="section"
      aria-label="The chosen note"
      className="no-print"
      sx={{ border: `1px solid ${colours.ring}`, borderRadius: 1, p: 1.5, my: 1, bgcolor: colours.card }}
    >
      <audio ref={attach} src={score.demonstration_url} preload="auto" />
      <Typography sx={{ mb: 1 }}>
        <b>{say(`Bar ${note.measure}`)}</b>, {noteWords(note, score.notes[note.index]?.spoken ?? note.name)}
      </Typography>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "center" }}>
        <Button {...small} disabled={note.onset_s === null} onClick={() => heard(note, note)}>
          This note
        </Button>
        <Button {...small} disabled={before?.onset_s == null} onClick={() => heard(before, note)}>
          With the one before
        </Button>
        <Button
          {...small}
          disabled={!bar.some((one) => one.onset_s !== null)}
          onClick={() =>
            heard(
              bar.find((one) => one.onset_s !== null),
              bar.findLast((one) => one.offset_s !== null),
            )
          }
        >
          {say("This bar")}
        </Button>
        <Button {...small} onClick={() => shouldSound(note.index, note.index)}>
          The note as it should sound
        </Button>
        <Button {...small} onClick={() => shouldSound(bar[0]!.index, bar.at(-1)!.index)}>
          {say("The bar as it should sound")}
        </Button>
      </Box>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1, alignItems: "center", mt: 1 }}>
        <Typography component="span" sx={{ color: "text.secondary" }}>
          By your ear:
        </Typography>
        {EARS.map(([says, words]) => (
          <Button
            key={says}
            {...small}
            variant={own?.says === says ? "contained" : "outlined"}
            aria-pressed={own?.says === says}
            disabled={overruling.busy}
            onClick={() =>
              own?.says === says ? overruling.takeBack(own.id) : overruling.say({ note_index: note.index, says })
            }
          >
            {words}
          </Button>
        ))}
        {failed && (
          <Typography role="alert">How it should sound did not come. Reload the page to try again.</Typography>
        )}
      </Box>
    </Box>
  );
}
