import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import FormControlLabel from "@mui/material/FormControlLabel";
import MenuItem from "@mui/material/MenuItem";
import Switch from "@mui/material/Switch";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useDeferredValue, useMemo, useState } from "react";

import { answer, api, type Schemas } from "../../api/client";
import { useWidth } from "../../music/useWidth";
import { Loading, Note, Trouble } from "../../ui/states";
import { useSay } from "../../ui/vocabulary";
import { AssignDialog } from "./AssignDialog";
import { Choices } from "./Choices";
import { Part } from "./Part";
import { changed, FIRST, pin, type Recipe } from "./recipe";
import { SaveDialog } from "./SaveDialog";
import { Shelf } from "./Shelf";
import { useHistory } from "./useHistory";

const ALL: Schemas["ScoreOut"]["instrument"][] = ["violin", "viola", "cello", "bass"];
const COMPANY: [string, string][] = [
  ["alone", "Alone"],
  ["click", "With a click"],
  ["drone", "Over a drone"],
  ["backing", "With I, IV and V"],
];

/** Choices on one side, the living score of all instruments on the other. */
export function Workshop() {
  const { now: recipe, change: put, undo, redo } = useHistory<Recipe>(FIRST);
  const [editing, setEditing] = useState<Schemas["ExerciseOut"] | null>(null);
  const [dialog, setDialog] = useState<"assign" | "save" | null>(null);
  const [company, setCompany] = useState("alone");
  const [line, setLine] = useState(true);
  const [said, setSaid] = useState<string | null>(null);
  const say = useSay();
  const { ref, width } = useWidth<HTMLDivElement>();
  // A slider that is being drawn along asks when it has time; every other change asks at once.
  const tempo = useDeferredValue(recipe.tempo_bpm);
  const asked = useMemo(() => ({ ...recipe, tempo_bpm: tempo }), [recipe, tempo]);
  const catalogue = useQuery({
    queryKey: ["catalogue"],
    queryFn: () => answer(api.GET("/api/catalogue")),
    staleTime: Infinity,
  });
  const emptyLine = asked.family === "own" && asked.line.every((note) => note.name === null);
  const preview = useQuery({
    queryKey: ["preview", asked, width],
    queryFn: () => answer(api.POST("/api/preview", { body: { recipe: asked, instruments: ALL, width: width! } })),
    enabled: width !== null && !emptyLine,
    staleTime: Infinity,
    placeholderData: keepPreviousData,
  });
  const change = (part: Partial<Recipe>, kind?: string) => {
    setSaid(null);
    put(changed(recipe, part), kind);
  };

  if (catalogue.isPending) return <Loading what="Opening the workshop" />;
  if (catalogue.isError) return <Trouble error={catalogue.error} again={() => void catalogue.refetch()} />;
  const family = catalogue.data.families.find((own) => own.key === recipe.family)!;
  const shown = emptyLine || preview.isError ? undefined : preview.data;
  const sound = `&company=${company}${line || company === "alone" ? "" : "&line=false"}`;

  return (
    <Box
      sx={{
        display: "grid",
        gridTemplateColumns: { xs: "minmax(0, 1fr)", md: "minmax(300px, 400px) minmax(0, 1fr)" },
        gap: 4,
        alignItems: "start",
      }}
    >
      <Box
        component="form"
        aria-label="The warm-up"
        onSubmit={(event) => event.preventDefault()}
        sx={{ display: "grid", gap: 2.5, minWidth: 0 }}
      >
        <Box sx={{ display: "flex", alignItems: "center", gap: 1 }}>
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
        <Choices catalogue={catalogue.data} recipe={recipe} family={family} onChange={change} />
        <Shelf
          open={editing}
          onOpen={(opened, exercise) => {
            put(opened);
            setEditing(exercise);
            setSaid(null);
          }}
        />
      </Box>
      <Box ref={ref} sx={{ minWidth: 0 }}>
        <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1.5, alignItems: "center", mb: 1 }}>
          <Typography
            variant="h2"
            component="p"
            sx={{ flexBasis: { xs: "100%", lg: 0 }, flexGrow: 1, color: "text.primary" }}
          >
            {say(shown?.title ?? "")}
          </Typography>
          <TextField
            select
            size="small"
            label="Listen"
            value={company}
            onChange={(event) => setCompany(event.target.value)}
            sx={{ minWidth: 170 }}
          >
            {COMPANY.map(([key, name]) => (
              <MenuItem key={key} value={key}>
                {name}
              </MenuItem>
            ))}
          </TextField>
          {company !== "alone" && (
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
          <Button variant="outlined" onClick={() => setDialog("save")} disabled={!shown}>
            {editing ? "Save the change…" : "Save…"}
          </Button>
          <Button variant="contained" onClick={() => setDialog("assign")} disabled={!shown}>
            Assign…
          </Button>
        </Box>
        {said && (
          <Typography role="status" sx={{ mb: 1 }}>
            {said}
          </Typography>
        )}
        {emptyLine ? (
          <Typography>Type the first note on the left, or take a line from a file.</Typography>
        ) : preview.isError ? (
          <Trouble error={preview.error} again={() => void preview.refetch()} />
        ) : shown ? (
          <Box aria-busy={preview.isFetching} sx={{ display: "grid", gap: 2, gridTemplateColumns: "minmax(0, 1fr)" }}>
            {shown.left_out.map((why) => (
              <Note key={why}>{why}</Note>
            ))}
            {shown.scores.map((score, at) => (
              <Part
                key={score.instrument}
                score={score}
                insight={shown.insights[at]!}
                pins={recipe.pins}
                company={sound}
                onPin={(index, place) =>
                  put(
                    pin(
                      recipe,
                      place
                        ? { instrument: score.instrument, index, string: place.string, finger: place.finger }
                        : { instrument: score.instrument, index, clear: true },
                    ),
                  )
                }
              />
            ))}
          </Box>
        ) : (
          <Loading what="Engraving" />
        )}
      </Box>
      {dialog === "assign" && (
        <AssignDialog
          recipe={recipe}
          title={shown?.title ?? ""}
          onClose={() => setDialog(null)}
          onDone={(sentence) => {
            setDialog(null);
            setSaid(sentence);
          }}
        />
      )}
      {dialog === "save" && (
        <SaveDialog
          recipe={recipe}
          title={shown?.title ?? ""}
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
