import Box from "@mui/material/Box";
import FormControlLabel from "@mui/material/FormControlLabel";
import Switch from "@mui/material/Switch";
import TextField from "@mui/material/TextField";

import { useSay } from "../../../ui/vocabulary";
import type { Change, Recipe } from "../recipe";

/** The hardest bars alone: a piece of the line as an exercise of its own. */
export function Bars({ recipe, onChange }: { recipe: Recipe; onChange: Change }) {
  const say = useSay();
  const [first = 1, last = 1] = recipe.bars ?? [];
  const field = (label: string, value: number, put: (value: number) => number[]) => (
    <TextField
      size="small"
      type="number"
      label={say(label)}
      value={value}
      onChange={(event) => {
        const typed = Math.round(Number(event.target.value));
        if (typed >= 1 && typed <= 400) onChange({ bars: put(typed) });
      }}
      slotProps={{ htmlInput: { min: 1, max: 400 } }}
    />
  );
  return (
    <Box>
      <FormControlLabel
        control={<Switch checked={recipe.bars !== null} onChange={(_, on) => onChange({ bars: on ? [1, 1] : null })} />}
        label={say("Only some bars")}
      />
      {recipe.bars && (
        <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1fr", gap: 1, mt: 1 }}>
          {field("From bar", first, (value) => [value, Math.max(value, last)])}
          {field("To bar", last, (value) => [Math.min(first, value), value])}
        </Box>
      )}
    </Box>
  );
}
