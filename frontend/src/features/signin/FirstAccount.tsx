import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useForm } from "react-hook-form";

import { answer, api, type Schemas } from "../../api/client";
import { useSessionChange } from "../../app/session";
import { Note } from "../../ui/states";
import { type Asked, EMAIL, NAME, PASSWORD } from "./account";
import { AccountFields } from "./AccountFields";

type Fields = Schemas["FirstAccount"];
const STUDIO: Asked<"studio"> = {
  key: "studio",
  label: "Name of the studio",
  type: "text",
  complete: "organization",
  rules: { required: "This is needed" },
};
const ASKED: Asked<keyof Fields>[] = [STUDIO, NAME, EMAIL, PASSWORD];

/** On an installation without a studio: its first teacher makes one. */
export function FirstAccount() {
  const { register, handleSubmit, formState } = useForm<Fields>();
  const enter = useSessionChange((body: Fields) => answer(api.POST("/api/session/first", { body })));
  return (
    <Box component="form" noValidate onSubmit={(event) => void handleSubmit((body) => enter.mutate(body))(event)}>
      <Typography sx={{ mb: 2 }}>Nobody teaches here yet. Make the first studio.</Typography>
      <AccountFields asked={ASKED} register={register} errors={formState.errors} />
      {enter.isError && <Note>{enter.error.message}</Note>}
      <Button type="submit" variant="contained" size="large" fullWidth disabled={enter.isPending}>
        Make the studio
      </Button>
    </Box>
  );
}
