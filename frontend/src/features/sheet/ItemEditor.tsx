import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import Paper from "@mui/material/Paper";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { Link } from "react-router";

import type { Schemas } from "../../api/client";
import { useSay, useStudioSettings } from "../../ui/vocabulary";
import { SCHOOLS, WAYS } from "../workshop/terms";
import { Audience } from "./Audience";
import { Changes } from "./Changes";
import { NumberField } from "./NumberField";
import type { Item } from "./useSheet";

const REFERENCES = ["strings", "440", "441", "442", "443"];

interface Props {
  item: Item;
  title: string;
  levels: Schemas["LevelOut"][];
  first: boolean;
  last: boolean;
  onChange: (item: Item | null) => void;
  onMove: (by: number) => void;
}

/** One exercise on the sheet: how fast, how often, for whom, and what is different for single pupils. */
export function ItemEditor({ item, title, levels, first, last, onChange, onMove }: Props) {
  const say = useSay();
  const own = useStudioSettings().data?.levels;
  const put = (part: Partial<Item>) => onChange({ ...item, ...part });
  const name = say(title || "An exercise");
  return (
    <Paper component="section" aria-label={name} sx={{ p: 2, display: "grid", gap: 1.5 }}>
      <Box sx={{ display: "flex", flexWrap: "wrap", alignItems: "center", gap: 1 }}>
        <Typography variant="h3" component="h2" sx={{ flexGrow: 1 }}>
          {name}
        </Typography>
        <Button size="small" disabled={first} onClick={() => onMove(-1)} aria-label={`Earlier: ${name}`}>
          ↑
        </Button>
        <Button size="small" disabled={last} onClick={() => onMove(1)} aria-label={`Later: ${name}`}>
          ↓
        </Button>
        <Button size="small" component={Link} to="/workshop" state={{ recipe: item.recipe }}>
          See it
        </Button>
        <Button size="small" onClick={() => onChange(null)} aria-label={`Off the sheet: ${name}`}>
          Off
        </Button>
      </Box>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1.5 }}>
        <NumberField
          label="Up to (bpm)"
          value={item.target_bpm}
          least={30}
          most={208}
          onPut={(target_bpm) =>
            put({
              target_bpm,
              ladder_from_bpm: item.ladder_from_bpm === null ? null : Math.min(item.ladder_from_bpm!, target_bpm),
            })
          }
        />
        <NumberField
          label="Good goes a day"
          value={item.good_repeats}
          least={1}
          most={50}
          onPut={(good_repeats) => put({ good_repeats })}
        />
        <NumberField
          label="Days a week"
          value={item.days_a_week!}
          least={1}
          most={7}
          onPut={(days_a_week) => put({ days_a_week })}
        />
        <TextField
          label="A word to go with it"
          size="small"
          value={item.note}
          onChange={(event) => put({ note: event.target.value })}
          slotProps={{ htmlInput: { maxLength: 500 } }}
          sx={{ flex: "1 1 240px" }}
        />
      </Box>
      <Audience audience={item.audience!} onChange={(audience) => put({ audience })} />
      <Box component="details">
        <summary>Ladder, and how it is judged</summary>
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1.5, mt: 1.5 }}>
          <NumberField
            label="First rung (bpm; empty: no ladder)"
            value={item.ladder_from_bpm ?? null}
            least={30}
            most={item.target_bpm}
            mayBeEmpty
            onPut={(ladder_from_bpm) => put({ ladder_from_bpm })}
            width={230}
          />
          {item.ladder_from_bpm !== null && (
            <>
              <NumberField
                label="Step (bpm)"
                value={item.ladder_step_bpm!}
                least={1}
                most={40}
                onPut={(ladder_step_bpm) => put({ ladder_step_bpm })}
              />
              <NumberField
                label="Clean goes in a row"
                value={item.ladder_clean!}
                least={1}
                most={10}
                onPut={(ladder_clean) => put({ ladder_clean })}
                width={150}
              />
            </>
          )}
          <Choice
            label="Tolerance"
            value={item.level!}
            choices={levels.map((level) => [
              level.key,
              `${level.name} (±${own?.[level.key]?.pitch_cents ?? level.pitch_cents} cents)`,
            ])}
            onPick={(level) => put({ level })}
          />
          <Choice label="Way of practising" value={item.mode!} choices={WAYS} onPick={(mode) => put({ mode })} />
          <Choice
            label="What is in tune"
            value={item.temperament!}
            choices={SCHOOLS}
            onPick={(temperament) => put({ temperament })}
          />
          <Choice
            label="Reference pitch"
            value={item.a4_hz ? String(item.a4_hz) : "strings"}
            choices={REFERENCES.map((key) => [
              key,
              key === "strings" ? "The pupil’s own open strings" : `A = ${key} Hz`,
            ])}
            onPick={(key) => put({ a4_hz: key === "strings" ? null : Number(key) })}
          />
        </Box>
      </Box>
      <Changes item={item} onChange={(changes) => put({ changes })} />
    </Paper>
  );
}

interface ChoiceProps<T extends string> {
  label: string;
  value: T;
  choices: readonly (readonly [T, string])[];
  onPick: (value: T) => void;
}

function Choice<T extends string>({ label, value, choices, onPick }: ChoiceProps<T>) {
  return (
    <TextField
      select
      size="small"
      label={label}
      value={value}
      onChange={(event) => onPick(event.target.value as T)}
      sx={{ minWidth: 210 }}
    >
      {choices.map(([key, name]) => (
        <MenuItem key={key} value={key}>
          {name}
        </MenuItem>
      ))}
    </TextField>
  );
}
