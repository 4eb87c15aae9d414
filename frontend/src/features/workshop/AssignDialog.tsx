import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import FormControlLabel from "@mui/material/FormControlLabel";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useForm, useWatch } from "react-hook-form";

import { answer, api, type Schemas } from "../../api/client";
import { Loading, Note, Trouble } from "../../ui/states";
import { useStudioSettings } from "../../ui/vocabulary";
import { dayWords, instrumentWords } from "../../ui/words";
import { firstRung, SCHOOLS, WAYS } from "./terms";

interface Fields {
  due_on: string;
  target_bpm: number;
  good_repeats: number;
  days_a_week: number;
  level: Schemas["LevelOut"]["key"];
  note: string;
  temperament: NonNullable<Schemas["NewAssignment"]["temperament"]>;
  reference: "strings" | "440" | "441" | "442" | "443";
  mode: NonNullable<Schemas["NewAssignment"]["mode"]>;
  ladder: boolean;
  ladder_from_bpm: number;
  ladder_step_bpm: number;
  ladder_clean: number;
  wants_picture: boolean;
}

const LADDER: ["ladder_step_bpm" | "ladder_clean", string, number, number][] = [
  ["ladder_step_bpm", "Step (bpm)", 1, 40],
  ["ladder_clean", "Clean goes in a row", 1, 10],
];

const nextWeek = () => {
  const day = new Date();
  day.setDate(day.getDate() + 7);
  return `${day.getFullYear()}-${String(day.getMonth() + 1).padStart(2, "0")}-${String(day.getDate()).padStart(2, "0")}`;
};

interface Props {
  catalogue: Schemas["Catalogue"];
  recipe: Schemas["Recipe"];
  title: string;
  onClose: () => void;
  onDone: (sentence: string) => void;
}

/** For whom, until when, how fast, how often. */
export function AssignDialog({ catalogue, recipe, title, onClose, onDone }: Props) {
  const queries = useQueryClient();
  const classes = useQuery({ queryKey: ["classes"], queryFn: () => answer(api.GET("/api/classes")) });
  const { lowest_tempo_bpm: lowest, highest_tempo_bpm: highest } = catalogue;
  const own = useStudioSettings().data?.levels;
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const { register, handleSubmit, formState, setValue, getFieldState, control } = useForm<Fields>({
    defaultValues: {
      due_on: nextWeek(),
      target_bpm: recipe.tempo_bpm,
      good_repeats: 5,
      days_a_week: 5,
      level: "settling",
      note: "",
      temperament: "equal",
      reference: "strings",
      mode: "steady",
      ladder: true,
      ladder_from_bpm: firstRung(catalogue, recipe.tempo_bpm),
      ladder_step_bpm: 6,
      ladder_clean: 2,
      wants_picture: false,
    },
  });
  const climbs = useWatch({ control, name: "ladder" });
  const pupils = classes.data?.classes.flatMap((group) => group.pupils) ?? [];
  const chosen = pupils.filter((pupil) => !left.has(pupil.id));
  const assign = useMutation({
    mutationFn: ({ reference, ladder, ladder_from_bpm, ...fields }: Fields) =>
      answer(
        api.POST("/api/assignments", {
          body: {
            recipe,
            pupil_ids: chosen.map((pupil) => pupil.id),
            a4_hz: reference === "strings" ? null : Number(reference),
            ladder_from_bpm: ladder ? ladder_from_bpm : null,
            ...fields,
          },
        }),
      ),
    onSuccess: (made) => {
      void queries.invalidateQueries({ queryKey: ["week"] });
      void queries.invalidateQueries({ queryKey: ["shelf"] });
      onDone(
        `Set for ${made.standings.length} ${made.standings.length === 1 ? "pupil" : "pupils"}, due ${dayWords(made.due_on)}.`,
      );
    },
  });
  const toggle = (id: string) =>
    setLeft((before) => {
      const next = new Set(before);
      if (!next.delete(id)) next.add(id);
      return next;
    });

  return (
    <Dialog open onClose={onClose} maxWidth="sm" fullWidth aria-labelledby="assign-title">
      <Box
        component="form"
        sx={{ display: "flex", flexDirection: "column", minHeight: 0 }}
        noValidate
        onSubmit={(event) => void handleSubmit((fields) => assign.mutate(fields))(event)}
      >
        <DialogTitle id="assign-title" sx={{ fontFamily: "h1.fontFamily" }}>
          Assign: {title}
        </DialogTitle>
        <DialogContent sx={{ display: "grid", gap: 2, pt: "8px !important" }}>
          <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", sm: "1fr 1fr" }, gap: 2 }}>
            <TextField
              label="Due"
              type="date"
              slotProps={{ inputLabel: { shrink: true } }}
              {...register("due_on", { required: "A day is needed" })}
              error={!!formState.errors.due_on}
              helperText={formState.errors.due_on?.message}
            />
            <TextField label="Tolerance" select defaultValue="settling" slotProps={{ htmlInput: register("level") }}>
              {catalogue.levels.map((level) => (
                <MenuItem key={level.key} value={level.key}>
                  {level.name} (±{own?.[level.key]?.pitch_cents ?? level.pitch_cents} cents)
                </MenuItem>
              ))}
            </TextField>
            <TextField
              label="Target tempo (bpm)"
              type="number"
              {...register("target_bpm", {
                valueAsNumber: true,
                min: { value: lowest, message: `From ${lowest}` },
                max: { value: highest, message: `Up to ${highest}` },
                required: "A tempo is needed",
                onChange: (event: { target: { value: string } }) => {
                  if (!getFieldState("ladder_from_bpm").isDirty)
                    setValue("ladder_from_bpm", firstRung(catalogue, Number(event.target.value)));
                },
              })}
              error={!!formState.errors.target_bpm}
              helperText={formState.errors.target_bpm?.message}
            />
            <TextField
              label="Good goes a day"
              type="number"
              {...register("good_repeats", {
                valueAsNumber: true,
                min: { value: 1, message: "At least one" },
                max: { value: 50, message: "Fifty at most" },
                required: "A number is needed",
              })}
              error={!!formState.errors.good_repeats}
              helperText={formState.errors.good_repeats?.message}
            />
            <TextField
              label="Days a week"
              type="number"
              {...register("days_a_week", {
                valueAsNumber: true,
                min: { value: 1, message: "At least one" },
                max: { value: 7, message: "Seven at most" },
                required: "A number is needed",
              })}
              error={!!formState.errors.days_a_week}
              helperText={formState.errors.days_a_week?.message}
            />
          </Box>
          <Box component="details">
            <summary>Tempo ladder</summary>
            <FormControlLabel
              control={<Checkbox defaultChecked {...register("ladder")} />}
              label="Begin slower, and offer the next rung after clean goes"
            />
            {climbs && (
              <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", sm: "1fr 1fr 1fr" }, gap: 2, mt: 1 }}>
                {([["ladder_from_bpm", "First rung (bpm)", lowest, highest], ...LADDER] as const).map(
                  ([key, label, least, most]) => (
                    <TextField
                      key={key}
                      label={label}
                      type="number"
                      slotProps={{ inputLabel: { shrink: true } }}
                      {...register(key, {
                        valueAsNumber: true,
                        min: { value: least, message: `At least ${least}` },
                        max: { value: most, message: `${most} at most` },
                        required: "A number is needed",
                        validate: (value, fields) =>
                          key !== "ladder_from_bpm" || value <= fields.target_bpm || "Not above the target",
                      })}
                      error={!!formState.errors[key]}
                      helperText={formState.errors[key]?.message}
                    />
                  ),
                )}
              </Box>
            )}
          </Box>
          <Box component="details">
            <summary>How it is judged</summary>
            <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", sm: "1fr 1fr" }, gap: 2, mt: 1.5 }}>
              <TextField
                label="Way of practising"
                select
                defaultValue="steady"
                slotProps={{ htmlInput: register("mode") }}
              >
                {WAYS.map(([key, name]) => (
                  <MenuItem key={key} value={key}>
                    {name}
                  </MenuItem>
                ))}
              </TextField>
              <TextField
                label="What is in tune"
                select
                defaultValue="equal"
                slotProps={{ htmlInput: register("temperament") }}
              >
                {SCHOOLS.map(([key, name]) => (
                  <MenuItem key={key} value={key}>
                    {name}
                  </MenuItem>
                ))}
              </TextField>
              <TextField
                label="Reference pitch"
                select
                defaultValue="strings"
                slotProps={{ htmlInput: register("reference") }}
              >
                <MenuItem value="strings">The pupil’s own open strings</MenuItem>
                {[440, 441, 442, 443].map((hz) => (
                  <MenuItem key={hz} value={String(hz)}>
                    A = {hz} Hz
                  </MenuItem>
                ))}
              </TextField>
            </Box>
          </Box>
          <FormControlLabel
            control={<Checkbox {...register("wants_picture")} />}
            label="Ask for a picture of the bow hold (only where an adult has said yes to pictures)"
          />
          <TextField label="A word to go with it (if you like)" {...register("note", { maxLength: 500 })} />
          <Box component="fieldset" sx={{ border: 0, p: 0, m: 0 }}>
            <Typography component="legend" variant="h2" sx={{ mb: 0.5 }}>
              For {chosen.length} of {pupils.length}
            </Typography>
            {classes.isPending && <Loading what="Fetching the class" />}
            {classes.isError && <Trouble error={classes.error} />}
            <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", sm: "1fr 1fr" } }}>
              {pupils.map((pupil) => (
                <FormControlLabel
                  key={pupil.id}
                  control={<Checkbox checked={!left.has(pupil.id)} onChange={() => toggle(pupil.id)} />}
                  label={`${pupil.name}, ${instrumentWords[pupil.instrument]}`}
                />
              ))}
            </Box>
          </Box>
          {assign.isError && <Note>{assign.error.message}</Note>}
        </DialogContent>
        <DialogActions>
          <Button onClick={onClose}>Not now</Button>
          <Button type="submit" variant="contained" disabled={chosen.length === 0 || assign.isPending}>
            Assign
          </Button>
        </DialogActions>
      </Box>
    </Dialog>
  );
}
