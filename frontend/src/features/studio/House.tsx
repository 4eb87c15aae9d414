import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import Paper from "@mui/material/Paper";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { answer, api, type Schemas } from "../../api/client";
import { useSessionChange } from "../../app/session";
import { Loading, Note, Trouble } from "../../ui/states";
import { dayWords } from "../../ui/words";
import { Quiet } from "../../ui/Quiet";
import { Trail } from "./Trail";

type StaffRank = NonNullable<Schemas["NewInvitation"]["rank"]>;
const RANKS = [
  ["owner", "Everything, and who teaches here"],
  ["teacher", "Teach, and look after people and settings"],
  ["assistant", "Hear, mark and set; no cards, no settings"],
  ["left", "Nothing: has left"],
] as const;
const LINK_FOR: Record<string, string> = { owner: "an owner", teacher: "a teacher", assistant: "an assistant" };

/** Who teaches here and what each may do, how others come in, who did what, and the whole studio as one file. */
export function House() {
  const queries = useQueryClient();
  const staff = useQuery({ queryKey: ["staff"], queryFn: () => answer(api.GET("/api/teachers")) });
  const refresh = () => void queries.invalidateQueries({ queryKey: ["staff"] });
  const [rank, setRank] = useState<StaffRank>("teacher");
  const invite = useMutation({
    mutationFn: () => answer(api.POST("/api/invitations", { body: { rank } })),
    onSuccess: refresh,
  });
  const change = useMutation({
    mutationFn: (to: { id: string; rank: Schemas["RankChange"]["rank"] }) =>
      answer(api.PATCH("/api/teachers/{id}", { params: { path: { id: to.id } }, body: { rank: to.rank } })),
    onSettled: refresh,
  });
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
      <Box component="ul" sx={{ listStyle: "none", m: 0, p: 0, display: "grid", gap: 2 }}>
        {teachers.map((own) => (
          <Box component="li" key={own.id} sx={{ display: "flex", flexWrap: "wrap", gap: 1.5, alignItems: "center" }}>
            <Typography sx={{ flex: "1 1 280px" }}>
              {own.name} <Quiet>({own.email})</Quiet>
            </Typography>
            <TextField
              select
              size="small"
              label={`What ${own.name} may do`}
              value={own.rank}
              disabled={change.isPending}
              onChange={(event) =>
                change.mutate({ id: own.id, rank: event.target.value as Schemas["RankChange"]["rank"] })
              }
              sx={{ width: 340 }}
            >
              {RANKS.map(([key, words]) => (
                <MenuItem key={key} value={key}>
                  {words}
                </MenuItem>
              ))}
            </TextField>
          </Box>
        ))}
      </Box>
      {change.isError && <Note>{change.error.message}</Note>}
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1.5, alignItems: "center" }}>
        <TextField
          select
          size="small"
          label="A link for"
          value={rank}
          onChange={(event) => setRank(event.target.value as StaffRank)}
          sx={{ minWidth: 160 }}
        >
          <MenuItem value="teacher">a teacher</MenuItem>
          <MenuItem value="assistant">an assistant</MenuItem>
          <MenuItem value="owner">an owner</MenuItem>
        </TextField>
        <Button variant="outlined" disabled={invite.isPending} onClick={() => invite.mutate()}>
          Make it
        </Button>
        <Typography sx={{ color: "text.secondary" }}>
          It works once, for a week. Whoever has it sees every pupil here: hand it over yourself.
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
            A link for {LINK_FOR[own.rank] ?? own.rank}, made {dayWords(own.created_at)}, good until{" "}
            {dayWords(own.expires_at)}
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
      <Trail />
      {demo && <DemoAway />}
    </Paper>
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
