import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import type { Schemas } from "../../../api/client";
import { colours } from "../../../app/theme";
import type { Person } from "../../../app/session";
import { deviceHints, deviceState } from "../../../recording/device";
import type { Asked } from "../../../recording/keep";
import { Note } from "../../../ui/states";
import { useSay } from "../../../ui/vocabulary";
import type { Room } from "../useRoom";
import { InARow } from "./InARow";
import { Kept } from "./Kept";
import { MicrophoneHelp } from "./MicrophoneHelp";
import { OtherWays } from "./OtherWays";
import { RecordStage } from "./RecordStage";
import { Rungs } from "./Rungs";
import { Tempo } from "./Tempo";
import { useDelivery } from "./useDelivery";
import { useOnStand } from "./useOnStand";
import { usePlaying } from "./usePlaying";
import { Ways } from "./Ways";
import { FOCI } from "./words";

const FILES = ".wav,.flac,.ogg,.mp3,.webm,.m4a,.mp4,.mov,audio/*,video/mp4,video/quicktime,video/webm";

interface Props {
  person: Person;
  room: Room;
  score: Schemas["ScoreOut"];
  /** The score of what was chosen is on its way: until it is there nothing is counted in. */
  turning: boolean;
  assignmentId: string;
  width: number;
  asked: Asked;
  bpm: number;
  onChange: (change: Partial<Asked>) => void;
  /** Whether it is being recorded, and has the page for itself. */
  onAlone: (alone: boolean) => void;
}

/** Choosing what to play and how fast, and playing it. */
export function PlayIt({ person, room, score, turning, assignmentId, width, asked, bpm, onChange, onAlone }: Props) {
  const say = useSay();
  const [follow, setFollow] = useState(false);
  const [beatHeard, setBeatHeard] = useState(false);
  const [stopsItself, setStopsItself] = useState(true);
  const [way, setWay] = useState(0);
  const onStand = useOnStand(assignmentId, width, { ...asked, bpm }, score);
  const hints = useQuery({ queryKey: ["device"], queryFn: async () => deviceHints(await deviceState()) });
  const delivery = useDelivery(assignmentId, score.hidden);
  const { deliver, forget, sending, problem, waiting } = delivery;
  const mode = asked.mode ?? room.mode;
  const { bars, focus } = asked;
  const { recorder, recording, ready, begin, finish, choose } = usePlaying({
    person,
    score,
    turning,
    assignmentId,
    bpm,
    mode,
    asked,
    beatHeard,
    stopsItself,
    delivery,
    onAlone,
  });

  if (recording)
    return (
      <RecordStage recorder={recorder} score={onStand} follow={follow} sending={sending} onStop={() => void finish()} />
    );
  if (waiting && !waiting.file) return <Kept take={waiting} onAgain={forget} onSend={(take) => void deliver(take)} />;
  return (
    <Box sx={{ mt: 3, display: "grid", gap: 2.5 }}>
      {room.ladder && !bars ? (
        <Rungs ladder={room.ladder} bpm={bpm} onPick={(own) => onChange({ bpm: own })} />
      ) : (
        <Tempo room={room} bpm={bpm} onPick={(own) => onChange({ bpm: own })} label="How fast" />
      )}
      {score.calls && (
        <Typography sx={{ fontSize: "1.2rem" }}>
          {say("Each bar is played to you, and then it is your turn: I listen only while you answer.")}
        </Typography>
      )}
      <Ways ways={score.ways} at={way} onPick={setWay} />
      {focus && <Typography sx={{ fontSize: "1.2rem" }}>{FOCI[focus].words}</Typography>}
      {!bars && <InARow count={room.good_in_a_row} />}
      {!person.may_record ? (
        <Note>An adult has to say yes before your first recording. Ask your teacher.</Note>
      ) : (
        <Box
          sx={{
            display: "flex",
            flexWrap: "wrap",
            gap: 2,
            alignItems: "center",
            // On a phone the music fills the page: the one button stays in reach.
            position: { xs: "fixed", sm: "static" },
            left: 0,
            right: 0,
            bottom: 0,
            px: { xs: 2, sm: 0 },
            py: { xs: 1, sm: 0 },
            borderTop: { xs: `1px solid ${colours.line}`, sm: 0 },
            bgcolor: colours.paper,
            zIndex: 1,
          }}
        >
          <Button
            variant="contained"
            size="large"
            onClick={begin}
            disabled={!ready}
            sx={{ fontSize: "1.35rem", px: 5, minHeight: 64 }}
          >
            Count in and record
          </Button>
          <Button component="label" variant="outlined" size="large">
            Send a recording
            <input
              type="file"
              accept={FILES}
              hidden
              onChange={(event) => void choose(event.target.files?.[0])}
              data-testid="file"
            />
          </Button>
        </Box>
      )}
      {person.may_record && hints.data?.map((words) => <Note key={words}>{words}</Note>)}
      {recorder.problem && <MicrophoneHelp problem={recorder.problem} />}
      {problem && <Note>{problem}</Note>}
      <OtherWays
        {...{ room, bars, mode, follow, beatHeard, stopsItself }}
        focus={focus ?? "all"}
        hidden={score.hidden}
        onChange={onChange}
        onFollow={setFollow}
        onBeatHeard={setBeatHeard}
        onStopsItself={setStopsItself}
      />
    </Box>
  );
}
