import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import FormControlLabel from "@mui/material/FormControlLabel";
import ListSubheader from "@mui/material/ListSubheader";
import MenuItem from "@mui/material/MenuItem";
import Slider from "@mui/material/Slider";
import Switch from "@mui/material/Switch";
import TextField from "@mui/material/TextField";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import Typography from "@mui/material/Typography";
import { memo, type ReactNode, useState } from "react";

import type { Schemas } from "../../api/client";
import { useSay, useStudioWords } from "../../ui/vocabulary";
import { Line } from "./Line";
import { type Family, groupWords, meterFor, type Recipe } from "./recipe";

const FOURTH: [Recipe["fourth_finger"], string][] = [
  ["open", "Open strings"],
  ["descending", "Coming down"],
  ["both", "Both ways"],
];
const RUNGS = ["Four long notes", "The pattern", "Two sixteenths", "One sixteenth", "Slurred in fours"];
const COMMON_KEYS = 7;

interface Props {
  catalogue: Schemas["Catalogue"];
  recipe: Recipe;
  family: Family;
  onChange: (part: Partial<Recipe>, kind?: string) => void;
}

export function Choice({ label, children }: { label: string; children: ReactNode }) {
  return (
    <Box>
      <Typography variant="h2" sx={{ mb: 0.75 }}>
        {label}
      </Typography>
      {children}
    </Box>
  );
}

/** Toggle buttons for a few values. */
function Few<T extends string | number | boolean>({
  label,
  value,
  values,
  onPick,
}: {
  label: string;
  value: T;
  values: readonly (readonly [T, string])[];
  onPick: (value: T) => void;
}) {
  return (
    <ToggleButtonGroup
      exclusive
      value={value}
      onChange={(_, picked: T | null) => picked !== null && onPick(picked)}
      aria-label={label}
    >
      {values.map(([key, name]) => (
        <ToggleButton key={String(key)} value={key}>
          {name}
        </ToggleButton>
      ))}
    </ToggleButtonGroup>
  );
}

const keyName = (tonic: string) => tonic.replace("b", "♭").replace("#", "♯");

/**
 * All that can be chosen of an exercise; each family shows what matters to it. Drawn again when a choice changes, not
 * when the engraving of it comes.
 */
export const Choices = memo(function Choices({ catalogue, recipe, family, onChange }: Props) {
  const uses = new Set(family.uses);
  const say = useSay();
  const cues = useStudioWords().data?.cues;
  const pattern = catalogue.patterns.find((own) => own.key === recipe.pattern);
  const groups = [...new Set(catalogue.families.map((own) => own.group))];
  return (
    <>
      <TextField
        select
        label="Exercise"
        value={recipe.family}
        onChange={(event) => onChange({ family: event.target.value as Recipe["family"] })}
        helperText={family.about}
        slotProps={{ select: { MenuProps: { slotProps: { paper: { sx: { maxHeight: 480 } } } } } }}
      >
        {groups.flatMap((group) => [
          <ListSubheader key={group}>{groupWords[group]}</ListSubheader>,
          ...catalogue.families
            .filter((own) => own.group === group)
            .map((own) => (
              <MenuItem key={own.key} value={own.key}>
                {own.name}
              </MenuItem>
            )),
        ])}
      </TextField>
      {uses.has("line") && <Line recipe={recipe} onChange={onChange} />}
      {uses.has("tonic") && (
        <Choice label="Key">
          <Few
            label="Key"
            value={recipe.tonic}
            values={catalogue.tonics.slice(0, COMMON_KEYS).map((tonic) => [tonic, keyName(tonic)] as const)}
            onPick={(tonic) => onChange({ tonic })}
          />
          <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1fr", gap: 1, mt: 1 }}>
            <TextField
              select
              size="small"
              label="Other key"
              value={catalogue.tonics.indexOf(recipe.tonic) >= COMMON_KEYS ? recipe.tonic : ""}
              onChange={(event) => onChange({ tonic: event.target.value as Recipe["tonic"] })}
            >
              {catalogue.tonics.slice(COMMON_KEYS).map((tonic) => (
                <MenuItem key={tonic} value={tonic}>
                  {keyName(tonic)}
                </MenuItem>
              ))}
            </TextField>
            <TextField
              select
              size="small"
              label="Form"
              value={recipe.form}
              onChange={(event) => onChange({ form: event.target.value as Recipe["form"] })}
            >
              {catalogue.forms.map((form) => (
                <MenuItem key={form} value={form}>
                  {form}
                </MenuItem>
              ))}
            </TextField>
          </Box>
        </Choice>
      )}
      {(uses.has("octaves") || uses.has("direction")) && (
        <Choice label="How far">
          <Box sx={{ display: "flex", gap: 1, flexWrap: "wrap" }}>
            {uses.has("octaves") && (
              <Few
                label="Octaves"
                value={recipe.octaves}
                values={[
                  [1, "One octave"],
                  [2, "Two"],
                ]}
                onPick={(octaves) => onChange({ octaves })}
              />
            )}
            {uses.has("direction") && (
              <Few
                label="Direction"
                value={recipe.direction}
                values={[
                  ["up", "Up"],
                  ["down", "Down"],
                  ["up and down", "Both"],
                ]}
                onPick={(direction) => onChange({ direction })}
              />
            )}
          </Box>
          {recipe.direction === "up and down" && uses.has("top_again") && (
            <FormControlLabel
              control={<Switch checked={recipe.top_again} onChange={(_, top_again) => onChange({ top_again })} />}
              label="Top note twice"
            />
          )}
        </Choice>
      )}
      {uses.has("string") && (
        <Choice label="String">
          <Few
            label="String"
            value={recipe.string}
            values={catalogue.strings.map((string) => [string, string] as const)}
            onPick={(string) => onChange({ string })}
          />
        </Choice>
      )}
      {uses.has("finger") && (
        <Choice label="Finger">
          <Few
            label="Finger"
            value={recipe.finger}
            values={[1, 2, 3, 4].map((finger) => [finger, String(finger)] as const)}
            onPick={(finger) => onChange({ finger })}
          />
        </Choice>
      )}
      {uses.has("rung") && (
        <TextField
          select
          label="Rung of the ladder"
          value={recipe.rung}
          onChange={(event) => onChange({ rung: Number(event.target.value) })}
        >
          {RUNGS.map((name, at) => (
            <MenuItem key={name} value={at + 1}>
              {at + 1}. {name}
            </MenuItem>
          ))}
        </TextField>
      )}
      {uses.has("seed") && (
        <Button variant="outlined" onClick={() => onChange({ seed: recipe.seed + 1 })}>
          Another phrase
        </Button>
      )}
      {uses.has("pattern") && (
        <>
          <TextField
            select
            label="Rhythm pattern"
            value={recipe.pattern}
            onChange={(event) => {
              const next = catalogue.patterns.find((own) => own.key === event.target.value);
              onChange({ pattern: next!.key, meter: meterFor(next, recipe.meter), cue: cues?.[next!.key] ?? [] });
            }}
            helperText={(recipe.cue.length ? recipe.cue : (pattern?.cue ?? [])).join(" ").replaceAll("- ", "-")}
            slotProps={{ select: { MenuProps: { slotProps: { paper: { sx: { maxHeight: 420 } } } } } }}
          >
            {catalogue.patterns.map((own) => (
              <MenuItem key={own.key} value={own.key}>
                {say(own.name)}
              </MenuItem>
            ))}
          </TextField>
          <CueWords key={recipe.pattern} recipe={recipe} pattern={pattern} onChange={onChange} />
        </>
      )}
      {(uses.has("meter") || uses.has("bowing")) && (
        <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1fr", gap: 1 }}>
          {uses.has("meter") && (
            <TextField
              select
              size="small"
              label="Meter"
              value={recipe.meter}
              onChange={(event) => onChange({ meter: event.target.value as Recipe["meter"] })}
            >
              {(uses.has("pattern") && pattern ? pattern.meters : catalogue.meters).map((meter) => (
                <MenuItem key={meter} value={meter}>
                  {meter}
                </MenuItem>
              ))}
            </TextField>
          )}
          {uses.has("bowing") && (
            <TextField
              select
              size="small"
              label="Bowing"
              value={recipe.bowing}
              onChange={(event) => onChange({ bowing: event.target.value as Recipe["bowing"] })}
            >
              {catalogue.bowings.map((bowing) => (
                <MenuItem key={bowing} value={bowing}>
                  {bowing}
                </MenuItem>
              ))}
            </TextField>
          )}
        </Box>
      )}
      {uses.has("pickup") && (
        <FormControlLabel
          control={<Switch checked={recipe.pickup} onChange={(_, pickup) => onChange({ pickup })} />}
          label="Start on a pickup (up-bow)"
        />
      )}
      {uses.has("fourth_finger") && (
        <Choice label="Fourth finger">
          <Few
            label="Fourth finger"
            value={recipe.fourth_finger}
            values={FOURTH}
            onPick={(fourth_finger) => onChange({ fourth_finger })}
          />
        </Choice>
      )}
      <Bars recipe={recipe} onChange={onChange} />
      <Choice label="Tempo">
        <Box sx={{ display: "flex", gap: 2, alignItems: "center", pr: 1 }}>
          <Slider
            aria-label="Tempo, quarter notes a minute"
            value={recipe.tempo_bpm}
            min={catalogue.lowest_tempo_bpm}
            max={catalogue.highest_tempo_bpm}
            onChange={(_, value) => onChange({ tempo_bpm: value }, "tempo")}
          />
          <Typography sx={{ minWidth: 72 }}>
            <b>{recipe.tempo_bpm}</b> bpm
          </Typography>
        </Box>
      </Choice>
    </>
  );
});

/** The hardest bars alone: a piece of the line as an exercise of its own. */
function Bars({ recipe, onChange }: Pick<Props, "recipe" | "onChange">) {
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

/** The words that are spoken on the pattern; one syllable a note, a hyphen where a word goes on. */
function CueWords({
  recipe,
  pattern,
  onChange,
}: {
  recipe: Recipe;
  pattern: Schemas["PatternOut"] | undefined;
  onChange: Props["onChange"];
}) {
  const needed = pattern?.cue.length ?? 0;
  const [counted, setCounted] = useState(recipe.cue.length);
  const wrong = counted !== 0 && counted !== needed;
  return (
    <details>
      <summary>My own words for it</summary>
      <TextField
        fullWidth
        size="small"
        sx={{ mt: 1 }}
        label={`${needed} syllables, a space between them`}
        defaultValue={recipe.cue.join(" ")}
        placeholder={pattern?.cue.join(" ")}
        error={wrong}
        helperText={
          wrong
            ? `This has ${counted}; the notes keep the words above.`
            : counted
              ? "These words stand under the notes."
              : "Empty: the words above."
        }
        onBlur={(event) => {
          const cue = event.target.value.trim().split(/\s+/).filter(Boolean);
          setCounted(cue.length);
          if (cue.length === 0 || cue.length === needed) onChange({ cue });
        }}
        slotProps={{ htmlInput: { "aria-label": "My own words" } }}
      />
    </details>
  );
}
