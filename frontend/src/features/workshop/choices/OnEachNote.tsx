import FormControlLabel from "@mui/material/FormControlLabel";
import Switch from "@mui/material/Switch";
import TextField from "@mui/material/TextField";
import { useState } from "react";

import type { Schemas } from "../../../api/client";
import type { Change, Recipe } from "../recipe";
import { Few } from "../../../ui/Few";

interface Props {
  recipe: Recipe;
  uses: ReadonlySet<string>;
  pattern: Schemas["PatternOut"] | undefined;
  onChange: Change;
}

/** What happens on every note of the line: how often the pattern, a wait, the words that go with it. */
export function OnEachNote({ recipe, uses, pattern, onChange }: Props) {
  return (
    <>
      {uses.has("times") && (
        <>
          <Few
            label="Times on each note"
            value={recipe.times}
            values={[
              [1, "Once"],
              [2, "Twice"],
              [3, "3 times"],
              [4, "4 times"],
            ]}
            onPick={(times) => onChange({ times })}
          />
          <FormControlLabel
            control={<Switch checked={recipe.wait} onChange={(_, wait) => onChange({ wait })} />}
            label="A wait to place the next finger"
          />
        </>
      )}
      {uses.has("pickup") && (
        <FormControlLabel
          control={<Switch checked={recipe.pickup} onChange={(_, pickup) => onChange({ pickup })} />}
          label="Start on a pickup (up-bow)"
        />
      )}
      {uses.has("pattern") && <CueWords key={recipe.pattern} recipe={recipe} pattern={pattern} onChange={onChange} />}
    </>
  );
}

/** The words that are spoken on the pattern; one syllable a note, a hyphen where a word goes on. */
function CueWords({ recipe, pattern, onChange }: Omit<Props, "uses">) {
  const needed = pattern?.cue.length ?? 0;
  const [counted, setCounted] = useState(recipe.cue.length);
  const wrong = counted !== 0 && counted !== needed;
  return (
    <TextField
      fullWidth
      size="small"
      label={`My own words: ${needed} ${needed === 1 ? "syllable" : "syllables"}, a space between them`}
      defaultValue={recipe.cue.join(" ")}
      placeholder={pattern?.cue.join(" ")}
      error={wrong}
      helperText={
        wrong
          ? `This has ${counted}; the notes keep the words they have.`
          : counted
            ? "These words stand under the notes."
            : "Empty: the pattern’s words."
      }
      onBlur={(event) => {
        const cue = event.target.value.trim().split(/\s+/).filter(Boolean);
        setCounted(cue.length);
        if (cue.length === 0 || cue.length === needed) onChange({ cue });
      }}
      slotProps={{ htmlInput: { "aria-label": "My own words" }, inputLabel: { shrink: true } }}
    />
  );
}
