import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import FormControlLabel from "@mui/material/FormControlLabel";
import Switch from "@mui/material/Switch";
import Typography from "@mui/material/Typography";
import { useMemo, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";

import type { Schemas } from "../../api/client";
import { Fingerboard } from "../../music/Fingerboard";
import { asHeard, noteWords } from "../../music/nests";
import { PlayerBar } from "../../music/PlayerBar";
import { PulseStrip } from "../../music/PulseStrip";
import { ScoreView } from "../../music/ScoreView";
import { useTake, useTakeOnScore } from "../../music/useTake";
import { Loading, Note, Trouble } from "../../ui/states";
import { useShortcuts } from "../../ui/shortcuts";
import { useSay } from "../../ui/vocabulary";
import { feltWords, pieceWords } from "../../ui/pieces";
import { dayWords, instrumentWords } from "../../ui/words";
import { Beside } from "./Beside";
import { Figures } from "./Figures";
import { MarkPanel } from "./MarkPanel";
import { NotePanel } from "./NotePanel";
import { NoteTable } from "./NoteTable";
import { Spots } from "./Spots";
import { useOverrules } from "./useOverrules";

const ASK_AGAIN_MS = 1000;

/** One take for the teacher: heard, seen, measured, and answered. */
export function TakePage() {
  const { id = "" } = useParams();
  const take = useTake(id, ASK_AGAIN_MS);
  if (take.isPending) return <Loading what="Fetching the take" />;
  if (take.isError) return <Trouble error={take.error} again={() => void take.refetch()} />;
  return <Take key={take.data.id} take={take.data} />;
}

function Take({ take }: { take: Schemas["TakeOut"] }) {
  const { ref, score, player, accepted, pointedNote, setPointed, playNote } = useTakeOnScore(take);
  const [tuningIn, setTuningIn] = useState(false);
  const takenOff = Object.keys(accepted?.tuning.taken_off ?? {}).length > 0;
  const shown = accepted && tuningIn ? asHeard(accepted.notes) : accepted?.notes;
  const go = useNavigate();
  const say = useSay();
  const [lit, setLit] = useState<number[]>([]);
  const [chosen, setChosen] = useState<number | null>(null);
  const overruling = useOverrules(take);
  const report = take.report;
  const spots = useMemo(() => awayPlaces(report), [report]);
  const { toggle, playSpans } = player;
  const worthHearing = take.spots;
  const hearSpots = useMemo(
    () =>
      worthHearing.length > 0
        ? () => playSpans(worthHearing.map((spot) => ({ from: spot.start_s, to: spot.end_s })))
        : undefined,
    [playSpans, worthHearing],
  );

  const next = take.next_unmarked_id;
  const keys = useMemo(
    () => ({
      " ": toggle,
      s: hearSpots,
      ArrowDown: next ? () => void go(`/listening/${next}`) : undefined,
      ArrowUp: () => void go(-1),
    }),
    [toggle, hearSpots, go, next],
  );
  useShortcuts(keys);

  return (
    <Box
      sx={{
        display: "grid",
        gridTemplateColumns: { xs: "minmax(0, 1fr)", lg: "minmax(0, 1fr) 340px" },
        gap: 3,
        alignItems: "start",
      }}
    >
      <Box>
        <Box sx={{ display: "flex", flexWrap: "wrap", alignItems: "baseline", gap: 1, mb: 1.5 }}>
          <Box sx={{ flexGrow: 1 }}>
            <Typography variant="h1">
              {take.pupil_name}{" "}
              <Box component="span" sx={{ fontWeight: 400, color: "text.secondary" }}>
                {instrumentWords[take.instrument]} {take.size}
              </Box>
            </Typography>
            <Typography sx={{ color: "text.secondary" }}>
              {say(take.title)}
              {take.bars && `, ${say(pieceWords(take.bars))}`} · {dayWords(take.recorded_at)}
              {take.felt && take.need !== "help" && ` · felt ${feltWords[take.felt]}`}
              {take.need && take.why && (
                <>
                  {" · "}
                  <b>{say(take.why)}</b>
                </>
              )}
            </Typography>
          </Box>
          {take.next_unmarked_id ? (
            <Button className="no-print" component={Link} to={`/listening/${take.next_unmarked_id}`} variant="text">
              Next take ↓ ({take.left} {take.left === 1 ? "waits" : "wait"})
            </Button>
          ) : (
            <Button className="no-print" component={Link} to="/listening" variant="text">
              Back to the list
            </Button>
          )}
        </Box>
        <FromThePupil take={take} />
        <StateNote take={take} />
        <Box ref={ref} sx={{ minHeight: 160 }}>
          {score.isError ? (
            <Trouble error={score.error} again={() => void score.refetch()} />
          ) : score.data ? (
            <ScoreView
              score={score.data}
              notes={shown}
              extras={report?.extras}
              current={player.current}
              lit={new Set(lit)}
              onPoint={setPointed}
              onPlay={(index) => {
                setChosen(index);
                playNote(index);
              }}
            />
          ) : (
            <Loading what="Engraving" />
          )}
        </Box>
        <Typography aria-live="polite" sx={{ minHeight: 28, my: 1, color: "text.secondary" }}>
          {pointedNote && score.data
            ? noteWords(pointedNote, score.data.notes[pointedNote.index]?.spoken ?? pointedNote.name)
            : accepted
              ? "Point at a nest to read it; choose it to hear it, and to say what your ear says."
              : ""}
        </Typography>
        {takenOff && (
          <FormControlLabel
            className="no-print"
            control={<Switch checked={tuningIn} onChange={(_, checked) => setTuningIn(checked)} />}
            label="Show how it sounded, with the strings as they are tuned"
          />
        )}
        {chosen !== null && accepted?.notes[chosen] && score.data && (
          <NotePanel
            note={accepted.notes[chosen]}
            notes={accepted.notes}
            score={score.data}
            player={player}
            overruling={overruling}
          />
        )}
        {overruling.error && <Note>{overruling.error.message}</Note>}
        {take.sound_gone && <Note>The recording was deleted; what was measured of it stays.</Note>}
        {take.audio_url && (
          <Box className="no-print">
            <PlayerBar player={player} src={take.audio_url} name="the take" spots={spots.map((spot) => spot.at)} />
          </Box>
        )}
        {hearSpots && take.audio_url && (
          <Spots spots={worthHearing} onAll={hearSpots} onOne={(spot) => player.playSpan(spot.start_s, spot.end_s)} />
        )}
        {accepted && <PulseStrip report={accepted} lit={new Set(lit)} />}
        {accepted && score.data && (
          <Box sx={{ mt: 2 }}>
            <Fingerboard
              score={score.data}
              notes={shown ?? []}
              stringLengthMm={take.string_length_mm}
              lit={new Set(lit)}
            />
            <Box component="details" sx={{ mt: 1, overflowX: "auto" }}>
              <summary>Note by note</summary>
              <NoteTable score={score.data} notes={accepted.notes} stringLengthMm={take.string_length_mm} />
            </Box>
          </Box>
        )}
        <Beside take={take} />
        {take.picture_url && (
          <Box component="figure" sx={{ m: 0, mt: 2 }}>
            <Typography component="figcaption" variant="h2" sx={{ mb: 0.5 }}>
              The bow hold
            </Typography>
            <Box
              component="img"
              src={take.picture_url}
              alt={`Bow hold of ${take.pupil_name}`}
              sx={{ maxWidth: "min(480px, 100%)", borderRadius: 1 }}
            />
          </Box>
        )}
      </Box>
      <Box component="aside" sx={{ display: "grid", gap: 2.5 }}>
        {accepted && <Figures report={accepted} onLight={setLit} overruling={overruling} />}
        <Box className="no-print">
          <MarkPanel take={take} />
        </Box>
        {accepted && (
          <Box className="no-print" sx={{ display: "flex", gap: 1 }}>
            <Button size="small" variant="outlined" onClick={() => window.print()}>
              Print
            </Button>
            <Button size="small" variant="outlined" component="a" href={`/api/takes/${take.id}/report.pdf`} download>
              Report as PDF
            </Button>
          </Box>
        )}
        {take.engines.length > 1 && (
          <Typography sx={{ color: "text.secondary", fontSize: "0.9rem" }}>
            Checked by {take.engines.at(-1)};{" "}
            {take.engines.length === 2 ? "one earlier report is" : `${take.engines.length - 1} earlier reports are`}{" "}
            kept.
          </Typography>
        )}
      </Box>
    </Box>
  );
}

/** Onsets of the notes that are not home: ticks on the player. */
function awayPlaces(report: Schemas["Report"] | null) {
  return (report?.notes ?? []).flatMap((note) => {
    return note.onset_s !== null && note.status !== "unclear" && !note.in_tune
      ? [{ index: note.index, at: note.onset_s }]
      : [];
  });
}

/** What the pupil asks, and whether it was handed in at all. */
function FromThePupil({ take }: { take: Schemas["TakeOut"] }) {
  return (
    <>
      {!take.handed_in && <Note>A go at home, not handed in: {take.pupil_name} does not wait for a word on it.</Note>}
      {take.help_words !== null && (
        <Box sx={{ borderLeft: 3, borderColor: "secondary.main", pl: 1.5, mb: 1.5 }}>
          <Typography>
            <b>Asks for help</b>
            {take.help_words ? `: “${take.help_words}”` : "."}
          </Typography>
          {take.help_url && <audio controls preload="none" src={take.help_url} aria-label="The question, spoken" />}
        </Box>
      )}
    </>
  );
}

function StateNote({ take }: { take: Schemas["TakeOut"] }) {
  if (take.state === "waiting" || take.state === "checking")
    return <Note>This take is being checked; it fills in by itself.</Note>;
  if (take.state === "stuck") return <Note>The check did not come through. Your ears decide this one.</Note>;
  if (take.report && !take.report.accepted) return <Note>Not measured: {take.report.refusal?.teacher}</Note>;
  return null;
}
