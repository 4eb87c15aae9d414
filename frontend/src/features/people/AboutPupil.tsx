import Box from "@mui/material/Box";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import MenuItem from "@mui/material/MenuItem";
import Paper from "@mui/material/Paper";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { answer, api, type Schemas } from "../../api/client";
import { useClasses } from "../../ui/ClassChoice";
import { Note } from "../../ui/states";
import { CardDialog } from "./CardDialog";
import { Frames } from "./Frames";
import { Leaving } from "./Leaving";

type Change = Schemas["PupilChange"];

/** What the teachers keep of a pupil; every field is kept as it is left. */
export function AboutPupil({ detail }: { detail: Schemas["PupilDetail"] }) {
  const { pupil } = detail;
  const queries = useQueryClient();
  const [card, setCard] = useState<Schemas["Card"] | null>(null);
  const catalogue = useQuery({
    queryKey: ["catalogue"],
    queryFn: () => answer(api.GET("/api/catalogue")),
    staleTime: Infinity,
  });
  const paths = useQuery({ queryKey: ["paths"], queryFn: () => answer(api.GET("/api/paths")) });
  const classes = useClasses();
  const refresh = () => {
    for (const key of ["pupil", "classes", "suggestions", "progress"])
      void queries.invalidateQueries({ queryKey: [key] });
  };
  const path = { params: { path: { id: pupil.id } } };
  const change = useMutation({
    mutationFn: (body: Change) => answer(api.PATCH("/api/pupils/{id}", { ...path, body })),
    onSuccess: refresh,
  });
  const alsoIn = useMutation({
    mutationFn: (class_ids: string[]) => answer(api.PUT("/api/pupils/{id}/classes", { ...path, body: { class_ids } })),
    onSuccess: refresh,
  });
  const move = useMutation({
    mutationFn: (class_id: string) => answer(api.POST("/api/pupils/{id}/move", { ...path, body: { class_id } })),
    onSuccess: (fresh) => {
      setCard(fresh);
      refresh();
    },
  });
  const error = change.error ?? alsoIn.error ?? move.error;
  const sizes = catalogue.data?.instruments.find((own) => own.key === pupil.instrument)?.sizes ?? [];
  const others = classes.data?.classes.filter((group) => group.id !== detail.class_id) ?? [];
  return (
    <Box sx={{ display: "grid", gap: 2, maxWidth: 900 }}>
      <Paper
        component="section"
        aria-label="The pupil"
        sx={{ p: 2.5, display: "grid", gap: 2, gridTemplateColumns: { xs: "1fr", sm: "1fr 1fr" } }}
      >
        <Kept label="Name" value={pupil.name} onKeep={(name) => change.mutate({ name })} needed />
        <TextField
          select
          label="Size"
          value={pupil.size}
          onChange={(event) => change.mutate({ size: event.target.value })}
          helperText="Another size brings its usual string length."
        >
          {[...new Set([...sizes.map((own) => own.name), pupil.size])].map((name) => (
            <MenuItem key={name} value={name}>
              {name}
            </MenuItem>
          ))}
        </TextField>
        <Kept
          label="String length (mm)"
          value={String(pupil.string_length_mm)}
          onKeep={(text) => change.mutate({ string_length_mm: Number(text) })}
          helper="From the nut to the bridge; measured is better than usual."
          needed
        />
        <Kept
          label="Goal"
          value={pupil.goal}
          onKeep={(goal) => change.mutate({ goal })}
          most={300}
          helper="The pupil’s record on paper shows it."
        />
        <TextField
          select
          label="Learning path"
          slotProps={{ inputLabel: { shrink: true }, select: { displayEmpty: true } }}

          value={pupil.path_id ?? ""}
          onChange={(event) => change.mutate({ path_id: event.target.value })}
        >
          <MenuItem value="">None</MenuItem>
          {paths.data?.paths.map((own) => (
            <MenuItem key={own.id} value={own.id}>
              {own.name}
            </MenuItem>
          ))}
        </TextField>
        {detail.path_steps.length > 0 && (
          <TextField
            select
            label="The next step"
            value={Math.min(pupil.path_step, detail.path_steps.length)}
            onChange={(event) => change.mutate({ path_step: Number(event.target.value) })}
          >
            {detail.path_steps.map((title, at) => (
              <MenuItem key={`${at} ${title}`} value={at}>
                {at + 1}. {title}
              </MenuItem>
            ))}
            <MenuItem value={detail.path_steps.length}>The end of the path</MenuItem>
          </TextField>
        )}
        <Box sx={{ gridColumn: "1 / -1" }}>
          <Kept
            label="Remarks, for teachers’ eyes"
            value={pupil.remarks}
            onKeep={(remarks) => change.mutate({ remarks })}
            most={4000}
            lines={3}
            helper="No pupil and no parent sees them."
          />
        </Box>
        <Box sx={{ gridColumn: "1 / -1" }}>
          <Typography variant="h2">What the hand knows</Typography>
          <Frames pupil={pupil} onClose={null} />
        </Box>
      </Paper>
      <Paper component="section" aria-label="Classes" sx={{ p: 2.5, display: "grid", gap: 1 }}>
        <Typography variant="h2">Classes</Typography>
        <Typography>
          The card is of <b>{detail.class_name}</b>.
        </Typography>
        {others.length > 0 && (
          <>
            <Box role="group" aria-label="Comes to these classes as well" sx={{ display: "flex", flexWrap: "wrap" }}>
              {others.map((group) => (
                <FormControlLabel
                  key={group.id}
                  control={
                    <Checkbox
                      checked={detail.also_in.includes(group.id)}
                      disabled={alsoIn.isPending}
                      onChange={(_, checked) =>
                        alsoIn.mutate(
                          checked ? [...detail.also_in, group.id] : detail.also_in.filter((own) => own !== group.id),
                        )
                      }
                    />
                  }
                  label={`comes to ${group.name} as well`}
                />
              ))}
            </Box>
            <TextField
              select
              size="small"
              label="Move to"
              value=""
              onChange={(event) => move.mutate(event.target.value)}
              helperText="The class code stands on the card: the pupil gets a new one."
              sx={{ maxWidth: 340 }}
            >
              {others.map((group) => (
                <MenuItem key={group.id} value={group.id}>
                  {group.name}
                </MenuItem>
              ))}
            </TextField>
          </>
        )}
      </Paper>
      {error && <Note>{error.message}</Note>}
      <Leaving pupil={pupil} />
      {card && <CardDialog cards={[card]} onClose={() => setCard(null)} />}
    </Box>
  );
}

interface KeptProps {
  label: string;
  value: string;
  onKeep: (text: string) => void;
  helper?: string;
  most?: number;
  lines?: number;
  needed?: boolean;
}

/** A field that is kept when it is left, or with Enter. */
function Kept({ label, value, onKeep, helper, most = 60, lines, needed = false }: KeptProps) {
  const [text, setText] = useState(value);
  const [from, setFrom] = useState(value);
  if (from !== value) {
    setFrom(value);
    setText(value);
  }
  const keep = () => {
    if (needed && !text.trim()) setText(value);
    else if (text.trim() !== value) onKeep(text.trim());
  };
  return (
    <TextField
      label={label}
      value={text}
      fullWidth
      multiline={lines !== undefined}
      minRows={lines}
      helperText={helper}
      onChange={(event) => setText(event.target.value)}
      onBlur={keep}
      onKeyDown={(event) => {
        if (event.key === "Enter" && lines === undefined) keep();
      }}
      slotProps={{ htmlInput: { maxLength: most } }}
    />
  );
}
