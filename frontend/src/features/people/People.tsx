import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import Paper from "@mui/material/Paper";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { answer, api, type Schemas } from "../../api/client";
import { colours } from "../../app/theme";
import { Empty, Loading, Note, Trouble } from "../../ui/states";
import { dayWords, instrumentWords } from "../../ui/words";
import { ClassName } from "./ClassName";
import { RosterDialog } from "./RosterDialog";
import { CardDialog } from "./CardDialog";
import { Frames } from "./Frames";
import { NewPupilDialog } from "./NewPupilDialog";

type Pupil = Schemas["PupilOut"];

/** The class: who plays what, their cards, and whether an adult has said yes to recordings. */
export function People() {
  const classes = useQuery({ queryKey: ["classes"], queryFn: () => answer(api.GET("/api/classes")) });
  const [adding, setAdding] = useState<Schemas["ClassOut"] | null>(null);
  const [listing, setListing] = useState<Schemas["ClassOut"] | null>(null);
  const [renaming, setRenaming] = useState<string | null>(null);
  const [cards, setCards] = useState<Schemas["Card"][]>([]);
  if (classes.isPending) return <Loading what="Fetching the class" />;
  if (classes.isError) return <Trouble error={classes.error} again={() => void classes.refetch()} />;
  return (
    <>
      {classes.data.classes.length === 0 && (
        <Empty title="There is no class yet.">
          <Typography>Give it a name; it gets a code for the pupils’ cards.</Typography>
        </Empty>
      )}
      {classes.data.classes.map((group) => (
        <Box component="section" key={group.id} aria-label={group.name} sx={{ mb: 4 }}>
          <Box sx={{ display: "flex", flexWrap: "wrap", alignItems: "center", gap: 2, mb: 2 }}>
            <Box sx={{ flexGrow: 1 }}>
              <Typography variant="h1">{group.name}</Typography>
              <Typography sx={{ color: "text.secondary" }}>
                Class code <b>{group.code}</b> · {group.pupils.length} {group.pupils.length === 1 ? "pupil" : "pupils"}
              </Typography>
            </Box>
            <Button onClick={() => setRenaming(group.id)}>Rename</Button>
            {group.pupils.length === 0 && <DropClass id={group.id} />}
            <Button variant="outlined" onClick={() => setListing(group)}>
              Several at once
            </Button>
            <Button variant="contained" onClick={() => setAdding(group)}>
              New pupil
            </Button>
          </Box>
          {renaming === group.id && <ClassName id={group.id} name={group.name} onClose={() => setRenaming(null)} />}
          <Paper component="ul" sx={{ listStyle: "none", m: 0, p: 0 }}>
            {group.pupils.map((pupil) => (
              <Row key={pupil.id} pupil={pupil} onCard={(own) => setCards([own])} />
            ))}
            {group.pupils.length === 0 && <Typography sx={{ p: 2 }}>Nobody yet.</Typography>}
          </Paper>
        </Box>
      ))}
      {adding && (
        <NewPupilDialog
          group={adding}
          onClose={() => setAdding(null)}
          onDone={(fresh) => {
            setAdding(null);
            setCards([fresh]);
          }}
        />
      )}
      {listing && (
        <RosterDialog
          group={listing}
          onClose={() => setListing(null)}
          onDone={(fresh) => {
            setListing(null);
            setCards(fresh);
          }}
        />
      )}
      {cards.length > 0 && <CardDialog cards={cards} onClose={() => setCards([])} />}
      <ClassName />
    </>
  );
}

/** A class that was made by mistake goes; one with pupils in it stays. */
function DropClass({ id }: { id: string }) {
  const queries = useQueryClient();
  const drop = useMutation({
    mutationFn: () => answer(api.DELETE("/api/classes/{id}", { params: { path: { id } } })),
    onSettled: () => void queries.invalidateQueries({ queryKey: ["classes"] }),
  });
  return (
    <>
      <Button onClick={() => drop.mutate()}>Take it away</Button>
      {drop.isError && <Note>{drop.error.message}</Note>}
    </>
  );
}

function Row({ pupil, onCard }: { pupil: Pupil; onCard: (card: Schemas["Card"]) => void }) {
  const queries = useQueryClient();
  const [asking, setAsking] = useState<"consent" | "card" | "frames" | null>(null);
  const [adult, setAdult] = useState("");
  const [pictures, setPictures] = useState(false);
  const consent = useMutation({
    mutationFn: (body: { consent_by: string; pictures_agreed: boolean }) =>
      answer(api.PATCH("/api/pupils/{id}", { params: { path: { id: pupil.id } }, body })),
    onSuccess: () => {
      setAsking(null);
      void queries.invalidateQueries({ queryKey: ["classes"] });
    },
  });
  const renew = useMutation({
    mutationFn: () => answer(api.POST("/api/pupils/{id}/passphrase", { params: { path: { id: pupil.id } } })),
    onSuccess: (card) => {
      setAsking(null);
      onCard(card);
    },
  });
  return (
    <Box
      component="li"
      sx={{ borderBottom: `1px solid ${colours.line}`, "&:last-child": { borderBottom: 0 }, px: 2, py: 1 }}
    >
      <Box
        sx={{
          display: "grid",
          gridTemplateColumns: { xs: "1fr", md: "200px 1fr 260px auto" },
          gap: { xs: 0.5, md: 2 },
          alignItems: "center",
        }}
      >
        <b>{pupil.name}</b>
        <span>
          {instrumentWords[pupil.instrument]} {pupil.size}{" "}
          <Box component="span" sx={{ color: "text.secondary" }}>
            string {Math.round(pupil.string_length_mm)} mm
          </Box>
        </span>
        {pupil.consent_at ? (
          <span>
            May record{pupil.pictures_agreed && " and send pictures"}{" "}
            <Box component="span" sx={{ color: "text.secondary" }}>
              ({pupil.consent_by}, {dayWords(pupil.consent_at)})
            </Box>
          </span>
        ) : (
          <Box component="span" sx={{ color: colours.plum }}>
            No adult has said yes yet
          </Box>
        )}
        <Box sx={{ display: "flex", gap: 1, flexWrap: "wrap" }}>
          {pupil.consent_at ? (
            <Button
              size="small"
              onClick={() => consent.mutate({ consent_by: "", pictures_agreed: false })}
              aria-label={`Take back consent for ${pupil.name}`}
            >
              Take back
            </Button>
          ) : (
            <Button
              size="small"
              variant="outlined"
              onClick={() => setAsking("consent")}
              aria-label={`Note consent for ${pupil.name}`}
            >
              Note a yes
            </Button>
          )}
          <Button
            size="small"
            variant="outlined"
            onClick={() => setAsking(asking === "frames" ? null : "frames")}
            aria-label={`What the hand of ${pupil.name} knows, and which line is theirs`}
          >
            Hand{pupil.known.length ? ` (${pupil.known.length})` : ""}
          </Button>
          <Button
            size="small"
            variant="outlined"
            onClick={() => setAsking("card")}
            aria-label={`New card for ${pupil.name}`}
          >
            New card
          </Button>
        </Box>
      </Box>
      {asking === "consent" && (
        <Box
          component="form"
          onSubmit={(e: React.FormEvent) => {
            e.preventDefault();
            consent.mutate({ consent_by: adult, pictures_agreed: pictures });
          }}
          sx={{ display: "flex", gap: 1.5, flexWrap: "wrap", py: 1.5 }}
        >
          <TextField
            label="Which adult said yes to recordings?"
            size="small"
            value={adult}
            onChange={(event) => setAdult(event.target.value)}
            autoFocus
            required
            sx={{ minWidth: 300 }}
          />
          <FormControlLabel
            control={<Checkbox checked={pictures} onChange={(_, checked) => setPictures(checked)} />}
            label="and to pictures of the bow hold"
          />
          <Button type="submit" variant="contained" disabled={!adult.trim() || consent.isPending}>
            Note it
          </Button>
          <Button onClick={() => setAsking(null)}>Not now</Button>
        </Box>
      )}
      {asking === "frames" && <Frames pupil={pupil} onClose={() => setAsking(null)} />}
      {asking === "card" && (
        <Box sx={{ display: "flex", gap: 1.5, flexWrap: "wrap", alignItems: "center", py: 1.5 }}>
          <Typography>The words on the old card will stop working.</Typography>
          <Button variant="contained" onClick={() => renew.mutate()} disabled={renew.isPending}>
            Make a new card
          </Button>
          <Button onClick={() => setAsking(null)}>Not now</Button>
        </Box>
      )}
      {consent.isError && <Note>{consent.error.message}</Note>}
      {renew.isError && <Note>{renew.error.message}</Note>}
    </Box>
  );
}
