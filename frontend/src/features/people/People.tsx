import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Paper from "@mui/material/Paper";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import { answer, api, type Schemas } from "../../api/client";
import { colours } from "../../app/theme";
import { Empty, Loading, Note, Trouble } from "../../ui/states";
import { instrumentWords } from "../../ui/words";
import { ClassName } from "./ClassName";
import { RosterDialog } from "./RosterDialog";
import { Archived } from "./Archived";
import { CardDialog } from "./CardDialog";
import { NewPupilDialog } from "./NewPupilDialog";
import { PupilRow } from "./PupilRow";

const MANY = 15;

/** The class: who plays what, their cards, and whether an adult has said yes to recordings. */
export function People() {
  const classes = useQuery({ queryKey: ["classes"], queryFn: () => answer(api.GET("/api/classes")) });
  const [adding, setAdding] = useState<Schemas["ClassOut"] | null>(null);
  const [listing, setListing] = useState<Schemas["ClassOut"] | null>(null);
  const [renaming, setRenaming] = useState<string | null>(null);
  const [cards, setCards] = useState<Schemas["Card"][]>([]);
  const [search, setSearch] = useState("");
  if (classes.isPending) return <Loading what="Fetching the class" />;
  if (classes.isError) return <Trouble error={classes.error} again={() => void classes.refetch()} />;
  const many = classes.data.classes.reduce((count, group) => count + group.pupils.length, 0) > MANY;
  const found = ({ name, instrument }: Schemas["PupilOut"]) =>
    `${name} ${instrumentWords[instrument]}`.toLowerCase().includes(search.trim().toLowerCase());
  return (
    <>
      {many && (
        <TextField
          size="small"
          type="search"
          label="Name or instrument"
          value={search}
          onChange={(event) => setSearch(event.target.value)}
          sx={{ mb: 2, minWidth: 280 }}
        />
      )}
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
            {group.pupils.filter(found).map((pupil) => (
              <PupilRow key={pupil.id} pupil={pupil} onCard={(own) => setCards([own])} />
            ))}
            {group.pupils.length === 0 && <Typography sx={{ p: 2 }}>Nobody yet.</Typography>}
          </Paper>
          {group.guests.length > 0 && (
            <Typography sx={{ mt: 1, color: "text.secondary" }}>
              Come as well:{" "}
              {group.guests.map((pupil, at) => (
                <span key={pupil.id}>
                  {at > 0 && ", "}
                  <Box component={Link} to={`/people/${pupil.id}`} sx={{ color: colours.spruce }}>
                    {pupil.name}
                  </Box>
                </span>
              ))}
            </Typography>
          )}
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
      {classes.data.archived > 0 && <Archived count={classes.data.archived} />}
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
