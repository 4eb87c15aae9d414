import Box from "@mui/material/Box";

import type { Schemas } from "../../api/client";
import { offMm } from "../../music/placing";
import { signed } from "../../ui/signed";

interface Props {
  score: Schemas["ScoreOut"];
  notes: Schemas["ReportNote"][];
  stringLengthMm: number;
}

const STATUS: Record<Schemas["ReportNote"]["status"], string> = {
  played: "played",
  wrong_pitch: "another pitch",
  missed: "not heard",
  unclear: "not sure",
};

/** Every note with its figures. */
export function NoteTable({ score, notes, stringLengthMm }: Props) {
  return (
    <Box
      component="table"
      sx={{
        borderCollapse: "collapse",
        width: "100%",
        "& td, & th": { p: 0.5, textAlign: "left", fontSize: "0.95rem" },
      }}
    >
      <thead>
        <tr>
          <th>Note</th>
          <th>Place</th>
          <th>Heard</th>
          <th>Cents</th>
          <th>mm</th>
          <th>ms</th>
          <th>Length</th>
        </tr>
      </thead>
      <tbody>
        {notes.map((note) => {
          const written = score.notes[note.index];
          const mm =
            written?.finger && written.semitones !== null && note.tuned_cents !== null
              ? signed(offMm(stringLengthMm, written.semitones, note.tuned_cents), 1)
              : "";
          return (
            <tr key={note.index}>
              <td>
                {note.measure}.{Number(note.beat.toFixed(2))} {written?.spoken ?? note.name}
              </td>
              <td>{note.string === null ? "" : `${note.string}${note.finger}`}</td>
              <td>{note.reason === "not_come_to" ? "not come to" : STATUS[note.status]}</td>
              <td>{note.tuned_cents === null ? "" : signed(note.tuned_cents)}</td>
              <td>{mm}</td>
              <td>{note.timing_ms === null ? "" : signed(note.timing_ms)}</td>
              <td>{note.duration_ratio === null ? "" : `${Math.round(note.duration_ratio * 100)} %`}</td>
            </tr>
          );
        })}
      </tbody>
    </Box>
  );
}
