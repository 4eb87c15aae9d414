import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Paper from "@mui/material/Paper";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";

import type { Schemas } from "../../api/client";
import type { Words } from "./words";

type Values = Schemas["LevelValues"];

const COLUMNS: [keyof Values, string, string, [number, number]][] = [
  ["pitch_cents", "Pitch", "cents", [4, 60]],
  ["ringing_cents", "Ringing notes", "cents", [4, 60]],
  ["timing_ms", "Rhythm", "ms", [15, 300]],
  ["tempo_percent", "Tempo", "%", [1, 40]],
];

interface Props {
  kept: Words;
  catalogue: Schemas["Catalogue"];
  onChange: (levels: Words["levels"]) => void;
}

/** What counts as home, level by level; every value can be changed. */
export function Levels({ kept, catalogue, onChange }: Props) {
  return (
    <Paper component="section" aria-label="Tolerances" sx={{ p: 2.5, overflowX: "auto" }}>
      <Typography variant="h2">What counts as home</Typography>
      <Typography sx={{ color: "text.secondary", mb: 1 }}>
        Either way. Short notes get more room by themselves. Takes that are checked from now on use these.
      </Typography>
      <Box component="table" sx={{ borderCollapse: "collapse", "& td, & th": { p: 0.75, textAlign: "left" } }}>
        <thead>
          <tr>
            <th>Level</th>
            {COLUMNS.map(([key, name, unit]) => (
              <th key={key}>
                {name} ({unit})
              </th>
            ))}
            <th>
              <span style={{ position: "absolute", left: -9999 }}>Change back</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {catalogue.levels.map((level) => {
            const own: Values = kept.levels[level.key] ?? level;
            return (
              <tr key={level.key}>
                <td>{level.name}</td>
                {COLUMNS.map(([key, name, , [least, most]]) => (
                  <td key={key}>
                    <TextField
                      key={own[key]}
                      size="small"
                      type="number"
                      defaultValue={own[key]}
                      sx={{ width: 110 }}
                      slotProps={{
                        htmlInput: { min: least, max: most, "aria-label": `${name}, ${level.name}` },
                      }}
                      onBlur={(event) => {
                        const value = Number(event.target.value);
                        if (event.target.value === "" || value < least || value > most) {
                          event.target.value = String(own[key]);
                        } else if (value !== own[key]) {
                          const { pitch_cents, ringing_cents, timing_ms, tempo_percent } = own;
                          onChange({
                            ...kept.levels,
                            [level.key]: { pitch_cents, ringing_cents, timing_ms, tempo_percent, [key]: value },
                          });
                        }
                      }}
                    />
                  </td>
                ))}
                <td>
                  {kept.levels[level.key] && (
                    <Button
                      size="small"
                      onClick={() => {
                        const rest = { ...kept.levels };
                        delete rest[level.key];
                        onChange(rest);
                      }}
                    >
                      Ours again
                    </Button>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </Box>
    </Paper>
  );
}
