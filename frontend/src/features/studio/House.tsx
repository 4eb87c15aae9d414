import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Paper from "@mui/material/Paper";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { answer, api } from "../../api/client";
import { useSessionChange } from "../../app/session";
import { Loading, Note, Trouble } from "../../ui/states";
import { dayWords } from "../../ui/words";

/** Who teaches here, how others come in, and the whole studio as one file. */
export function House() {
  const queries = useQueryClient();
  const staff = useQuery({ queryKey: ["staff"], queryFn: () => answer(api.GET("/api/teachers")) });
  const refresh = () => void queries.invalidateQueries({ queryKey: ["staff"] });
  const invite = useMutation({ mutationFn: () => answer(api.POST("/api/invitations")), onSuccess: refresh });
  const withdraw = useMutation({
    mutationFn: (id: string) => answer(api.DELETE("/api/invitations/{id}", { params: { path: { id } } })),
    onSettled: () => {
      invite.reset();
      refresh();
    },
  });
  if (staff.isPending) return <Loading what="Looking who is here" />;
  if (staff.isError) return <Trouble error={staff.error} again={() => void staff.refetch()} />;
  const { teachers, open, demo } = staff.data;
  return (
    <Paper component="section" aria-label="The house" sx={{ p: 2.5, display: "grid", gap: 1.5 }}>
      <Typography variant="h2">The house</Typography>
      <Typography>
        {teachers.length === 1 ? "One teacher" : `${teachers.length} teachers`}:{" "}
        {teachers.map((own) => `${own.name} (${own.email})`).join(", ")}.
      </Typography>
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1.5, alignItems: "center" }}>
        <Button variant="outlined" disabled={invite.isPending} onClick={() => invite.mutate()}>
          Invite a teacher
        </Button>
        <Typography sx={{ color: "text.secondary" }}>
          Makes a link that works once, for a week. Whoever has it sees every pupil here: hand it over yourself.
        </Typography>
      </Box>
      {invite.data && (
        <TextField
          label="The link; it is shown this once"
          value={`${window.location.origin}${invite.data.path}`}
          slotProps={{
            htmlInput: {
              readOnly: true,
              onFocus: (event: React.FocusEvent<HTMLInputElement>) => event.target.select(),
            },
          }}
          fullWidth
        />
      )}
      {open.map((own) => (
        <Box key={own.id} sx={{ display: "flex", gap: 1.5, alignItems: "center", flexWrap: "wrap" }}>
          <span>
            A link made {dayWords(own.created_at)}, good until {dayWords(own.expires_at)}
          </span>
          <Button size="small" onClick={() => withdraw.mutate(own.id)}>
            Withdraw it
          </Button>
        </Box>
      ))}
      {(invite.error ?? withdraw.error) && <Note>{(invite.error ?? withdraw.error)!.message}</Note>}
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1.5, alignItems: "center" }}>
        <Button variant="outlined" component="a" href="/api/studio/archive.zip" download>
          The whole studio as one file
        </Button>
        <Typography sx={{ color: "text.secondary", flex: "1 1 320px" }}>
          Everything, recordings with it. Keep it like a key. <code>owl archive in</code> brings it into another
          installation.
        </Typography>
      </Box>
      <OwnPassword />
      {demo && <DemoAway />}
    </Paper>
  );
}

function OwnPassword() {
  const [old, setOld] = useState("");
  const [fresh, setFresh] = useState("");
  const change = useSessionChange((body: { old: string; new: string }) =>
    answer(api.POST("/api/session/password", { body })),
  );
  return (
    <Box component="details">
      <summary>My password</summary>
      <Box
        component="form"
        onSubmit={(event: React.FormEvent) => {
          event.preventDefault();
          change.mutate({ old, new: fresh });
        }}
        sx={{ display: "flex", flexWrap: "wrap", gap: 1.5, alignItems: "center", mt: 1.5 }}
      >
        <TextField
          size="small"
          type="password"
          label="Until now"
          autoComplete="current-password"
          required
          value={old}
          onChange={(event) => setOld(event.target.value)}
        />
        <TextField
          size="small"
          type="password"
          label="From now on, ten letters or more"
          autoComplete="new-password"
          required
          value={fresh}
          onChange={(event) => setFresh(event.target.value)}
          slotProps={{ htmlInput: { minLength: 10 } }}
          sx={{ minWidth: 280 }}
        />
        <Button type="submit" variant="outlined" disabled={change.isPending || !old || fresh.length < 10}>
          Change it
        </Button>
        {change.isSuccess && <span role="status">Changed; every other session has ended.</span>}
      </Box>
      {change.isError && <Note>{change.error.message}</Note>}
    </Box>
  );
}

function DemoAway() {
  const [asking, setAsking] = useState(false);
  const away = useSessionChange(() => answer(api.DELETE("/api/studio")));
  return (
    <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1.5, alignItems: "center" }}>
      {asking ? (
        <>
          <Typography>The people, exercises and recordings of the demo go for good, and you are signed out.</Typography>
          <Button variant="contained" disabled={away.isPending} onClick={() => away.mutate(undefined)}>
            Throw it away
          </Button>
          <Button onClick={() => setAsking(false)}>Keep it</Button>
        </>
      ) : (
        <Button variant="outlined" onClick={() => setAsking(true)}>
          Throw the demo away …
        </Button>
      )}
      {away.isError && <Note>{away.error.message}</Note>}
    </Box>
  );
}
