import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import Paper from "@mui/material/Paper";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";

import type { Schemas } from "../../api/client";
import type { Words } from "./words";

type Instrument = Schemas["InstrumentOut"]["key"];
const SEEN = [0, 1, 2, 3, 5, 10, 50];
const MOST_LINES = 8;

interface Props {
  kept: Words;
  catalogue: Schemas["Catalogue"];
  onChange: (part: Partial<Words>) => void;
}

/** What pupils look at before they play, by instrument; and how much of their practice is the teacher's to look into. */
export function Practice({ kept, catalogue, onChange }: Props) {
  const [key, setKey] = useState<Instrument>("violin");
  const own = catalogue.instruments.find((entry) => entry.key === key)!;
  const lines = kept.checklists[key] ?? own.checklist;
  return (
    <Paper component="section" aria-label="Practice at home" sx={{ p: 2.5, display: "grid", gap: 2 }}>
      <Typography variant="h2">Practice at home</Typography>
      <TextField
        select
        size="small"
        label="Goes that you may look into"
        value={kept.goes_seen}
        onChange={(event) => onChange({ goes_seen: Number(event.target.value) })}
        helperText="Beside what is handed in. What a pupil records is theirs until then."
        sx={{ maxWidth: 420 }}
      >
        {[...new Set([...SEEN, kept.goes_seen])]
          .sort((one, other) => one - other)
          .map((count) => (
            <MenuItem key={count} value={count}>
              {count === 0
                ? "none"
                : count === 1
                  ? "the last one of each exercise"
                  : `the last ${count} of each exercise`}
            </MenuItem>
          ))}
      </TextField>
      <TextField
        select
        size="small"
        label="Before playing, on the"
        value={key}
        onChange={(event) => setKey(event.target.value as Instrument)}
        sx={{ maxWidth: 220 }}
      >
        {catalogue.instruments.map((entry) => (
          <MenuItem key={entry.key} value={entry.key}>
            {entry.name.toLowerCase()}
          </MenuItem>
        ))}
      </TextField>
      <Checklist
        key={`${key} ${lines.join("\n")}`}
        lines={lines}
        mine={key in kept.checklists}
        onKeep={(next) => onChange({ checklists: { ...kept.checklists, [key]: next } })}
        onDrop={() =>
          onChange({
            checklists: Object.fromEntries(
              Object.entries(kept.checklists).filter(([instrument]) => instrument !== key),
            ),
          })
        }
      />
    </Paper>
  );
}

interface ChecklistProps {
  lines: string[];
  mine: boolean;
  onKeep: (lines: string[]) => void;
  onDrop: () => void;
}

function Checklist({ lines, mine, onKeep, onDrop }: ChecklistProps) {
  const [text, setText] = useState(lines.join("\n"));
  const next = text
    .split("\n")
    .map((line) => line.trim())
    .filter(Boolean);
  const fault =
    next.length === 0
      ? "One thing at least."
      : next.length > MOST_LINES
        ? `${MOST_LINES} things at most.`
        : next.some((line) => line.length > 60)
          ? "Shorter: sixty letters a line at most."
          : null;
  return (
    <Box sx={{ display: "flex", gap: 1, alignItems: "flex-start", flexWrap: "wrap" }}>
      <TextField
        multiline
        minRows={4}
        label="What to look at, a line each"
        value={text}
        error={fault !== null}
        helperText={fault ?? "A few words each: the pupil ticks them before playing."}
        onChange={(event) => setText(event.target.value)}
        sx={{ flex: "1 1 320px", maxWidth: 480 }}
      />
      <Button
        variant="outlined"
        disabled={fault !== null || next.join("\n") === lines.join("\n")}
        onClick={() => onKeep(next)}
      >
        Keep
      </Button>
      {mine && <Button onClick={onDrop}>Ours again</Button>}
    </Box>
  );
}
