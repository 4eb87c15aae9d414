import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Paper from "@mui/material/Paper";
import Typography from "@mui/material/Typography";
import { useQuery } from "@tanstack/react-query";
import { useForm } from "react-hook-form";
import { Link, useParams } from "react-router";

import { answer, api, type Schemas } from "../../api/client";
import { useSessionChange } from "../../app/session";
import { Mark } from "../../ui/Mark";
import { Loading, Note } from "../../ui/states";
import { EMAIL, PASSWORD, type Asked, NAME } from "./account";
import { AccountFields } from "./AccountFields";

type Fields = Omit<Schemas["InvitedAccount"], "token">;
const ASKED: Asked<keyof Fields>[] = [NAME, EMAIL, PASSWORD];

/** A further teacher, who comes by a link. */
export function Join() {
  const { token = "" } = useParams();
  const link = useQuery({
    queryKey: ["invitation", token],
    queryFn: () => answer(api.GET("/api/session/invitation", { params: { query: { token } } })),
    retry: false,
  });
  const { register, handleSubmit, formState } = useForm<Fields>();
  const enter = useSessionChange((body: Fields) =>
    answer(api.POST("/api/session/invitation", { body: { ...body, token } })),
  );
  return (
    <Box component="main" sx={{ minHeight: "100vh", display: "grid", placeItems: "center", p: 2 }}>
      <Paper sx={{ p: { xs: 2.5, sm: 4 }, borderRadius: 2, width: "100%", maxWidth: 440 }}>
        <Box sx={{ display: "flex", alignItems: "center", gap: 1.5, mb: 2 }}>
          <Mark size={26} />
          <Typography variant="h1">Attentive Owl</Typography>
        </Box>
        {link.isPending ? (
          <Loading what="Looking at the link" />
        ) : link.isError ? (
          <>
            <Typography sx={{ mb: 2 }}>This link was used already, or is too old. Ask for a new one.</Typography>
            <Button component={Link} to="/" variant="outlined">
              To the front door
            </Button>
          </>
        ) : (
          <Box component="form" noValidate onSubmit={(event) => void handleSubmit((body) => enter.mutate(body))(event)}>
            <Typography sx={{ mb: 2 }}>
              You are invited to teach at <b>{link.data.studio}</b>.
            </Typography>
            <AccountFields asked={ASKED} register={register} errors={formState.errors} />
            {enter.isError && <Note>{enter.error.message}</Note>}
            <Button type="submit" variant="contained" size="large" fullWidth disabled={enter.isPending}>
              Come in
            </Button>
          </Box>
        )}
      </Paper>
    </Box>
  );
}
