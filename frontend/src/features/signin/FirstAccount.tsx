import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useForm } from "react-hook-form";

import { answer, api, type Schemas } from "../../api/client";
import { useSessionChange } from "../../app/session";
import { Note } from "../../ui/states";

type Fields = Schemas["FirstAccount"];
const ASKED: [keyof Fields, string, string, string][] = [
  ["studio", "Name of the studio", "text", "organization"],
  ["name", "Your name, as pupils know you", "text", "name"],
  ["email", "Your e-mail", "email", "username"],
  ["password", "A password of ten letters or more", "password", "new-password"],
];

/** On an installation without a studio: its first teacher makes one. */
export function FirstAccount() {
  const { register, handleSubmit, formState } = useForm<Fields>();
  const enter = useSessionChange((body: Fields) => answer(api.POST("/api/session/first", { body })));
  return (
    <Box component="form" noValidate onSubmit={(event) => void handleSubmit((body) => enter.mutate(body))(event)}>
      <Typography sx={{ mb: 2 }}>Nobody teaches here yet. Make the first studio.</Typography>
      {ASKED.map(([key, label, type, complete]) => (
        <TextField
          key={key}
          {...register(key, {
            required: "This is needed",
            ...(key === "password" && { minLength: { value: 10, message: "Ten letters at least" } }),
            ...(key === "email" && { pattern: { value: /^[^@\s]+@[^@\s]+$/, message: "This is no e-mail address" } }),
          })}
          label={label}
          type={type}
          autoComplete={complete}
          fullWidth
          required
          error={!!formState.errors[key]}
          helperText={formState.errors[key]?.message}
          sx={{ mb: 2 }}
        />
      ))}
      {enter.isError && <Note>{enter.error.message}</Note>}
      <Button type="submit" variant="contained" size="large" fullWidth disabled={enter.isPending}>
        Make the studio
      </Button>
    </Box>
  );
}
