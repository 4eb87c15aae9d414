import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Slider from "@mui/material/Slider";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import Typography from "@mui/material/Typography";
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";

import { answer, api, type Schemas } from "../../api/client";
import { colours } from "../../app/theme";
import { PlayerBar } from "../../music/PlayerBar";
import { ScoreView } from "../../music/ScoreView";
import { usePlayer } from "../../music/usePlayer";
import { useWidth } from "../../music/useWidth";
import { Loading, Note, Trouble } from "../../ui/states";
import { AssignDialog } from "./AssignDialog";

type Recipe = Schemas["Recipe"];
type Instrument = Schemas["ScoreOut"]["instrument"];

const FIRST: Recipe = { kind: "scale", tonic: "D", pattern: "quarters", tempo_bpm: 66, fourth_finger: "open" };
const ALL: Instrument[] = ["violin", "viola", "cello", "bass"];
const FOURTH: [Recipe["fourth_finger"] & string, string][] = [
  ["open", "Open strings"],
  ["descending", "Coming down"],
  ["both", "Both ways"],
];

/** Choices on one side, the living score of all instruments on the other. */
export function Workshop() {
  const [recipe, setRecipe] = useState<Recipe>(FIRST);
  const [assigning, setAssigning] = useState(false);
  const [said, setSaid] = useState<string | null>(null);
  const { ref, width } = useWidth<HTMLDivElement>();
  const queries = useQueryClient();
  const asked = useDeferredValue(recipe);
  const catalogue = useQuery({
    queryKey: ["catalogue"],
    queryFn: () => answer(api.GET("/api/catalogue")),
    staleTime: Infinity,
  });
  const shelf = useQuery({ queryKey: ["shelf"], queryFn: () => answer(api.GET("/api/exercises")) });
  const preview = useQuery({
    queryKey: ["preview", asked, width],
    queryFn: () => answer(api.POST("/api/preview", { body: { recipe: asked, instruments: ALL, width: width! } })),
    enabled: width !== null,
    staleTime: Infinity,
    placeholderData: keepPreviousData,
  });
  const keep = useMutation({
    mutationFn: () => answer(api.POST("/api/exercises", { body: { recipe } })),
    onSuccess: (kept) => {
      setSaid(`“${kept.title}” stands on the shelf.`);
      void queries.invalidateQueries({ queryKey: ["shelf"] });
    },
  });
  const change = (part: Partial<Recipe>) => {
    setSaid(null);
    setRecipe((before) => ({ ...before, ...part }));
  };

  if (catalogue.isPending) return <Loading what="Opening the workshop" />;
  if (catalogue.isError) return <Trouble error={catalogue.error} again={() => void catalogue.refetch()} />;
  const { tonics, patterns, lowest_tempo_bpm, highest_tempo_bpm } = catalogue.data;

  return (
    <Box
      sx={{
        display: "grid",
        gridTemplateColumns: { xs: "1fr", md: "minmax(300px, 400px) minmax(0, 1fr)" },
        gap: 4,
        alignItems: "start",
      }}
    >
      <Box
        component="form"
        aria-label="The warm-up"
        onSubmit={(event) => event.preventDefault()}
        sx={{ display: "grid", gap: 2.5 }}
      >
        <Typography variant="h1" sx={{ mb: -1 }}>
          Workshop
        </Typography>
        <Choice label="Key">
          <ToggleButtonGroup
            exclusive
            value={recipe.tonic}
            onChange={(_, tonic) => tonic && change({ tonic })}
            aria-label="Key"
          >
            {tonics.map((tonic) => (
              <ToggleButton key={tonic} value={tonic}>
                {tonic}
              </ToggleButton>
            ))}
          </ToggleButtonGroup>
          <Typography sx={{ color: "text.secondary", mt: 0.5 }}>major, one octave, up and down</Typography>
        </Choice>
        <Choice label="On every note">
          <ToggleButtonGroup
            exclusive
            value={recipe.pattern}
            onChange={(_, pattern) => pattern && change({ pattern })}
            aria-label="Rhythm pattern"
          >
            {patterns.map((pattern) => (
              <ToggleButton
                key={pattern.key}
                value={pattern.key}
                sx={{ borderRadius: "6px !important", flexDirection: "column", lineHeight: 1.3, py: 1 }}
              >
                <span>{pattern.name}</span>
                <Box component="span" sx={{ fontSize: "0.9rem", opacity: 0.85 }}>
                  {pattern.cue.join(" ").replaceAll("- ", "-")}
                </Box>
              </ToggleButton>
            ))}
          </ToggleButtonGroup>
        </Choice>
        <Choice label="Fourth finger">
          <ToggleButtonGroup
            exclusive
            value={recipe.fourth_finger}
            onChange={(_, fourth_finger) => fourth_finger && change({ fourth_finger })}
            aria-label="Fourth finger"
          >
            {FOURTH.map(([value, name]) => (
              <ToggleButton key={value} value={value}>
                {name}
              </ToggleButton>
            ))}
          </ToggleButtonGroup>
        </Choice>
        <Choice label="Tempo">
          <Box sx={{ display: "flex", gap: 2, alignItems: "center", pr: 1 }}>
            <Slider
              aria-label="Tempo, quarter notes a minute"
              value={recipe.tempo_bpm}
              min={lowest_tempo_bpm}
              max={highest_tempo_bpm}
              onChange={(_, value) => change({ tempo_bpm: value as number })}
            />
            <Typography sx={{ minWidth: 72 }}>
              <b>{recipe.tempo_bpm}</b> bpm
            </Typography>
          </Box>
        </Choice>
        <Box sx={{ display: "flex", gap: 1.5, flexWrap: "wrap" }}>
          <Button variant="contained" onClick={() => setAssigning(true)}>
            Assign…
          </Button>
          <Button variant="outlined" onClick={() => keep.mutate()} disabled={keep.isPending}>
            Keep on the shelf
          </Button>
        </Box>
        {said && <Typography role="status">{said}</Typography>}
        {keep.isError && <Note>{keep.error.message}</Note>}
        <Shelf exercises={shelf.data?.exercises} onTake={(taken) => change(taken)} />
      </Box>
      <Box ref={ref}>
        {preview.isError ? (
          <Trouble error={preview.error} again={() => void preview.refetch()} />
        ) : preview.data ? (
          <Box aria-busy={preview.isFetching} sx={{ display: "grid", gap: 2 }}>
            {preview.data.scores.map((score) => (
              <Part key={score.instrument} score={score} />
            ))}
          </Box>
        ) : (
          <Loading what="Engraving" />
        )}
      </Box>
      {assigning && (
        <AssignDialog
          recipe={recipe}
          title={preview.data?.title ?? ""}
          onClose={() => setAssigning(false)}
          onDone={(sentence) => {
            setAssigning(false);
            setSaid(sentence);
          }}
        />
      )}
    </Box>
  );
}

function Choice({ label, children }: { label: string; children: React.ReactNode }) {
  return (
    <Box>
      <Typography variant="h2" sx={{ mb: 0.75 }}>
        {label}
      </Typography>
      {children}
    </Box>
  );
}

function Part({ score }: { score: Schemas["ScoreOut"] }) {
  const player = usePlayer(
    score.demonstration_url,
    score.demonstration_onsets.map((at, index) => ({ index, at })),
  );
  const opens = new Set(score.notes.filter((n) => n.finger === 0).map((n) => n.string));
  const shifts = score.notes.some((n) => n.position !== "1" && n.finger !== 0);
  return (
    <Box component="section" aria-label={score.instrument_name}>
      <Box sx={{ display: "flex", flexWrap: "wrap", alignItems: "center", columnGap: 1.5, mb: 0.5 }}>
        <Typography variant="h2" component="h2">
          {score.instrument_name}
        </Typography>
        <Typography sx={{ color: "text.secondary", fontSize: "0.95rem" }}>
          {opens.size ? `open ${[...opens].join(" and ")}` : "no open strings"}
          {shifts ? ", with a shift" : ", first position"}
        </Typography>
        <PlayerBar
          compact
          player={player}
          src={score.demonstration_url}
          name={`the ${score.instrument_name.toLowerCase()}`}
        />
      </Box>
      <ScoreView score={score} current={player.current} />
    </Box>
  );
}

function Shelf({
  exercises,
  onTake,
}: {
  exercises: Schemas["ExerciseOut"][] | undefined;
  onTake: (recipe: Recipe) => void;
}) {
  if (!exercises?.length) return null;
  return (
    <Choice label="On the shelf">
      <Box component="ul" sx={{ listStyle: "none", p: 0, m: 0, maxHeight: 220, overflowY: "auto" }}>
        {exercises.map((exercise) => (
          <Box component="li" key={exercise.id} sx={{ borderTop: `1px solid ${colours.line}` }}>
            <Button
              onClick={() => onTake(exercise.recipe)}
              sx={{
                justifyContent: "space-between",
                width: "100%",
                borderRadius: 1,
                px: 1,
                color: colours.ink,
                textAlign: "left",
              }}
            >
              <span>{exercise.title}</span>
              <Box component="span" sx={{ color: "text.secondary", whiteSpace: "nowrap", pl: 1 }}>
                {exercise.recipe.tempo_bpm} bpm
              </Box>
            </Button>
          </Box>
        ))}
      </Box>
    </Choice>
  );
}
