import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import Paper from "@mui/material/Paper";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";

import { answer, api, type Schemas } from "../../api/client";
import { useClasses } from "../../ui/ClassChoice";
import { Note } from "../../ui/states";

/** Leaving and coming back, two entries of one child, and going for good. */
export function Leaving({ pupil }: { pupil: Schemas["PupilOut"] }) {
  const queries = useQueryClient();
  const go = useNavigate();
  const classes = useClasses();
  const [into, setInto] = useState("");
  const [typed, setTyped] = useState("");
  const path = { params: { path: { id: pupil.id } } };
  const refresh = () => void queries.invalidateQueries();
  const archive = useMutation({
    mutationFn: () =>
      pupil.archived_at
        ? answer(api.POST("/api/pupils/{id}/restore", path))
        : answer(api.POST("/api/pupils/{id}/archive", path)),
    onSuccess: refresh,
  });
  const merge = useMutation({
    mutationFn: () => answer(api.POST("/api/pupils/{id}/merge", { ...path, body: { into } })),
    onSuccess: (stays) => {
      refresh();
      void go(`/people/${stays.pupil.id}`);
    },
  });
  const erase = useMutation({
    mutationFn: () => answer(api.POST("/api/pupils/{id}/erase", { ...path, body: { name: typed } })),
    onSuccess: () => {
      refresh();
      void go("/people");
    },
  });
  const twins = (classes.data?.classes ?? [])
    .flatMap((group) => group.pupils)
    .filter((own) => own.id !== pupil.id && own.instrument === pupil.instrument);
  const error = archive.error ?? merge.error ?? erase.error;
  return (
    <Paper component="section" aria-label="Leaving" sx={{ p: 2.5, display: "grid", gap: 2 }}>
      <Typography variant="h2">Leaving</Typography>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 2, alignItems: "center" }}>
        <Button variant="outlined" disabled={archive.isPending} onClick={() => archive.mutate()}>
          {pupil.archived_at ? "Come back" : "Has left"}
        </Button>
        <Typography sx={{ color: "text.secondary", flex: "1 1 300px" }}>
          Out of the lists; the card no longer works, takes and record stay. It can be turned back.
        </Typography>
      </Box>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 2, alignItems: "center" }}>
        <Button
          variant="outlined"
          component="a"
          href={`/api/pupils/${pupil.id}/archive.zip`}
          download={`${pupil.name}.zip`}
        >
          Everything as one file
        </Button>
        <Typography sx={{ color: "text.secondary", flex: "1 1 300px" }}>
          For an adult who asks what is kept, or for the next teacher: record, results, what was said, recordings.
        </Typography>
      </Box>
      {twins.length > 0 && (
        <Box component="details">
          <summary>Two entries of one child</summary>
          <Box sx={{ display: "flex", flexWrap: "wrap", gap: 2, alignItems: "center", mt: 1.5 }}>
            <TextField
              select
              size="small"
              label="The other entry"
              value={into}
              onChange={(event) => setInto(event.target.value)}
              sx={{ minWidth: 240 }}
            >
              {twins.map((own) => (
                <MenuItem key={own.id} value={own.id}>
                  {own.name}
                </MenuItem>
              ))}
            </TextField>
            <Button variant="outlined" disabled={!into || merge.isPending} onClick={() => merge.mutate()}>
              Put this one’s takes there
            </Button>
            <Typography sx={{ color: "text.secondary", flexBasis: "100%" }}>
              All that {pupil.name} has goes to the other entry, whose card stays. This entry is gone then; that can not
              be turned back.
            </Typography>
          </Box>
        </Box>
      )}
      <Box component="details">
        <summary>Erase for good</summary>
        <Box
          component="form"
          onSubmit={(event: React.FormEvent) => {
            event.preventDefault();
            erase.mutate();
          }}
          sx={{ display: "flex", flexWrap: "wrap", gap: 2, alignItems: "center", mt: 1.5 }}
        >
          <Typography sx={{ flexBasis: "100%" }}>
            Recordings, reports, marks and record of {pupil.name} are deleted. Nobody can bring them back.
          </Typography>
          <TextField
            size="small"
            label={`Type the name: ${pupil.name}`}
            value={typed}
            onChange={(event) => setTyped(event.target.value)}
            sx={{ minWidth: 280 }}
          />
          <Button type="submit" variant="outlined" disabled={typed.trim() === "" || erase.isPending}>
            Erase
          </Button>
        </Box>
      </Box>
      {error && <Note>{error.message}</Note>}
    </Paper>
  );
}
