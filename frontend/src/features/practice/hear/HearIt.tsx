import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import FormControlLabel from "@mui/material/FormControlLabel";
import Switch from "@mui/material/Switch";
import Typography from "@mui/material/Typography";
import { useEffect, useMemo, useState } from "react";

import type { Schemas } from "../../../api/client";
import { startOf, type Words, wordAt } from "../../../music/following";
import { PlayerBar } from "../../../music/PlayerBar";
import { usePlayer } from "../../../music/usePlayer";
import { Few } from "../../../ui/Few";
import { useSay } from "../../../ui/vocabulary";
import { Tempo } from "../play/Tempo";
import type { Room } from "../useRoom";

type Company = "alone" | "click" | "drone" | "backing";
const COMPANY: readonly [Company, string][] = [
  ["alone", "Alone"],
  ["click", "With a click"],
  ["drone", "Over a drone"],
  ["backing", "With a band"],
];
const WORDS: readonly [Words, string][] = [
  ["none", "No words"],
  ["names", "Note names"],
  ["cues", "Rhythm words"],
];

/** The demonstration is counted in as the pupil will be. */
function countWord(score: Schemas["ScoreOut"], time: number): string {
  const beats = (time * score.tempo_bpm) / 60;
  return score.count_in.findLast((own) => own.at_beats <= beats + 0.05)?.word ?? "…";
}

interface Props {
  room: Room;
  score: Schemas["ScoreOut"];
  bpm: number;
  onTempo: (bpm: number) => void;
  onCurrent: (index: number | null) => void;
  onDone: () => void;
}

/** The line as it should sound: at any tempo, in company, with its words in time. */
export function HearIt({ room, score, bpm, onTempo, onCurrent, onDone }: Props) {
  const say = useSay();
  const [company, setCompany] = useState<Company>("alone");
  const [only, setOnly] = useState(false);
  const [words, setWords] = useState<Words>("none");
  // Of call and response only the calls are heard: the answers are the pupil's.
  const calls = "&company=calls&line=false";
  const beside = company === "alone" ? "" : `&company=${company}${only ? "&line=false" : ""}`;
  const src = score.demonstration_url + (score.calls ? calls : beside);
  const onsets = useMemo(
    () => score.demonstration_onsets.map((at, index) => ({ index, at })),
    [score.demonstration_onsets],
  );
  const player = usePlayer(src, onsets);
  const { current, playing, time } = player;
  useEffect(() => {
    onCurrent(current);
    return () => onCurrent(null);
  }, [current, onCurrent]);
  const first = score.notes[0];
  const began = (score.demonstration_onsets[0] ?? 0) - ((first?.start_beats ?? 0) * 60) / score.tempo_bpm;
  const said = playing ? wordAt(score, ((time - began) * score.tempo_bpm) / 60, words) : "";
  const counting = playing && time < began + (startOf(score) * 60) / score.tempo_bpm;
  return (
    <Box sx={{ mt: 3, display: "grid", gap: 2.5 }}>
      {words !== "none" && !score.hidden && (
        <Typography
          aria-hidden="true"
          sx={{
            fontFamily: "h1.fontFamily",
            fontSize: "3.4rem",
            fontWeight: 600,
            textAlign: "center",
            minHeight: "4.6rem",
          }}
        >
          {counting ? countWord(score, time) : said}
        </Typography>
      )}
      <PlayerBar key={src} player={player} src={src} name="the line" large ownTempo />
      {score.calls && (
        <Typography>{say("Each bar is played to you first; in the silence after it you answer.")}</Typography>
      )}
      <Tempo room={room} bpm={bpm} onPick={onTempo} label="How fast to hear it" />
      {!score.calls && (
        <Box sx={{ display: "grid", gap: 1 }}>
          <Few label="With whom" value={company} values={COMPANY} onPick={setCompany} />
          {company !== "alone" && (
            <FormControlLabel
              control={<Switch checked={only} onChange={(event) => setOnly(event.target.checked)} />}
              label="Leave the line to me: I play along"
            />
          )}
        </Box>
      )}
      {!score.hidden && <Few label="What is said" value={words} values={WORDS} onPick={setWords} />}
      <Typography sx={{ color: "text.secondary" }}>
        Say it or sing it with me, then go on. With headphones? Keep them low.
      </Typography>
      <Button
        variant="contained"
        size="large"
        onClick={onDone}
        sx={{ fontSize: "1.35rem", px: 5, minHeight: 64, justifySelf: "start" }}
      >
        Now I play it
      </Button>
    </Box>
  );
}
