import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import FormControlLabel from "@mui/material/FormControlLabel";
import MenuItem from "@mui/material/MenuItem";
import Paper from "@mui/material/Paper";
import Switch from "@mui/material/Switch";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";

import type { Words } from "./words";

const KEPT_DAYS = [14, 30, 60, 90, 180, 365, 730, 1095];

/** What is looked at when a step is passed, how long recordings are kept, what an adult says yes to, and reminders. */
export function RecordSettings({ kept, onChange }: { kept: Words; onChange: (part: Partial<Words>) => void }) {
  return (
    <Paper component="section" aria-label="Record and recordings" sx={{ p: 2.5, display: "grid", gap: 2 }}>
      <Typography variant="h2">Record and recordings</Typography>
      <KeptText
        key={kept.rubric.join("\n")}
        label="What is looked at when a step is passed, a line each"
        helper="What no microphone can judge. Each is said with: not yet, nearly, yes."
        value={kept.rubric.join("\n")}
        most={610}
        onKeep={(text) =>
          onChange({
            rubric: text
              .split("\n")
              .map((line) => line.trim().slice(0, 60))
              .filter(Boolean)
              .slice(0, 10),
          })
        }
      />
      <TextField
        select
        size="small"
        label="Recordings are kept for"
        value={kept.keep_days}
        onChange={(event) => onChange({ keep_days: Number(event.target.value) })}
        helperText="After that the sound is deleted, once a night; what was measured of it stays."
        sx={{ maxWidth: 420 }}
      >
        {[...new Set([...KEPT_DAYS, kept.keep_days])]
          .sort((one, other) => one - other)
          .map((days) => (
            <MenuItem key={days} value={days}>
              {days} days
            </MenuItem>
          ))}
      </TextField>
      <Box>
        <FormControlLabel
          control={<Switch checked={kept.reminders} onChange={(_, reminders) => onChange({ reminders })} />}
          label="Reminders"
        />
        <Typography sx={{ color: "text.secondary", fontSize: "0.95rem" }}>
          A word to the adult at home, in the outbox, when something is due within three days and nothing was recorded
          of it.
        </Typography>
      </Box>
      <KeptText
        key={kept.consent_text}
        label="What an adult says yes to"
        helper="It stands beside the yes that you note under People."
        value={kept.consent_text}
        most={2000}
        onKeep={(consent_text) => onChange({ consent_text })}
      />
    </Paper>
  );
}

interface KeptTextProps {
  label: string;
  helper: string;
  value: string;
  most: number;
  onKeep: (text: string) => void;
}

function KeptText({ label, helper, value, most, onKeep }: KeptTextProps) {
  const [text, setText] = useState(value);
  return (
    <Box sx={{ display: "flex", gap: 1, alignItems: "flex-start", flexWrap: "wrap" }}>
      <TextField
        multiline
        minRows={3}
        label={label}
        value={text}
        helperText={helper}
        onChange={(event) => setText(event.target.value)}
        slotProps={{ htmlInput: { maxLength: most } }}
        sx={{ flex: "1 1 320px", maxWidth: 620 }}
      />
      <Button
        variant="outlined"
        disabled={text.trim() === value.trim() || !text.trim()}
        onClick={() => onKeep(text.trim())}
      >
        Keep
      </Button>
    </Box>
  );
}
