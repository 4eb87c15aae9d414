import Box from "@mui/material/Box";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import Typography from "@mui/material/Typography";
import { memo, useCallback, useMemo, useState } from "react";

import type { Schemas } from "../../api/client";
import { PlayerBar } from "../../music/PlayerBar";
import { ScoreView } from "../../music/ScoreView";
import { usePlayer } from "../../music/usePlayer";
import { PartMenu } from "./PartMenu";
import type { InstrumentKey, Recipe } from "./recipe";

interface Props {
  score: Schemas["ScoreOut"];
  insight: Schemas["InsightOut"];
  recipe: Recipe;
  /** Which of the instrument's lines is shown. */
  ease: Schemas["PreviewQuestion"]["ease"];
  /** What plays along, as it goes into the sound's address. */
  company: string;
  onPin: (instrument: InstrumentKey, index: number, place: Schemas["PlaceOut"] | null) => void;
  onRegister: (own: Required<Schemas["RegisterIn"]>) => void;
  onEase: (instrument: InstrumentKey, ease: NonNullable<Schemas["PreviewQuestion"]["ease"]>) => void;
}

/** One instrument's line: heard, looked at, its fingering changed by pressing a note. */
export const Part = memo(function Part({ score, insight, recipe, ease, company, onPin, onRegister, onEase }: Props) {
  const src = `${score.demonstration_url}${company}`;
  const player = usePlayer(
    src,
    score.demonstration_onsets.map((at, index) => ({ index, at })),
  );
  const [chosen, setChosen] = useState<{ index: number; anchor: Element } | null>(null);
  const own = recipe.pins.filter((pin) => pin.instrument === score.instrument);
  const pinned = useMemo(() => new Set(own.map((pin) => pin.index)), [own]);
  const choose = useCallback((index: number, anchor: Element) => setChosen({ index, anchor }), []);
  const note = chosen ? score.notes[chosen.index] : undefined;
  const close = () => setChosen(null);
  const around = chosen ? insight.neighbours[chosen.index] : undefined;
  return (
    // What is scrolled out of sight is not laid out: a change is seen sooner.
    <Box
      component="section"
      aria-label={score.instrument_name}
      sx={{ contentVisibility: "auto", containIntrinsicHeight: "auto 220px" }}
    >
      <Box sx={{ display: "flex", flexWrap: "wrap", alignItems: "center", columnGap: 1.5, mb: 0.5 }}>
        <Typography variant="h2" component="h2">
          {score.instrument_name}
        </Typography>
        <Typography sx={{ color: "text.secondary", fontSize: "0.95rem" }}>{insight.difficulty}</Typography>
        <PartMenu score={score} insight={insight} recipe={recipe} ease={ease} onRegister={onRegister} onEase={onEase} />
        <PlayerBar compact player={player} src={src} name={`the ${score.instrument_name.toLowerCase()}`} />
      </Box>
      <ScoreView score={score} current={player.current} onChoose={choose} pinned={pinned} />
      <Telling insight={insight} />
      <Menu anchorEl={chosen?.anchor ?? null} open={!!chosen} onClose={close}>
        {note && (
          <Typography sx={{ px: 2, pb: 1, maxWidth: 300 }}>
            <b>{note.spoken}</b>
            {around && `, between ${around.below} and ${around.above}`}
          </Typography>
        )}
        {chosen &&
          (insight.places[chosen.index] ?? []).map((place) => (
            <MenuItem
              key={`${place.string}${place.finger}`}
              selected={note?.string === place.string && note.finger === place.finger}
              onClick={() => {
                onPin(score.instrument, chosen.index, place);
                close();
              }}
            >
              {place.finger === 0 ? "Open" : `Finger ${place.finger} on`} {place.string}
              {place.position !== "1" && place.finger !== 0 ? ` (position ${place.position})` : ""}
            </MenuItem>
          ))}
        {chosen && pinned.has(chosen.index) && (
          <MenuItem
            onClick={() => {
              onPin(score.instrument, chosen.index, null);
              close();
            }}
          >
            Take the pin out
          </MenuItem>
        )}
      </Menu>
    </Box>
  );
});

/** What the teacher would tell them, worked out. */
function Telling({ insight }: { insight: Schemas["InsightOut"] }) {
  const rows: [string, string][] = [
    ...insight.telling.map(({ about, words }): [string, string] => [about, words]),
    ["New", insight.new.length ? insight.new.join(", ") : "nothing that was not set before"],
    ...insight.new_for
      .filter((entry) => entry.new.length && entry.new.join() !== insight.new.join())
      .map((entry): [string, string] => [`New for ${entry.pupils.join(", ")}`, entry.new.join(", ")]),
  ];
  return (
    <Box component="details" sx={{ mt: 0.5 }}>
      <summary>What to tell them</summary>
      <Box
        component="dl"
        sx={{ display: "grid", gridTemplateColumns: "fit-content(11rem) 1fr", columnGap: 2, rowGap: 0.5, my: 1 }}
      >
        {rows
          .filter(([, words]) => words)
          .map(([name, words]) => (
            <Box key={name} sx={{ display: "contents" }}>
              <Typography component="dt" sx={{ color: "text.secondary" }}>
                {name}
              </Typography>
              <Typography component="dd" sx={{ m: 0 }}>
                {words}
              </Typography>
            </Box>
          ))}
      </Box>
    </Box>
  );
}
