import Autocomplete from "@mui/material/Autocomplete";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import Paper from "@mui/material/Paper";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { answer, api, type Schemas } from "../../api/client";
import { colours } from "../../app/theme";
import { Loading, Note, Trouble } from "../../ui/states";
import type { Words } from "./words";

type Tape = Schemas["TapeOut"];
type Mark = Schemas["MarkPlace"];

interface Props {
  kept: Words;
  catalogue: Schemas["Catalogue"];
  onChange: (marks: Words["marks"]) => void;
}

/** Where each tape goes, for an instrument, a size and a string length. */
export function Tapes({ kept, catalogue, onChange }: Props) {
  const queries = useQueryClient();
  const classes = useQuery({ queryKey: ["classes"], queryFn: () => answer(api.GET("/api/classes")) });
  const [pupilId, setPupilId] = useState("");
  const [key, setKey] = useState<Schemas["InstrumentOut"]["key"]>("violin");
  const own = catalogue.instruments.find((entry) => entry.key === key)!;
  const [size, setSize] = useState(own.sizes.at(-1)!.name);
  const [length, setLength] = useState(String(own.sizes.at(-1)!.string_length_mm));
  const millimetres = Number(length);
  const sound = Number.isFinite(millimetres) && millimetres >= 150 && millimetres <= 1300;
  const query = { instrument: key, size, string_length_mm: millimetres, ...(pupilId ? { pupil_id: pupilId } : {}) };
  const tapes = useQuery({
    queryKey: ["tapes", key, size, length, pupilId],
    queryFn: () => answer(api.GET("/api/tapes", { params: { query } })),
    enabled: sound,
    placeholderData: keepPreviousData,
  });
  const take = (instrument: typeof key) => {
    const last = catalogue.instruments.find((entry) => entry.key === instrument)!.sizes.at(-1)!;
    setPupilId("");
    setKey(instrument);
    setSize(last.name);
    setLength(String(last.string_length_mm));
  };
  const pupils = classes.data?.classes.flatMap((group) => group.pupils) ?? [];
  const pupil = pupils.find((one) => one.id === pupilId);
  const forPupil = (id: string) => {
    const chosen = pupils.find((one) => one.id === id);
    setPupilId(chosen ? id : "");
    if (!chosen) return;
    setKey(chosen.instrument);
    setSize(chosen.size);
    setLength(String(chosen.string_length_mm));
  };
  const keepForPupil = useMutation({
    mutationFn: (next: Mark[]) =>
      answer(api.PATCH("/api/pupils/{id}", { params: { path: { id: pupilId } }, body: { marks: next } })),
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: ["tapes"] });
      void queries.invalidateQueries({ queryKey: ["classes"] });
    },
  });
  const marks: Mark[] = (tapes.data?.tapes ?? []).map(({ name, colour, semitones, own_shade }) => ({
    name,
    colour,
    semitones,
    own_shade: own_shade,
  }));
  const put = (next: Mark[]) => (pupil ? keepForPupil.mutate(next) : onChange({ ...kept.marks, [key]: next }));
  const address = `/api/tapes.pdf?instrument=${key}&size=${encodeURIComponent(size)}&string_length_mm=${millimetres}${pupilId ? `&pupil_id=${pupilId}` : ""}`;
  return (
    <Paper
      component="section"
      aria-label="Tapes"
      sx={{ p: 2.5, display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 2 }}
    >
      <Typography variant="h2">Fingerboard and tapes</Typography>
      <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", sm: "1fr 1fr 1fr 1fr auto" }, gap: 2 }}>
        <TextField select label="Whose" value={pupilId || "all"} onChange={(event) => forPupil(event.target.value)}>
          <MenuItem value="all">The studio’s</MenuItem>
          {pupils.map((one) => (
            <MenuItem key={one.id} value={one.id}>
              {one.name}
            </MenuItem>
          ))}
        </TextField>
        <TextField select label="Instrument" value={key} onChange={(event) => take(event.target.value as typeof key)}>
          {catalogue.instruments.map((entry) => (
            <MenuItem key={entry.key} value={entry.key}>
              {entry.name}
            </MenuItem>
          ))}
        </TextField>
        <TextField
          select
          label="Size"
          value={size}
          onChange={(event) => {
            setSize(event.target.value);
            setLength(String(own.sizes.find((entry) => entry.name === event.target.value)!.string_length_mm));
          }}
        >
          {own.sizes.map((entry) => (
            <MenuItem key={entry.name} value={entry.name}>
              {entry.name}
            </MenuItem>
          ))}
        </TextField>
        <TextField
          label="String, nut to bridge (mm)"
          type="number"
          value={length}
          error={!sound}
          helperText={sound ? "Measure it: makers differ." : "From 150 to 1300 mm"}
          onChange={(event) => setLength(event.target.value)}
        />
        <Button
          variant="contained"
          component="a"
          href={address}
          target="_blank"
          disabled={!sound || !marks.length}
          sx={{ alignSelf: "start", mt: 0.75 }}
        >
          Strip to print
        </Button>
      </Box>
      {keepForPupil.isError && <Note>{keepForPupil.error.message}</Note>}
      {pupil && pupil.marks.length > 0 && (
        <Typography>
          {pupil.name} has tapes of their own.{" "}
          <Button size="small" onClick={() => keepForPupil.mutate([])}>
            The studio’s again
          </Button>
        </Typography>
      )}
      {tapes.isPending && sound && <Loading what="Measuring" />}
      {tapes.isError && <Trouble error={tapes.error} again={() => void tapes.refetch()} />}
      {tapes.data && (
        <>
          <Board tapes={tapes.data.tapes} length={millimetres} />
          <Box sx={{ overflowX: "auto" }}>
            <Box component="table" sx={{ borderCollapse: "collapse", "& td, & th": { p: 0.75, textAlign: "left" } }}>
              <thead>
                <tr>
                  <th>Tape</th>
                  <th>Colour</th>
                  <th>Half steps</th>
                  <th>From the nut</th>
                  <th>Sounds</th>
                  <th>
                    <span style={{ position: "absolute", left: -9999 }}>Change</span>
                  </th>
                </tr>
              </thead>
              <tbody>
                {tapes.data.tapes.map((tape, at) => (
                  <tr key={`${tape.semitones}${tape.name}`}>
                    <td>{tape.name}</td>
                    <td>
                      <Colour
                        tape={tape}
                        offered={catalogue.tape_shades}
                        onChange={(colour, own_shade) =>
                          put(marks.map((mark, place) => (place === at ? { ...mark, colour, own_shade } : mark)))
                        }
                      />
                    </td>
                    <td>{tape.semitones}</td>
                    <td>
                      <b>{tape.mm.toFixed(1)} mm</b>
                    </td>
                    <td>{tape.notes.join(", ")}</td>
                    <td>
                      <Button
                        size="small"
                        onClick={() => put(marks.filter((_, place) => place !== at))}
                        disabled={marks.length < 2}
                        aria-label={`Take off ${tape.name}`}
                      >
                        Take off
                      </Button>
                    </td>
                  </tr>
                ))}
              </tbody>
            </Box>
          </Box>
          <NewTape taken={marks.map((mark) => mark.semitones)} onAdd={(mark) => put([...marks, mark])} />
        </>
      )}
    </Paper>
  );
}

/** The fingerboard lying on its side: nut on the left, tapes where they go. */
function Board({ tapes, length }: { tapes: Tape[]; length: number }) {
  const end = Math.max(...tapes.map((tape) => tape.mm), length / 3) * 1.12;
  const x = (mm: number) => 16 + (mm / end) * 760;
  const strings = tapes[0]?.notes.length ?? 4;
  return (
    <svg viewBox="0 0 800 112" width="100%" role="img" aria-label="The fingerboard with its tapes">
      <rect x="16" y="10" width="768" height="72" fill={colours.ink} rx="3" />
      <rect x="10" y="8" width="7" height="76" fill={colours.card} stroke={colours.edge} />
      {tapes.map((tape) => (
        <g key={tape.semitones}>
          <rect x={x(tape.mm) - 5} y="10" width="10" height="72" fill={tape.shade} />
          <text x={x(tape.mm)} y="100" textAnchor="middle" fontSize="14" fill={colours.ink}>
            {tape.mm.toFixed(1)}
          </text>
        </g>
      ))}
      {Array.from({ length: strings }, (_, at) => (
        <line
          key={at}
          x1="10"
          x2="784"
          y1={19 + at * 18}
          y2={19 + at * 18}
          stroke={colours.ring}
          strokeWidth={1 + at * 0.6}
        />
      ))}
    </svg>
  );
}

/** A colour that is offered, or any other: its name as the teacher says it, and what it looks like. */
function Colour({
  tape,
  offered,
  onChange,
}: {
  tape: Tape;
  offered: Record<string, string>;
  onChange: (colour: string, ownShade: string) => void;
}) {
  return (
    <Box sx={{ display: "flex", gap: 1, alignItems: "center" }}>
      <Autocomplete
        freeSolo
        disableClearable
        size="small"
        options={Object.keys(offered)}
        value={tape.colour}
        onChange={(_, colour) =>
          colour.trim() && onChange(colour.trim().slice(0, 20), offered[colour] ? "" : tape.shade)
        }
        renderInput={(parameters) => (
          <TextField
            {...parameters}
            slotProps={{
              ...parameters.slotProps,
              htmlInput: { ...parameters.slotProps.htmlInput, "aria-label": `Colour of ${tape.name}` },
            }}
          />
        )}
        sx={{ width: 150 }}
      />
      <input
        type="color"
        value={tape.shade}
        aria-label={`Shade of ${tape.name}`}
        onChange={(event) => onChange(tape.colour, event.target.value)}
        style={{ width: 40, height: 36, padding: 0, border: 0, background: "none" }}
      />
    </Box>
  );
}

function NewTape({ taken, onAdd }: { taken: number[]; onAdd: (mark: Mark) => void }) {
  const [name, setName] = useState("");
  const [semitones, setSemitones] = useState("3");
  const place = Number(semitones);
  const fits = name.trim() !== "" && Number.isInteger(place) && place >= 1 && place <= 19 && !taken.includes(place);
  return (
    <Box sx={{ display: "flex", gap: 1, flexWrap: "wrap", alignItems: "flex-start" }}>
      <TextField size="small" label="New tape" value={name} onChange={(event) => setName(event.target.value)} />
      <TextField
        size="small"
        type="number"
        label="Half steps above the open string"
        value={semitones}
        helperText={taken.includes(place) ? "There is a tape there already." : undefined}
        onChange={(event) => setSemitones(event.target.value)}
        sx={{ width: 250 }}
      />
      <Button
        variant="outlined"
        disabled={!fits}
        onClick={() => {
          onAdd({ name: name.trim(), colour: "slate", semitones: place, own_shade: "" });
          setName("");
        }}
      >
        Add
      </Button>
    </Box>
  );
}
