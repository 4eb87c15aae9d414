import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Paper from "@mui/material/Paper";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useDeferredValue, useState, type ReactNode } from "react";
import { Link } from "react-router";

import { answer, api, type Schemas } from "../../api/client";
import { useMay } from "../../app/session";
import { colours } from "../../app/theme";
import { ClassChoice, useClasses } from "../../ui/ClassChoice";
import { Paging } from "../../ui/Paging";
import { Empty, Loading, Note, Trouble } from "../../ui/states";
import { useAddress } from "../../ui/useAddress";
import { Archived } from "./Archived";
import { CardDialog } from "./CardDialog";
import { ClassName } from "./ClassName";
import { NewPupilDialog } from "./NewPupilDialog";
import { PupilRow } from "./PupilRow";
import { RosterDialog } from "./RosterDialog";

type Class = Schemas["ClassOut"];
const MANY = 15;

/** Classes and who is in them: who plays what, their cards, and whether an adult has said yes to recordings. */
export function People() {
  const classes = useClasses();
  const mayChange = useMay("people");
  const { params, put, clear } = useAddress();
  const [adding, setAdding] = useState<Class | null>(null);
  const [listing, setListing] = useState<Class | null>(null);
  const [cards, setCards] = useState<Schemas["Card"][]>([]);
  const classId = params.get("class_id") ?? "";
  const typed = params.get("search") ?? "";
  const search = useDeferredValue(typed);
  const page = Number(params.get("page")) || 1;
  const query = { page, ...(classId && { class_id: classId }), ...(search && { search }) };
  const people = useQuery({
    queryKey: ["classes", "people", query],
    queryFn: () => answer(api.GET("/api/pupils", { params: { query } })),
    placeholderData: keepPreviousData,
  });
  if (classes.isPending || people.isPending) return <Loading what="Fetching the classes" />;
  if (classes.isError) return <Trouble error={classes.error} again={() => void classes.refetch()} />;
  if (people.isError) return <Trouble error={people.error} again={() => void people.refetch()} />;
  const groups = classes.data.classes;
  const many = groups.length > 1 || groups.reduce((count, group) => count + group.pupils.length, 0) > MANY;
  const rows = people.data.pupils;
  const of = (group: Class) => rows.filter((row) => row.class_id === group.id).map((row) => row.pupil);
  // A class without anybody stands on the last page, for it is in none.
  const emptyHere = (group: Class) => group.pupils.length === 0 && !typed && people.data.page === people.data.pages;
  const shown = groups.filter(
    (group) => of(group).length > 0 || (!classId && emptyHere(group)) || group.id === classId,
  );
  return (
    <>
      {many && (
        <Box role="search" sx={{ display: "flex", flexWrap: "wrap", gap: 1.5, mb: 2, alignItems: "center" }}>
          <TextField
            size="small"
            type="search"
            label="Name or instrument"
            value={typed}
            onChange={(event) => put("search", event.target.value)}
            sx={{ minWidth: 280 }}
          />
          <ClassChoice value={classId} onPick={(id) => put("class_id", id)} />
          {(typed || classId) && <Button onClick={clear}>Show all</Button>}
        </Box>
      )}
      {groups.length === 0 && (
        <Empty title="There is no class yet.">
          <Typography>Give it a name; it gets a code for the pupils’ cards.</Typography>
        </Empty>
      )}
      {rows.length === 0 && typed && <Empty title="Nobody is called so here." />}
      {shown.map((group) => (
        <ClassSection
          key={group.id}
          group={group}
          pupils={of(group)}
          onAdd={() => setAdding(group)}
          onList={() => setListing(group)}
          onCard={(own) => setCards([own])}
        >
          {classId === group.id && <Guests rows={rows.filter((row) => row.class_id !== group.id)} />}
          {classId !== group.id && !typed && <Guests rows={group.guests.map((pupil) => ({ pupil }))} />}
        </ClassSection>
      ))}
      <Paging page={people.data.page} pages={people.data.pages} onTurn={(next) => put("page", String(next))} />
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
      {mayChange && <ClassName />}
      {classes.data.archived > 0 && <Archived count={classes.data.archived} />}
    </>
  );
}

interface SectionProps {
  group: Class;
  /** Those of its pupils that are on this page. */
  pupils: Schemas["PupilOut"][];
  onAdd: () => void;
  onList: () => void;
  onCard: (card: Schemas["Card"]) => void;
  children: ReactNode;
}

function ClassSection({ group, pupils, onAdd, onList, onCard, children }: SectionProps) {
  const [renaming, setRenaming] = useState(false);
  const mayChange = useMay("people");
  return (
    <Box component="section" aria-label={group.name} sx={{ mb: 4 }}>
      <Box sx={{ display: "flex", flexWrap: "wrap", alignItems: "center", gap: 2, mb: 2 }}>
        <Box sx={{ flexGrow: 1 }}>
          <Typography variant="h1">{group.name}</Typography>
          <Typography sx={{ color: "text.secondary" }}>
            Class code <b>{group.code}</b> · {group.pupils.length} {group.pupils.length === 1 ? "pupil" : "pupils"}
          </Typography>
        </Box>
        {mayChange && (
          <>
            <Button onClick={() => setRenaming(true)}>Rename</Button>
            {group.pupils.length === 0 && <DropClass id={group.id} />}
            <Button variant="outlined" onClick={onList}>
              Several at once
            </Button>
            <Button variant="contained" onClick={onAdd}>
              New pupil
            </Button>
          </>
        )}
      </Box>
      {renaming && <ClassName id={group.id} name={group.name} onClose={() => setRenaming(false)} />}
      <Paper component="ul" sx={{ listStyle: "none", m: 0, p: 0 }}>
        {pupils.map((pupil) => (
          <PupilRow key={pupil.id} pupil={pupil} onCard={onCard} />
        ))}
        {group.pupils.length === 0 && <Typography sx={{ p: 2 }}>Nobody yet.</Typography>}
      </Paper>
      {children}
    </Box>
  );
}

/** Pupils whose card is of another class. */
function Guests({ rows }: { rows: { pupil: { id: string; name: string } }[] }) {
  if (rows.length === 0) return null;
  return (
    <Typography sx={{ mt: 1, color: "text.secondary" }}>
      Come as well:{" "}
      {rows.map(({ pupil }, at) => (
        <span key={pupil.id}>
          {at > 0 && ", "}
          <Box component={Link} to={`/people/${pupil.id}`} sx={{ color: colours.spruce }}>
            {pupil.name}
          </Box>
        </span>
      ))}
    </Typography>
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
