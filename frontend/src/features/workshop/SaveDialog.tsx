import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useForm } from "react-hook-form";

import { answer, api, type Schemas } from "../../api/client";
import { Note } from "../../ui/states";
import type { Recipe } from "./recipe";

interface Props {
  recipe: Recipe;
  title: string;
  /** The exercise of the shelf that is being changed, if there is one. */
  editing: Schemas["ExerciseOut"] | null;
  onClose: () => void;
  onSaved: (exercise: Schemas["ExerciseOut"]) => void;
}

interface Fields {
  title: string;
  tags: string;
  path_id: string;
}

/** A name, tags, and a place on a learning path. */
export function SaveDialog({ recipe, title, editing, onClose, onSaved }: Props) {
  const queries = useQueryClient();
  const paths = useQuery({ queryKey: ["paths"], queryFn: () => answer(api.GET("/api/paths")) });
  const { register, handleSubmit } = useForm<Fields>({
    defaultValues: { title: editing?.title ?? title, tags: editing?.tags.join(", ") ?? "", path_id: "" },
  });
  const save = useMutation({
    mutationFn: ({ fields, change }: { fields: Fields; change: boolean }) => {
      const body = {
        recipe,
        title: fields.title,
        tags: fields.tags
          .split(",")
          .map((tag) => tag.trim())
          .filter(Boolean),
        ...(fields.path_id ? { path_id: fields.path_id } : {}),
      };
      return change && editing
        ? answer(api.PUT("/api/exercises/{id}", { params: { path: { id: editing.id } }, body }))
        : answer(api.POST("/api/exercises", { body }));
    },
    onSuccess: (saved) => {
      void queries.invalidateQueries({ queryKey: ["shelf"] });
      void queries.invalidateQueries({ queryKey: ["paths"] });
      onSaved(saved);
    },
  });
  return (
    <Dialog open onClose={onClose} maxWidth="sm" fullWidth aria-labelledby="save-title">
      <Box
        component="form"
        sx={{ display: "flex", flexDirection: "column", minHeight: 0 }}
        noValidate
        onSubmit={(event) => void handleSubmit((fields) => save.mutate({ fields, change: !!editing }))(event)}
      >
        <DialogTitle id="save-title" sx={{ fontFamily: "h1.fontFamily" }}>
          {editing ? "Save the change" : "Save to the shelf"}
        </DialogTitle>
        <DialogContent sx={{ display: "grid", gap: 2, pt: "8px !important" }}>
          <TextField label="Name" {...register("title")} slotProps={{ htmlInput: { maxLength: 120 } }} />
          <TextField label="Tags, with commas between them" {...register("tags")} />
          {!editing && (
            <TextField
              label="Also put it at the end of a learning path"
              select
              defaultValue=""
              slotProps={{ htmlInput: register("path_id") }}
            >
              <MenuItem value="">On no path</MenuItem>
              {(paths.data?.paths ?? []).map((path) => (
                <MenuItem key={path.id} value={path.id}>
                  {path.name}
                </MenuItem>
              ))}
            </TextField>
          )}
          {editing && editing.assigned > 0 && (
            <Typography>
              This exercise is set for pupils: what they have stays as it is, and the change becomes version{" "}
              {editing.version + 1}.
            </Typography>
          )}
          {save.isError && <Note>{save.error.message}</Note>}
        </DialogContent>
        <DialogActions>
          <Button onClick={onClose}>Not now</Button>
          {editing && (
            <Button onClick={(event) => void handleSubmit((fields) => save.mutate({ fields, change: false }))(event)}>
              Save as a copy
            </Button>
          )}
          <Button type="submit" variant="contained" disabled={save.isPending}>
            Save
          </Button>
        </DialogActions>
      </Box>
    </Dialog>
  );
}
