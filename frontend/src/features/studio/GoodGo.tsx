import FormControlLabel from "@mui/material/FormControlLabel";
import MenuItem from "@mui/material/MenuItem";
import Paper from "@mui/material/Paper";
import Switch from "@mui/material/Switch";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";

import type { Schemas } from "../../api/client";

const SHARES = [0.7, 0.75, 0.8, 0.85, 0.9, 0.95, 1];
const STOPS = [0, 1, 2, 3];

type Rule = Required<Schemas["GoodGo"]>;

interface Props {
  kept: Rule;
  onChange: (rule: Rule) => void;
}

/** What counts as a good go: one rule, for the counter, the list and the report. */
export function GoodGo({ kept, onChange }: Props) {
  const shares: ["pitch_share" | "time_share", string][] = [
    ["pitch_share", "Notes in tune"],
    ["time_share", "Notes on time"],
  ];
  return (
    <Paper component="section" aria-label="A good go" sx={{ p: 2.5 }}>
      <Typography variant="h2">What counts as a good go</Typography>
      <Typography sx={{ color: "text.secondary", mb: 2 }}>
        Every note is there, on its pitch, and none too many, at less than 1.8 times the tempo that is set. Beside that
        (takes that are checked from now on use it):
      </Typography>
      {shares.map(([key, name]) => (
        <TextField
          key={key}
          select
          size="small"
          label={name}
          value={kept[key]}
          onChange={(event) => onChange({ ...kept, [key]: Number(event.target.value) })}
          sx={{ width: 170, mr: 2, mb: 1.5 }}
        >
          {[...new Set([...SHARES, kept[key]])].sort().map((share) => (
            <MenuItem key={share} value={share}>
              at least {Math.round(100 * share)} %
            </MenuItem>
          ))}
        </TextField>
      ))}
      <TextField
        select
        size="small"
        label="Stops"
        value={kept.most_stops}
        onChange={(event) => onChange({ ...kept, most_stops: Number(event.target.value) })}
        sx={{ width: 140, mr: 2, mb: 1.5 }}
      >
        {[...new Set([...STOPS, kept.most_stops])].sort().map((stops) => (
          <MenuItem key={stops} value={stops}>
            {stops === 0 ? "none" : `at most ${stops}`}
          </MenuItem>
        ))}
      </TextField>
      <FormControlLabel
        control={<Switch checked={kept.at_tempo} onChange={(_, at_tempo) => onChange({ ...kept, at_tempo })} />}
        label="Only at the tempo that is set"
      />
    </Paper>
  );
}
