import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import FormControlLabel from "@mui/material/FormControlLabel";
import MenuItem from "@mui/material/MenuItem";
import Switch from "@mui/material/Switch";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { keepPreviousData, queryOptions, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useDeferredValue, useEffect, useMemo, useRef, useState } from "react";
import { useLocation } from "react-router";

import { answer, api, type Schemas } from "../../api/client";
import { useWidth } from "../../music/useWidth";
import { Loading, Note, Trouble } from "../../ui/states";
import { useSay } from "../../ui/vocabulary";
import { AssignDialog } from "./AssignDialog";
import { Choices } from "./Choices";
import { Few } from "../../ui/Few";
import { OntoSheet } from "../../ui/OntoSheet";
import { Part } from "./Part";
import { ALL, changed, type InstrumentKey, pin, type Recipe, registered } from "./recipe";
import { SaveDialog } from "./SaveDialog";
import { SheetDialog } from "./SheetDialog";
import { Exercises, Paths } from "./Shelf";
import { useHistory } from "./useHistory";

const COMPANY: [string, string][] = [
  ["alone", "Alone"],
  ["click", "With a click"],
  ["drone", "Over a drone"],
  ["backing", "With I, IV and V"],
];
const CALLS: [string, string] = ["calls", "With the calls"];
const COLUMN = [
  ["choices", "Choices"],
  ["shelf", "Shelf"],
  ["paths", "Paths"],
] as const;
type Ease = Schemas["PreviewQuestion"]["ease"];

const previewOf = (recipe: Recipe, instrument: InstrumentKey, width: number, ease: Ease = "usual") =>
  queryOptions({
    queryKey: ["preview", recipe, width, instrument, ease],
    queryFn: () => answer(api.POST("/api/preview", { body: { recipe, instrument, width, ease } })),
    staleTime: Infinity,
  });

type Eases = Partial<Record<InstrumentKey, Ease>>;

/** The last engraving stays until the next one comes (which a list of queries in one hook would not do). */
const usePreview = (
  instrument: InstrumentKey,
  { recipe, width, enabled, eases }: { recipe: Recipe; width: number | null; enabled: boolean; eases: Eases },
) =>
  useQuery({
    ...previewOf(recipe, instrument, width ?? 0, eases[instrument]),
    enabled: enabled && width !== null,
    placeholderData: keepPreviousData,
  });

const isEmpty = (recipe: Recipe) => recipe.family === "own" && recipe.line.every((note) => note.name === null);

export function Workshop() {
  const catalogue = useQuery({
    queryKey: ["catalogue"],
    queryFn: () => answer(api.GET("/api/catalogue")),
    staleTime: Infinity,
  });
  if (catalogue.isPending) return <Loading what="Opening the workshop" />;
  if (catalogue.isError) return <Trouble error={catalogue.error} again={() => void catalogue.refetch()} />;
  return <Desk catalogue={catalogue.data} />;
}

/** Choices on one side, the living score of all instruments on the other. */
function Desk({ catalogue }: { catalogue: Schemas["Catalogue"] }) {
  /** What a recipe does not say is as it is by default. */
  const whole = (own?: Schemas["Recipe"]) => ({ ...catalogue.first_recipe, ...own }) as Recipe;
  // Whoever comes with a recipe (a suggestion to be changed) begins with it.
  const brought = (useLocation().state as { recipe?: Schemas["Recipe"] } | null)?.recipe;
  const { now: recipe, change: put, undo, redo } = useHistory<Recipe>(whole(brought));
  const [editing, setEditing] = useState<Schemas["ExerciseOut"] | null>(null);
  const [dialog, setDialog] = useState<"assign" | "save" | "sheet" | null>(null);
  const [column, setColumn] = useState<(typeof COLUMN)[number][0]>("choices");
  const [eases, setEases] = useState<Eases>({});
  const [company, setCompany] = useState("alone");
  const [line, setLine] = useState(true);
  const [said, setSaid] = useState<string | null>(null);
  const say = useSay();
  const { ref, width } = useWidth<HTMLDivElement>();
  // A slider that is being drawn along asks when it has time; every other change asks at once.
  const tempo = useDeferredValue(recipe.tempo_bpm);
  const asked = useMemo(() => ({ ...recipe, tempo_bpm: tempo }), [recipe, tempo]);
  const emptyLine = isEmpty(asked);
  const wanted = { recipe: asked, width, enabled: !emptyLine, eases };
  const previews = [
    usePreview("violin", wanted),
    usePreview("viola", wanted),
    usePreview("cello", wanted),
    usePreview("bass", wanted),
  ];
  const queries = useQueryClient();
  const standing = useRef({ recipe, width });
  useEffect(() => {
    standing.current = { recipe, width };
  }, [recipe, width]);
  const change = useCallback(
    (part: Partial<Recipe>, kind?: string) => {
      setSaid(null);
      const next = changed(standing.current.recipe, part);
      const { width: wide } = standing.current;
      // Asked before the choices are drawn again, so that the server works meanwhile; a slider waits (see above).
      if (kind === undefined && wide !== null && !isEmpty(next))
        for (const instrument of ALL) void queries.prefetchQuery(previewOf(next, instrument, wide));
      put(() => next, kind);
    },
    [put, queries],
  );
  const onRegister = useCallback<React.ComponentProps<typeof Part>["onRegister"]>(
    (own) => put((before) => changed(before, registered(before, own))),
    [put],
  );
  const onEase = useCallback<React.ComponentProps<typeof Part>["onEase"]>(
    (instrument, ease) => setEases((before) => ({ ...before, [instrument]: ease })),
    [],
  );
  const onPin = useCallback<React.ComponentProps<typeof Part>["onPin"]>(
    (instrument, index, place) =>
      put((before) =>
        pin(
          before,
          place
            ? { instrument, index, string: place.string, finger: place.finger }
            : { instrument, index, clear: true },
        ),
      ),
    [put],
  );

  const family = catalogue.families.find((own) => own.key === recipe.family)!;
  const failed = previews.find((preview) => preview.isError);
  const shown = emptyLine || failed ? [] : previews.flatMap((preview) => preview.data ?? []);
  const title = shown[0]?.title ?? "";
  const playable = shown.some((preview) => preview.part);
  const playing = company === CALLS[0] && recipe.family !== "call" ? "alone" : company;
  const sound = `&company=${playing}${line || playing === "alone" ? "" : "&line=false"}`;
  const open = (opened: Schemas["Recipe"], exercise: Schemas["ExerciseOut"] | null) => {
    put(() => whole(opened));
    setEditing(exercise);
    setSaid(null);
  };

  return (
    <Box
      sx={{
        display: "grid",
        gridTemplateColumns: { xs: "minmax(0, 1fr)", md: "340px minmax(0, 1fr)" },
        gap: 4,
        alignItems: "start",
      }}
    >
      <Box
        component="form"
        aria-label="The warm-up"
        onSubmit={(event) => event.preventDefault()}
        sx={{
          display: "grid",
          gridTemplateColumns: "minmax(0, 1fr)",
          gap: 1.5,
          minWidth: 0,
          // Beside the scores it stays where it is, and what opens in it scrolls in it.
          position: { md: "sticky" },
          top: { md: 8 },
          maxHeight: { md: "calc(100vh - 16px)" },
          overflowY: { md: "auto" },
          pr: { md: 0.5 },
          pt: 0.75,
        }}
      >
        <Box sx={{ display: "flex", alignItems: "center", gap: 0.5 }}>
          <Typography variant="h1" sx={{ flexGrow: 1 }}>
            Workshop
          </Typography>
          <Button size="small" onClick={undo ?? undefined} disabled={!undo}>
            Undo
          </Button>
          <Button size="small" onClick={redo ?? undefined} disabled={!redo}>
            Redo
          </Button>
        </Box>
        <Few label="What is shown here" value={column} values={COLUMN} onPick={setColumn} />
        {column === "choices" && <Choices catalogue={catalogue} recipe={recipe} family={family} onChange={change} />}
        {column !== "choices" && (
          <Box component="section" aria-label="Ready exercises">
            {column === "shelf" ? <Exercises open={editing} onOpen={open} /> : <Paths onOpen={open} />}
          </Box>
        )}
      </Box>
      <Box ref={ref} sx={{ minWidth: 0 }}>
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1.5, alignItems: "center", mb: 1 }}>
          <Typography
            variant="h2"
            component="p"
            sx={{ flexBasis: { xs: "100%", lg: 0 }, flexGrow: 1, color: "text.primary" }}
          >
            {say(title)}
          </Typography>
          <TextField
            select
            size="small"
            label="Listen"
            value={playing}
            onChange={(event) => setCompany(event.target.value)}
            sx={{ minWidth: 170 }}
          >
            {(recipe.family === "call" ? [...COMPANY, CALLS] : COMPANY).map(([key, name]) => (
              <MenuItem key={key} value={key}>
                {name}
              </MenuItem>
            ))}
          </TextField>
          {playing !== "alone" && (
            <FormControlLabel
              control={<Switch checked={line} onChange={(_, checked) => setLine(checked)} />}
              label="The line too"
            />
          )}
          {editing && (
            <Button
              onClick={() => {
                setEditing(null);
                setSaid("This is a new exercise now.");
              }}
            >
              As a new one
            </Button>
          )}
          <Button variant="outlined" onClick={() => setDialog("sheet")} disabled={!playable}>
            Sheet…
          </Button>
          <Button variant="outlined" onClick={() => setDialog("save")} disabled={!playable}>
            {editing ? "Save the change…" : "Save…"}
          </Button>
          {playable && <OntoSheet key={JSON.stringify(recipe)} body={{ recipe }} words="Onto the week’s sheet" />}
          <Button variant="contained" onClick={() => setDialog("assign")} disabled={!playable}>
            Assign…
          </Button>
        </Box>
        {said && (
          <Typography role="status" sx={{ mb: 1 }}>
            {said}
          </Typography>
        )}
        {emptyLine ? (
          <Typography>Put the first note in on the left, or take a line from a file.</Typography>
        ) : failed ? (
          <Trouble
            error={failed.error}
            again={() => previews.forEach((preview) => preview.isError && void preview.refetch())}
          />
        ) : shown.length ? (
          <Box
            aria-busy={previews.some((preview) => preview.isFetching)}
            sx={{ display: "grid", gap: 2, gridTemplateColumns: "minmax(0, 1fr)" }}
          >
            {shown.map(({ left_out }) => left_out && <Note key={left_out}>{left_out}</Note>)}
            {shown.map(
              ({ part }) =>
                part && (
                  <Part
                    key={part.score.instrument}
                    score={part.score}
                    insight={part.insight}
                    recipe={recipe}
                    ease={eases[part.score.instrument] ?? "usual"}
                    company={sound}
                    onPin={onPin}
                    onRegister={onRegister}
                    onEase={onEase}
                  />
                ),
            )}
          </Box>
        ) : (
          <Loading what="Engraving" />
        )}
      </Box>
      {dialog === "assign" && (
        <AssignDialog
          catalogue={catalogue}
          recipe={recipe}
          title={title}
          onClose={() => setDialog(null)}
          onDone={(sentence) => {
            setDialog(null);
            setSaid(sentence);
          }}
        />
      )}
      {dialog === "sheet" && <SheetDialog recipe={recipe} title={title} onClose={() => setDialog(null)} />}
      {dialog === "save" && (
        <SaveDialog
          recipe={recipe}
          title={title}
          editing={editing}
          onClose={() => setDialog(null)}
          onSaved={(saved) => {
            setDialog(null);
            setEditing(saved);
            setSaid(
              saved.version > 1 && saved.id !== editing?.id
                ? `“${saved.title}” stands on the shelf as version ${saved.version}.`
                : `“${saved.title}” stands on the shelf.`,
            );
          }}
        />
      )}
    </Box>
  );
}
