import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import FormControlLabel from "@mui/material/FormControlLabel";
import ListSubheader from "@mui/material/ListSubheader";
import MenuItem from "@mui/material/MenuItem";
import Slider from "@mui/material/Slider";
import Switch from "@mui/material/Switch";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { memo, useState } from "react";

import type { Schemas } from "../../api/client";
import { useSay, useStudioSettings } from "../../ui/vocabulary";
import { Bars } from "./choices/Bars";
import { Few } from "../../ui/Few";
import { Group } from "./choices/Group";
import { OnEachNote } from "./choices/OnEachNote";
import { Pick } from "./choices/Pick";
import { Several } from "./choices/Several";
import { Line } from "./line/Line";
import { type Change, type Family, groupWords, meterFor, type Recipe } from "./recipe";

const FOURTH: [Recipe["fourth_finger"], string][] = [
  ["open", "Open strings"],
  ["descending", "Coming down"],
  ["both", "Both ways"],
];
const RUNGS = ["Four long notes", "The pattern", "Two sixteenths", "One sixteenth", "Slurred in fours"];
const COMMON_KEYS = 7;
const LONG_LIST = { select: { MenuProps: { slotProps: { paper: { sx: { maxHeight: 480 } } } } } };

interface Props {
  catalogue: Schemas["Catalogue"];
  recipe: Recipe;
  family: Family;
  onChange: Change;
}

const keyName = (tonic: string) => tonic.replace("b", "♭").replace("#", "♯");

/**
 * What is chosen of an exercise. Exercise, key, pattern and tempo always stand there; what is changed now and then opens,
 * one group at a time. Each family shows what matters to it.
 */
export const Choices = memo(function Choices({ catalogue, recipe, family, onChange }: Props) {
  const uses = new Set(family.uses);
  const [open, setOpen] = useState<string | null>(null);
  const say = useSay();
  const cues = useStudioSettings().data?.cues;
  const pattern = catalogue.patterns.find((own) => own.key === recipe.pattern);
  const groups = [...new Set(catalogue.families.map((own) => own.group))];
  const group = (title: string) => ({
    title,
    open: open === title,
    onToggle: () => setOpen(open === title ? null : title),
  });
  return (
    <>
      <TextField
        select
        size="small"
        label="Exercise"
        value={recipe.family}
        onChange={(event) => onChange({ family: event.target.value as Recipe["family"] })}
        helperText={family.about}
        slotProps={LONG_LIST}
      >
        {groups.flatMap((own) => [
          <ListSubheader key={own}>{groupWords[own]}</ListSubheader>,
          ...catalogue.families
            .filter((one) => one.group === own)
            .map((one) => (
              <MenuItem key={one.key} value={one.key}>
                {one.name}
              </MenuItem>
            )),
        ])}
      </TextField>
      {uses.has("line") && <Line recipe={recipe} catalogue={catalogue} onChange={onChange} />}
      {uses.has("tonic") && <Key catalogue={catalogue} recipe={recipe} onChange={onChange} />}
      {uses.has("string") && (
        <Few
          label="String"
          value={recipe.string}
          values={catalogue.strings.map((string) => [string, `${string} string`] as const)}
          onPick={(string) => onChange({ string })}
        />
      )}
      {uses.has("finger") && (
        <Few
          label="Finger"
          value={recipe.finger}
          values={[1, 2, 3, 4].map((finger) => [finger, `Finger ${finger}`] as const)}
          onPick={(finger) => onChange({ finger })}
        />
      )}
      {uses.has("rung") && <Rungs recipe={recipe} onChange={onChange} />}
      {uses.has("seed") && (
        <Button variant="outlined" onClick={() => onChange({ seed: recipe.seed + 1 })}>
          Another phrase
        </Button>
      )}
      <Box sx={{ display: "grid", gridTemplateColumns: uses.has("pattern") ? "1fr 88px" : "1fr", gap: 1 }}>
        {uses.has("pattern") && (
          <TextField
            select
            size="small"
            label="Rhythm pattern"
            value={recipe.pattern}
            onChange={(event) => {
              const next = catalogue.patterns.find((own) => own.key === event.target.value);
              onChange({ pattern: next!.key, meter: meterFor(next, recipe.meter), cue: cues?.[next!.key] ?? [] });
            }}
            helperText={(recipe.cue.length ? recipe.cue : (pattern?.cue ?? [])).join(" ").replaceAll("- ", "-")}
            slotProps={LONG_LIST}
          >
            {catalogue.patterns.map((own) => (
              <MenuItem key={own.key} value={own.key}>
                {say(own.name)}
              </MenuItem>
            ))}
          </TextField>
        )}
        {uses.has("meter") && (
          <Pick
            label="Meter"
            value={recipe.meter}
            values={(uses.has("pattern") && pattern ? pattern.meters : catalogue.meters).map((m) => [m, m] as const)}
            onPick={(meter) => onChange({ meter })}
          />
        )}
      </Box>
      <Box sx={{ display: "flex", gap: 2, alignItems: "center", pl: 1 }}>
        <Slider
          aria-label={say("Tempo, quarter notes a minute")}
          value={recipe.tempo_bpm}
          min={catalogue.lowest_tempo_bpm}
          max={catalogue.highest_tempo_bpm}
          onChange={(_, value) => onChange({ tempo_bpm: value }, "tempo")}
        />
        <Typography sx={{ minWidth: 72 }}>
          <b>{recipe.tempo_bpm}</b> bpm
        </Typography>
      </Box>
      <Box>
        {(uses.has("octaves") || uses.has("direction")) && (
          <Group
            {...group("How far")}
            chosen={[uses.has("octaves") && (recipe.octaves === 2 ? "two octaves" : "one octave"), recipe.direction]
              .filter(Boolean)
              .join(", ")}
          >
            <HowFar recipe={recipe} uses={uses} onChange={onChange} />
          </Group>
        )}
        {(uses.has("times") || uses.has("pickup") || uses.has("pattern")) && (
          <Group
            {...group("On each note")}
            chosen={[recipe.times > 1 ? `${recipe.times} times` : "once", recipe.wait && "then a wait"]
              .filter(Boolean)
              .join(", ")}
          >
            <OnEachNote recipe={recipe} uses={uses} pattern={pattern} onChange={onChange} />
          </Group>
        )}
        <Group
          {...group("Bow")}
          chosen={[uses.has("bowing") && recipe.bowing, recipe.bow_part, recipe.dynamic].filter(Boolean).join(", ")}
        >
          {uses.has("bowing") && (
            <Pick
              label="Bowing"
              value={recipe.bowing}
              values={catalogue.bowings.map((bowing) => [bowing, bowing] as const)}
              onPick={(bowing) => onChange({ bowing })}
            />
          )}
          <Pick
            label="Part of the bow"
            value={recipe.bow_part}
            values={catalogue.bow_parts.map((part) => [part, part || "as it falls"] as const)}
            onPick={(bow_part) => onChange({ bow_part })}
          />
          <Few
            label="Dynamic"
            value={recipe.dynamic}
            values={catalogue.dynamics.map((sign) => [sign, sign || "free"] as const)}
            onPick={(dynamic) => onChange({ dynamic })}
          />
          <FormControlLabel
            control={<Switch checked={recipe.slows} onChange={(_, slows) => onChange({ slows })} />}
            label={say("Slow down in the last bar")}
          />
        </Group>
        <Group
          {...group("Fingers")}
          chosen={[
            uses.has("fourth_finger") &&
              FOURTH.find(([key]) => key === recipe.fourth_finger)![1]
                .toLowerCase()
                .replace("coming", "4 coming"),
            recipe.fingers,
          ]
            .filter(Boolean)
            .join(", ")}
        >
          {uses.has("fourth_finger") && (
            <Few
              label="Fourth finger"
              value={recipe.fourth_finger}
              values={FOURTH}
              onPick={(fourth_finger) => onChange({ fourth_finger })}
            />
          )}
          <Few
            label="On the way back"
            value={recipe.fingers}
            values={catalogue.fingers.map((rule) => [rule, rule || "as they like"] as const)}
            onPick={(fingers) => onChange({ fingers })}
          />
        </Group>
        <Group {...group("Signs")} chosen={`${recipe.signs.length} of ${catalogue.signs.length}`}>
          <Several
            label="Signs over the notes"
            chosen={recipe.signs}
            values={catalogue.signs}
            onChange={(signs) => onChange({ signs })}
          />
        </Group>
        <Group
          {...group("Steps")}
          chosen={[recipe.ways.join(", "), recipe.bars && say(`bars ${recipe.bars.join(" to ")}`)]
            .filter(Boolean)
            .join("; ")}
        >
          <Several
            label="Steps of the exercise"
            chosen={recipe.ways}
            values={catalogue.ways}
            onChange={(ways) => onChange({ ways })}
          />
          <Bars recipe={recipe} onChange={onChange} />
        </Group>
      </Box>
    </>
  );
});

function Key({ catalogue, recipe, onChange }: Omit<Props, "family">) {
  return (
    <Box sx={{ display: "grid", gap: 1 }}>
      <Few
        label="Key"
        value={recipe.tonic}
        values={catalogue.tonics.slice(0, COMMON_KEYS).map((tonic) => [tonic, keyName(tonic)] as const)}
        onPick={(tonic) => onChange({ tonic })}
      />
      <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1fr", gap: 1 }}>
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
        <Pick
          label="Form"
          value={recipe.form}
          values={catalogue.forms.map((form) => [form, form] as const)}
          onPick={(form) => onChange({ form })}
        />
      </Box>
    </Box>
  );
}

function HowFar({ recipe, uses, onChange }: { recipe: Recipe; uses: ReadonlySet<string>; onChange: Change }) {
  return (
    <>
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
      {recipe.direction === "up and down" && uses.has("top_again") && (
        <FormControlLabel
          control={<Switch checked={recipe.top_again} onChange={(_, top_again) => onChange({ top_again })} />}
          label="Top note twice"
        />
      )}
    </>
  );
}

/** One rung, or several one after the other in the order in which they are pressed. */
function Rungs({ recipe, onChange }: { recipe: Recipe; onChange: Change }) {
  const say = useSay();
  const order = recipe.rungs.length ? recipe.rungs : [recipe.rung];
  const press = (rung: number) => {
    const next = order.includes(rung) ? order.filter((own) => own !== rung) : [...order, rung];
    if (next.length === 1) onChange({ rung: next[0]!, rungs: [] });
    else if (next.length) onChange({ rungs: next });
  };
  return (
    <Box role="group" aria-label="Rungs of the ladder" sx={{ display: "grid", gap: 0.5 }}>
      {RUNGS.map((name, at) => {
        const place = order.indexOf(at + 1);
        return (
          <Button
            key={name}
            size="small"
            variant={place >= 0 ? "contained" : "outlined"}
            aria-pressed={place >= 0}
            onClick={() => press(at + 1)}
            sx={{ justifyContent: "space-between" }}
          >
            {say(name)} <span>{place >= 0 && order.length > 1 ? `${place + 1}.` : ""}</span>
          </Button>
        );
      })}
    </Box>
  );
}
