import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import LinearProgress from "@mui/material/LinearProgress";
import Typography from "@mui/material/Typography";
import { Link, useParams } from "react-router";

import type { Schemas } from "../../../api/client";
import type { Person } from "../../../app/session";
import { colours } from "../../../app/theme";
import { Fingerboard } from "../../../music/Fingerboard";
import { noteWords } from "../../../music/nests";
import { PlayerBar } from "../../../music/PlayerBar";
import { ScoreView } from "../../../music/ScoreView";
import { TakePicture } from "../../../music/TakePicture";
import { useTake, useTakeOnScore } from "../../../music/useTake";
import { Loading, Trouble } from "../../../ui/states";
import { pieceWords } from "../../../ui/pieces";
import { useSay } from "../../../ui/vocabulary";
import { verdictWords } from "../../../ui/words";
import { searchOf } from "../asked";
import { FOCI } from "../play/words";
import { Steps } from "../Steps";
import { AboutIt } from "./AboutIt";
import { NextRung } from "./NextRung";

const ASK_AGAIN_MS = 250;

/** After playing: one picture, one good thing, one thing to do. Follows the check by itself. */
export function ResultPage({ person }: { person: Person }) {
  const { id = "" } = useParams();
  const take = useTake(id, ASK_AGAIN_MS);
  if (take.isPending) return <Loading what="Fetching your take" />;
  if (take.isError) return <Trouble error={take.error} again={() => void take.refetch()} />;
  return (
    <>
      <Steps at="see" />
      <Result take={take.data} person={person} />
    </>
  );
}

/** To where it was played, with the same piece, tempo and way. */
function againAt(take: Schemas["TakeOut"]): string {
  const mode = take.report?.expectations.mode;
  const asked = {
    bpm: take.target_bpm,
    ...(take.bars && { bars: take.bars }),
    ...(mode && { mode }),
    ...(take.focus && { focus: take.focus }),
  };
  return `/practice/${take.assignment_id}${searchOf(asked, "play")}`;
}

function Result({ take, person }: { take: Schemas["TakeOut"]; person: Person }) {
  const { ref, score, player, accepted, pointedNote, setPointed, playNote } = useTakeOnScore(take);
  const report = take.report;
  const last = take.marks.at(-1);

  return (
    <Box ref={ref} sx={{ display: "flex", flexDirection: "column", gap: 2 }}>
      {/* On a phone the words come before the score: they are what there is room for. */}
      <Box sx={{ order: { xs: 2, sm: 0 } }}>
        {score.data && (
          <ScoreView
            score={score.data}
            notes={accepted?.notes}
            extras={accepted?.extras}
            current={player.current}
            onPoint={setPointed}
            onPlay={playNote}
          />
        )}
        {accepted && (
          <Typography aria-live="polite" sx={{ minHeight: 30, mt: 0.5, fontSize: "1.05rem", color: "text.secondary" }}>
            {pointedNote && score.data ? noteWords(pointedNote, score.data.notes[pointedNote.index]?.spoken ?? "") : ""}
          </Typography>
        )}
      </Box>
      <Box sx={{ order: 1 }}>
        {take.state === "waiting" || take.state === "checking" ? (
          <Box sx={{ mt: 4, display: "grid", gap: 2 }}>
            <Typography variant="h1" component="p" role="status">
              {take.state === "waiting" ? "Your take has arrived." : "Listening closely …"}
            </Typography>
            <LinearProgress aria-label="Listening to your take" sx={{ maxWidth: 420, height: 8, borderRadius: 4 }} />
          </Box>
        ) : accepted ? (
          <Words report={accepted} take={take} score={score.data} />
        ) : (
          <Box sx={{ mt: 3 }}>
            <Typography variant="h1" component="p" sx={{ mb: 3 }}>
              {report?.refusal?.words ?? "I could not check this one. Your teacher will listen to it."}
            </Typography>
            <Box sx={{ display: "flex", gap: 2, flexWrap: "wrap" }}>
              <Button component={Link} to={againAt(take)} variant="contained" size="large">
                Play again
              </Button>
              {report?.refusal?.assignment && (
                <Button component={Link} to={`/practice/${report.refusal.assignment}`} variant="outlined" size="large">
                  Open that one
                </Button>
              )}
            </Box>
            {report?.refusal && report.refusal.parent !== report.refusal.words && (
              <Box component="details" sx={{ mt: 2, fontSize: "1.05rem" }}>
                <summary>For a grown-up</summary>
                <Typography sx={{ mt: 0.5, fontSize: "inherit" }}>{report.refusal.parent}</Typography>
              </Box>
            )}
          </Box>
        )}
        {take.state !== "waiting" && take.state !== "checking" && <AboutIt take={take} mayRecord={person.may_record} />}
        {last && (
          <Box sx={{ mt: 3, bgcolor: colours.card, border: `1px solid ${colours.line}`, borderRadius: 2, p: 2 }}>
            <Typography variant="h2">Your teacher says</Typography>
            <Typography sx={{ fontSize: "1.2rem" }}>
              <b>{verdictWords(last.verdict)}.</b> {last.remark}
            </Typography>
          </Box>
        )}
      </Box>
      <Box sx={{ order: 3 }}>
        {take.audio_url && <PlayerBar player={player} src={take.audio_url} name="your take" large />}
      </Box>
    </Box>
  );
}

/** The same in other words, for who listens along and may not read music. */
function GrownUp({ advice }: { advice: Schemas["ReportAdvice"][] }) {
  const words = advice.flatMap((own) => (own.parent !== own.text ? [own.parent] : []));
  if (!words.length) return null;
  return (
    <Box component="details" sx={{ my: 1, fontSize: "1.05rem" }}>
      <summary>For a grown-up</summary>
      {words.map((own) => (
        <Typography key={own} sx={{ mt: 0.5, fontSize: "inherit" }}>
          {own}
        </Typography>
      ))}
    </Box>
  );
}

const NONE: ReadonlySet<number> = new Set();

/** Nothing is said of the tempo where there was no steady beat, or where pauses are allowed. */
function tempoWords(report: Schemas["Report"]): string {
  const { played_bpm, target_bpm } = report.tempo;
  if (played_bpm === null || report.expectations.mode === "pauses") return "";
  return `You played at ${Math.round(played_bpm)}; ${Math.round(target_bpm)} is set.`;
}

function Words({
  report,
  take,
  score,
}: {
  report: Schemas["Report"];
  take: Schemas["TakeOut"];
  score: Schemas["ScoreOut"] | undefined;
}) {
  const [praise, ...then] = report.advice;
  const changes = then.filter((advice) => advice.kind === "change");
  const afterwards = then.find((advice) => advice.kind === "next");
  const [first = afterwards, ...more] = changes;
  const inTheHand = changes.some((advice) => advice.cause !== null && report.causes[advice.cause]?.mm !== null);
  const say = useSay();
  const unsure = report.notes.filter((note) => note.status === "unclear").length;
  return (
    <Box
      sx={{
        mt: 2,
        display: "grid",
        gridTemplateColumns: { xs: "1fr", sm: "minmax(220px, 320px) 1fr" },
        gap: { xs: 2, sm: 4 },
        alignItems: "center",
      }}
    >
      <Box sx={{ justifySelf: "center", width: "100%", maxWidth: 320 }}>
        <TakePicture notes={report.notes} />
      </Box>
      <Box>
        {praise && (
          <Typography variant="h1" component="p" sx={{ fontSize: "1.9rem", mb: 1 }}>
            {praise.text}
          </Typography>
        )}
        {first && <Typography sx={{ fontSize: "1.4rem", mb: 1 }}>{first.text}</Typography>}
        {more.map((own) => (
          <Typography key={own.text} sx={{ fontSize: "1.25rem", mb: 1 }}>
            {own.text}
          </Typography>
        ))}
        {afterwards && afterwards !== first && (
          <Typography sx={{ fontSize: "1.2rem", mb: 1 }}>{afterwards.text}</Typography>
        )}
        <NextRung take={take} />
        {inTheHand && score && (
          <Box sx={{ my: 1 }}>
            <Fingerboard score={score} notes={report.notes} stringLengthMm={take.string_length_mm} lit={NONE} plain />
          </Box>
        )}
        {(take.bars || take.focus) && (
          <Typography sx={{ fontSize: "1.1rem", color: "text.secondary", mb: 1 }}>
            {[take.bars && say(pieceWords(take.bars)), take.focus && FOCI[take.focus].name].filter(Boolean).join(" · ")}
          </Typography>
        )}
        <Typography sx={{ fontSize: "1.1rem", color: "text.secondary", mb: 1 }}>
          {tempoWords(report)}
          {unsure > 0 &&
            ` ${unsure === 1 ? "One note was" : `${unsure} notes were`} hard to hear; your teacher's ear decides.`}
        </Typography>
        <GrownUp advice={first ? [first, ...more] : more} />
        <Box sx={{ display: "flex", gap: 2, flexWrap: "wrap", mt: 2 }}>
          <Button
            component={Link}
            to={againAt(take)}
            variant="contained"
            size="large"
            sx={{ fontSize: "1.25rem", px: 4, minHeight: 60 }}
          >
            Play again
          </Button>
          <Button
            component={Link}
            to="/today"
            variant="outlined"
            size="large"
            sx={{ fontSize: "1.25rem", px: 4, minHeight: 60 }}
          >
            Done for now
          </Button>
        </Box>
      </Box>
    </Box>
  );
}
