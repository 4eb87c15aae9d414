import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";

import type { Schemas } from "../../api/client";
import { colours } from "../../app/theme";
import { useSay } from "../../ui/vocabulary";
import type { Overruling } from "./useOverrules";

const MANY_LANDINGS = 4;
/** From here on a cause is called sure (the judge says at most 0.95). */
const SURE = 0.85;

type Report = Schemas["ReportOut"];
type Cause = Schemas["CauseOut"];

/** What was heard: the good, the causes with their evidence, and the four dimensions, each apart. */
export function Figures({
  report,
  onLight,
  overruling,
}: {
  report: Report;
  onLight: (notes: number[]) => void;
  overruling: Overruling;
}) {
  const say = useSay();
  const praise = report.advice.find((advice) => advice.kind === "praise");
  return (
    <Box component="section" aria-label="What was heard">
      <Typography variant="h2" gutterBottom>
        What was heard
      </Typography>
      {praise && (
        <Typography sx={{ borderLeft: `3px solid ${colours.spruce}`, pl: 1.5, mb: 1.5 }}>{say(praise.text)}</Typography>
      )}
      {report.causes.slice(0, 4).map((cause, at) => (
        <CauseBox
          key={at}
          cause={cause}
          strong={report.advice.some((a) => a.kind === "change" && a.cause === at)}
          words={report.advice.find((a) => a.cause === at)?.teacher ?? null}
          onLight={onLight}
          overruling={overruling}
        />
      ))}
      <Dimensions report={report} />
      {firstNote(report) && <Typography sx={{ fontSize: "0.95rem", mt: 0.5 }}>{firstNote(report)}</Typography>}
      <Goes report={report} />
      <Landings report={report} />
      <Typography sx={{ color: "text.secondary", fontSize: "0.9rem", mt: 1 }}>
        {judgedBy(report.expectations)}
      </Typography>
    </Box>
  );
}

function judgedBy(by: Report["expectations"]): string {
  const reference = by.a4_hz === null ? "the pupil’s own strings" : `A = ${by.a4_hz} Hz`;
  const way = { steady: "steady", pauses: "pauses allowed", repeats: "the best of several goes" }[by.mode];
  return `Judged by ±${by.pitch_cents} cents, ±${by.timing_ms} ms, ±${by.tempo_percent} % (${by.level.replace("-", " ")}), ${by.temperament}, ${reference}, ${way}.`;
}

/** Each time through, where there were several. */
function Goes({ report }: { report: Report }) {
  const goes = report.passes ?? [];
  if (goes.length < 2) return null;
  return (
    <Box sx={{ mt: 1.5 }}>
      <Typography variant="h2">
        {goes.length} goes{report.clean_in_a_row ? `, ${report.clean_in_a_row} clean in a row` : ""}
      </Typography>
      <Box component="ol" sx={{ pl: 2.5, my: 0.5 }}>
        {goes.map((go, at) => (
          <li key={at}>
            {go.complete ? `${go.pitch_home ?? "–"} in tune, ${go.time_home ?? "–"} in time` : "broken off"}
            {go.clean && ", clean"}
            {go.chosen && <b> (shown)</b>}
          </li>
        ))}
      </Box>
    </Box>
  );
}

/** Places to which a finger came back, where coming back was the exercise or happened often. */
function Landings({ report }: { report: Report }) {
  const landings = (report.landings ?? []).filter((own) => own.notes.length >= MANY_LANDINGS);
  if (!landings.length) return null;
  return (
    <Box component="details" sx={{ mt: 1.5 }} open={landings.length === 1}>
      <summary>Landings</summary>
      <Box component="ul" sx={{ pl: 2.5, my: 0.5 }}>
        {landings.map((own) => (
          <li key={`${own.string}${own.finger}${own.name}`}>
            {own.name.replace("#", "♯").replace("b", "♭")} ({own.string}
            {own.finger}): {signed(own.mean_cents)} cents on average, ±{Math.round(own.spread_cents)} apart, in{" "}
            {own.notes.length} landings
          </li>
        ))}
      </Box>
    </Box>
  );
}

interface CauseProps {
  cause: Cause;
  strong: boolean;
  words: string | null;
  onLight: (notes: number[]) => void;
  overruling: Overruling;
}

function CauseBox({ cause, strong, words, onLight, overruling }: CauseProps) {
  const key = cause.key;
  const own = overruling.ofCause(key);
  return (
    <Box
      tabIndex={0}
      onPointerEnter={() => onLight(cause.notes)}
      onPointerLeave={() => onLight([])}
      onFocus={() => onLight(cause.notes)}
      onBlur={() => onLight([])}
      sx={{
        p: 1.25,
        mb: 1,
        borderRadius: 1,
        bgcolor: strong && !own ? colours.lanternLight : "transparent",
        border: strong && !own ? 0 : `1px dashed ${colours.ring}`,
      }}
    >
      <Box sx={{ display: "flex", alignItems: "baseline", gap: 1 }}>
        <Typography sx={{ fontWeight: 700, flexGrow: 1, textDecoration: own ? "line-through" : undefined }}>
          {causeTitle(cause)}
        </Typography>
        <Button
          size="small"
          className="no-print"
          disabled={overruling.busy}
          aria-label={own ? `Take back: ${causeTitle(cause)} is not so` : `${causeTitle(cause)}: not so`}
          onClick={() => (own ? overruling.takeBack(own.id) : overruling.say({ cause: key, says: "not_so" }))}
          sx={{ minHeight: 28, py: 0, px: 1 }}
        >
          {own ? "Take back" : "Not so"}
        </Button>
      </Box>
      <Typography sx={{ fontSize: "0.95rem" }}>
        {own
          ? `Not so, by ${own.teacher_name}’s ear.`
          : `${words ?? causeEvidence(cause)} ${cause.confidence >= SURE ? "Sure" : "Likely"}.`}
      </Typography>
    </Box>
  );
}

const FINGERS = ["", "First finger", "Second finger", "Third finger", "Fourth finger"];

export function causeTitle(cause: Cause): string {
  const low = (cause.cents ?? 0) < 0;
  switch (cause.kind) {
    case "instrument":
      return `The instrument is ${low ? "low" : "high"}`;
    case "string":
      return `The ${cause.string} string is ${low ? "low" : "high"}`;
    case "hand":
      return `The whole hand stands ${low ? "low" : "high"}`;
    case "finger":
      return `${FINGERS[cause.finger ?? 0]} stands ${low ? "low" : "high"}`;
    case "place":
      return `${FINGERS[cause.finger ?? 0]} in its other place`;
    case "key_signature":
      return "The key signature was forgotten";
    case "wrong_string":
      return "On another string all through";
    case "direction":
      return `Coming down, the hand goes ${low ? "low" : "high"}`;
    case "crossing":
      return `After a crossing the finger is ${low ? "low" : "high"}`;
    case "scatter":
      return "No fixed place yet";
    case "half_step":
      return `Half steps too ${low ? "narrow" : "wide"}`;
    case "octave":
      return `Not with the open string: ${low ? "low" : "high"}`;
    case "crossing_late":
      return "A wait before each new string";
    case "shift_late":
      return "A wait before each shift";
    case "bow_late":
      return "A wait before each new bow";
    case "rest":
      return "The rests sound";
    case "rest_short":
      return "Rests cut short";
    case "rest_long":
      return "Rests too long";
    case "staccato":
      return "Staccato is held";
    case "note_value":
      return "Note values out of proportion";
    case "drift":
      return "The tempo drifts";
    case "stop":
      return "A stop";
    default:
      return cause.kind;
  }
}

function causeEvidence(cause: Cause): string {
  const parts: string[] = [];
  if (cause.cents !== null)
    parts.push(
      cause.kind === "scatter"
        ? `spread of ${Math.round(cause.cents)} cents`
        : `${Math.abs(Math.round(cause.cents))} cents ${cause.cents < 0 ? "flat" : "sharp"}`,
    );
  const percent = cause.detail?.["percent"];
  if (typeof percent === "number") parts.push(`${Math.abs(Math.round(percent))} % ${percent > 0 ? "more" : "less"}`);
  if (cause.mm !== null && cause.towards) parts.push(`${cause.mm} mm towards the ${cause.towards}`);
  parts.push(cause.notes.length === 1 ? "at one place" : `in ${cause.notes.length} notes`);
  return `${parts.join(" · ")}.`;
}

function Dimensions({ report }: { report: Report }) {
  const judged = report.judgement;
  if (!judged) return null;
  const rows: [string, string, string][] = [
    [
      "Pitch",
      judged.pitch.word,
      `${judged.pitch.home} of ${judged.pitch.of}${judged.pitch.median_cents === null ? "" : `, ${signed(judged.pitch.median_cents)} c`}`,
    ],
    ["Rhythm", judged.rhythm.word, judged.rhythm.spread_ms === null ? "" : `${Math.round(judged.rhythm.spread_ms)} ms`],
    [
      "Tempo",
      judged.tempo.word,
      report.tempo.played_bpm === null ? "" : `${Math.round(report.tempo.played_bpm)} of ${report.tempo.target_bpm}`,
    ],
    [
      "Complete",
      judged.completeness.word,
      `${judged.completeness.played} of ${judged.completeness.of}${judged.completeness.stops ? `, ${judged.completeness.stops} stops` : ""}`,
    ],
  ];
  return (
    <Box
      component="table"
      sx={{
        width: "100%",
        borderCollapse: "collapse",
        mt: 1.5,
        "& th, & td": { textAlign: "left", py: 0.4, fontWeight: 400 },
      }}
    >
      <tbody>
        {rows.map(([name, word, figure]) => (
          <tr key={name}>
            <th scope="row">{name}</th>
            <td>
              <Box
                component="span"
                sx={{
                  color:
                    word === "on the way" ? colours.lantern : word === "not judged" ? colours.plum : colours.spruce,
                  fontWeight: 700,
                }}
              >
                {word}
              </Box>
            </td>
            <Box component="td" sx={{ textAlign: "right !important" }}>
              {figure}
            </Box>
          </tr>
        ))}
      </tbody>
    </Box>
  );
}

/** How the first note was found: if it is right, the rest is likelier to be. */
function firstNote(report: Report): string | null {
  const first = report.first_note;
  if (!first || first.cents === null) return null;
  return first.home ? "The first note was home." : `The first note was ${signed(first.cents)} cents off.`;
}

function signed(value: number): string {
  return `${value > 0 ? "+" : value < 0 ? "−" : ""}${Math.abs(Math.round(value))}`;
}
