import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";

import type { Schemas } from "../../api/client";
import { colours } from "../../app/theme";
import { signed } from "../../ui/signed";
import type { Overruling } from "./useOverrules";

const MANY_LANDINGS = 4;

type Report = Schemas["Report"];
type Cause = Schemas["ReportCause"];

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
  const praise = report.advice.find((advice) => advice.kind === "praise");
  return (
    <Box component="section" aria-label="What was heard">
      <Typography variant="h2" gutterBottom>
        What was heard
      </Typography>
      {praise && (
        <Typography sx={{ borderLeft: `3px solid ${colours.spruce}`, pl: 1.5, mb: 1.5 }}>{praise.teacher}</Typography>
      )}
      {report.causes.slice(0, 4).map((cause, at) => (
        <CauseBox
          key={at}
          cause={cause}
          strong={report.advice.some((a) => a.kind === "change" && a.cause === at)}
          onLight={onLight}
          overruling={overruling}
        />
      ))}
      <Dimensions report={report} />
      <GoodGo report={report} />
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

/** Whether it counts as a good go, and why not. */
function GoodGo({ report }: { report: Report }) {
  const good = report.good_go;
  if (!good) return null;
  return (
    <Typography sx={{ fontSize: "0.95rem", mt: 0.5 }}>
      {good.good ? "Counts as a good go." : `Not counted as a good go: ${good.reasons.join(" ")}`}
    </Typography>
  );
}

/** Each time through, where there were several. */
function Goes({ report }: { report: Report }) {
  const goes = report.passes ?? [];
  if (goes.length < 2) return null;
  return (
    <Box sx={{ mt: 1.5 }}>
      <Typography variant="h2">
        {goes.length} goes{report.good_go?.in_a_row ? `, ${report.good_go.in_a_row} good in a row` : ""}
      </Typography>
      <Box component="ol" sx={{ pl: 2.5, my: 0.5 }}>
        {goes.map((go, at) => (
          <li key={at}>
            {go.complete ? `${go.pitch_home ?? "–"} in tune, ${go.time_home ?? "–"} in time` : "broken off"}
            {go.good ? ", good" : go.reasons?.length ? `. ${go.reasons.join(" ")}` : ""}
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
  onLight: (notes: number[]) => void;
  overruling: Overruling;
}

function CauseBox({ cause, strong, onLight, overruling }: CauseProps) {
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
          {cause.title}
        </Typography>
        <Button
          size="small"
          className="no-print"
          disabled={overruling.busy}
          aria-label={own ? `Take back: ${cause.title} is not so` : `${cause.title}: not so`}
          onClick={() => (own ? overruling.takeBack(own.id) : overruling.say({ cause: key, says: "not_so" }))}
          sx={{ minHeight: 28, py: 0, px: 1 }}
        >
          {own ? "Take back" : "Not so"}
        </Button>
      </Box>
      <Typography sx={{ fontSize: "0.95rem" }}>
        {own ? `Not so, by ${own.teacher_name}’s ear.` : `${cause.evidence} ${cause.sure ? "Sure" : "Likely"}.`}
      </Typography>
    </Box>
  );
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
      `${judged.completeness.played} of ${judged.completeness.of}${judged.completeness.stops ? `, ${judged.completeness.stops} ${judged.completeness.stops === 1 ? "stop" : "stops"}` : ""}`,
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
                  color: ["on the way", "too fast"].includes(word)
                    ? colours.lantern
                    : word === "not judged"
                      ? colours.plum
                      : colours.spruce,
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
