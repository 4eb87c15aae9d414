import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";

import type { Schemas } from "../../api/client";
import type { Person } from "../../app/session";
import { colours } from "../../app/theme";
import { ScoreView } from "../../music/ScoreView";
import { useWidth } from "../../music/useWidth";
import type { Asked } from "../../recording/keep";
import { Loading, Trouble } from "../../ui/states";
import { pieceWords } from "../../ui/pieces";
import { useSay } from "../../ui/vocabulary";
import { type At, askedFrom, nowReady, placeFrom, readyToday, searchOf } from "./asked";
import { Goes } from "./Goes";
import { HearIt } from "./hear/HearIt";
import { PlayIt } from "./play/PlayIt";
import { GetReady } from "./ready/GetReady";
import { Steps } from "./Steps";
import { type Room, scoreQuery, useRoom } from "./useRoom";

/** One exercise, from getting ready to playing it; what was played is seen on its own page. */
export function Practice({ person }: { person: Person }) {
  const { id = "" } = useParams();
  const { ref, width } = useWidth<HTMLDivElement>();
  const room = useRoom(id);
  const trouble = room.isError && !room.data;
  return (
    <Box ref={ref}>
      {trouble ? (
        <Trouble error={room.error} again={() => void room.refetch()} />
      ) : room.data && width !== null ? (
        <Desk person={person} room={room.data} assignmentId={id} width={width} />
      ) : (
        <Loading what="Putting the music on the stand" />
      )}
    </Box>
  );
}

interface DeskProps {
  person: Person;
  room: Room;
  assignmentId: string;
  width: number;
}

function Desk({ person, room, assignmentId, width }: DeskProps) {
  const [search, setSearch] = useSearchParams();
  const asked = askedFrom(search);
  const at = placeFrom(search) ?? (!readyToday() ? "ready" : room.goes.length ? "play" : "hear");
  const bpm = asked.bpm ?? room.ladder?.bpm ?? room.target_bpm;
  const score = useQuery({
    ...scoreQuery(assignmentId, width, { ...asked, bpm }),
    placeholderData: (before) => before,
  });
  const go = (to: At, change: Partial<Asked> = {}) => {
    if (at === "ready") nowReady();
    setSearch(searchOf({ ...asked, ...change }, to), { replace: true });
  };
  if (score.isError && !score.data)
    return (
      <>
        <Trouble error={score.error} again={() => void score.refetch()} />
        {(asked.bpm !== undefined || asked.bars) && (
          <Button variant="outlined" onClick={() => go(at, { bpm: undefined, bars: undefined })} sx={{ mx: 3 }}>
            The whole line, as it was
          </Button>
        )}
      </>
    );
  if (!score.data) return <Loading what="Putting the music on the stand" />;
  return (
    <Stages
      person={person}
      room={room}
      score={score.data}
      turning={score.isPlaceholderData}
      assignmentId={assignmentId}
      width={width}
      at={at}
      asked={asked}
      bpm={bpm}
      go={go}
    />
  );
}

interface StagesProps extends DeskProps {
  score: Schemas["ScoreOut"];
  /** Another piece or tempo is on its way; this is still the one before. */
  turning: boolean;
  at: At;
  asked: Asked;
  bpm: number;
  go: (to: At, change?: Partial<Asked>) => void;
}

function Stages({ person, room, score, turning, assignmentId, width, at, asked, bpm, go }: StagesProps) {
  const say = useSay();
  const [current, setCurrent] = useState<number | null>(null);
  /** While it is recorded there is nothing else on the page. */
  const [alone, setAlone] = useState(false);
  const change = (own: Partial<Asked>) => go(at, own);
  return (
    <>
      {!alone && (
        <>
          <Steps at={at} onGo={go} />
          <Box sx={{ display: "flex", alignItems: "baseline", gap: 2, mb: 1.5, flexWrap: "wrap" }}>
            <Typography variant="h1" sx={{ flexGrow: 1 }}>
              {say(score.title)}
            </Typography>
            <Typography sx={{ color: "text.secondary", fontSize: "1.1rem" }}>
              {asked.bars ? `${say(pieceWords(asked.bars))}, ` : ""}at {Math.round(bpm)}
            </Typography>
          </Box>
          {score.hidden ? (
            <Typography sx={{ fontSize: "1.2rem", bgcolor: colours.card, borderRadius: 1, p: 3 }}>
              This one is for the ear. Hear it as often as you like, then play it back; the notes show themselves after
              your second try.
            </Typography>
          ) : (
            <ScoreView score={score} current={current} />
          )}
        </>
      )}
      {at === "ready" && (
        <GetReady
          person={person}
          room={room}
          score={score}
          assignmentId={assignmentId}
          onReady={() => go(room.goes.length ? "play" : "hear")}
        />
      )}
      {at === "hear" && (
        <HearIt
          room={room}
          score={score}
          bpm={bpm}
          onTempo={(own) => change({ bpm: own })}
          onCurrent={setCurrent}
          onDone={() => go("play")}
        />
      )}
      {at === "play" && (
        <PlayIt
          person={person}
          room={room}
          score={score}
          turning={turning}
          assignmentId={assignmentId}
          width={width}
          asked={asked}
          bpm={bpm}
          onChange={change}
          onAlone={setAlone}
        />
      )}
      {!alone && (
        // On a phone the button that records lies over the end of the page: nothing may lie under it.
        <Box sx={{ mt: 4, display: "grid", gap: 2, pb: at === "play" ? { xs: 16, sm: 0 } : 0 }}>
          <Goes room={room} />
          <Box component={Link} to="/today" sx={{ color: colours.spruce, py: 1.25, justifySelf: "start" }}>
            Back to today
          </Box>
        </Box>
      )}
    </>
  );
}
