import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Paper from "@mui/material/Paper";
import TextField from "@mui/material/TextField";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import { useForm } from "react-hook-form";
import { useNavigate } from "react-router";

import { answer, api, type Schemas } from "../../api/client";
import { useWhatIsHere, useSessionChange } from "../../app/session";
import { Mark } from "../../ui/Mark";
import { Note } from "../../ui/states";
import { FirstAccount } from "./FirstAccount";

export function SignIn() {
  const here = useWhatIsHere();
  // Where nobody has a card yet, there is one thing to do.
  const [role, setRole] = useState<"pupil" | "adult" | "teacher" | "first">(here === "nothing" ? "first" : "pupil");
  return (
    <Box component="main" sx={{ minHeight: "100vh", display: "grid", placeItems: "center", p: 2 }}>
      <Box sx={{ width: "100%", maxWidth: 440 }}>
        <Box sx={{ display: "flex", alignItems: "center", gap: 1.5, mb: 1 }}>
          <Mark size={26} />
          <Typography variant="h1">Attentive Owl</Typography>
        </Box>
        <Typography sx={{ color: "text.secondary", mb: 3 }}>
          Warm-ups for strings: played, heard, and heard well.
        </Typography>
        <Paper sx={{ p: { xs: 2.5, sm: 4 }, borderRadius: 2 }}>
          <ToggleButtonGroup
            exclusive
            value={role}
            onChange={(_, next: typeof role | null) => next && setRole(next)}
            aria-label="Who are you?"
            sx={{ mb: 3 }}
          >
            <ToggleButton value="pupil">I play</ToggleButton>
            <ToggleButton value="adult">I help at home</ToggleButton>
            <ToggleButton value="teacher">I teach</ToggleButton>
            {here !== "studio" && <ToggleButton value="first">A new studio</ToggleButton>}
          </ToggleButtonGroup>
          {role === "first" ? (
            <FirstAccount />
          ) : role === "teacher" ? (
            <TeacherForm />
          ) : (
            <CardForm adult={role === "adult"} />
          )}
        </Paper>
      </Box>
    </Box>
  );
}

/** The pupil's card opens the pupil's room, and for the adult at home the page of the week. */
function CardForm({ adult }: { adult: boolean }) {
  const go = useNavigate();
  const { register, handleSubmit } = useForm<Schemas["PupilSignIn"]>();
  const enter = useSessionChange((body: Schemas["PupilSignIn"]) => answer(api.POST("/api/session/pupil", { body })));
  return (
    <Box
      component="form"
      onSubmit={(event) =>
        void handleSubmit((body) => {
          // Before it is known who comes in: with that, this form is gone.
          if (adult) void go("/home");
          enter.mutate({ ...body, adult });
        })(event)
      }
    >
      <TextField
        {...register("class_code", { required: true })}
        label="Class code"
        fullWidth
        required
        autoComplete="organization"
        sx={{ mb: 2 }}
        slotProps={{ htmlInput: { autoCapitalize: "characters", spellCheck: false } }}
      />
      <TextField
        {...register("passphrase", { required: true })}
        label={adult ? "The words" : "Your words"}
        fullWidth
        required
        autoComplete="current-password"
        sx={{ mb: 1 }}
        slotProps={{ htmlInput: { autoCapitalize: "none", spellCheck: false } }}
      />
      <Typography sx={{ color: "text.secondary", mb: 2 }}>
        {adult ? "Both are on the pupil’s card; you need no account of your own." : "Both are on your card."}
      </Typography>
      {enter.isError && <Note>{enter.error.message}</Note>}
      <Button type="submit" variant="contained" size="large" fullWidth disabled={enter.isPending}>
        Come in
      </Button>
    </Box>
  );
}

function TeacherForm() {
  const { register, handleSubmit } = useForm<Schemas["TeacherSignIn"]>();
  const enter = useSessionChange((body: Schemas["TeacherSignIn"]) =>
    answer(api.POST("/api/session/teacher", { body })),
  );
  return (
    <Box component="form" onSubmit={(event) => void handleSubmit((body) => enter.mutate(body))(event)}>
      <TextField
        {...register("email", { required: true })}
        label="E-mail"
        type="email"
        fullWidth
        required
        autoComplete="username"
        sx={{ mb: 2 }}
      />
      <TextField
        {...register("password", { required: true })}
        label="Password"
        type="password"
        fullWidth
        required
        autoComplete="current-password"
        sx={{ mb: 2 }}
      />
      {enter.isError && <Note>{enter.error.message}</Note>}
      <Button type="submit" variant="contained" size="large" fullWidth disabled={enter.isPending}>
        Sign in
      </Button>
    </Box>
  );
}
