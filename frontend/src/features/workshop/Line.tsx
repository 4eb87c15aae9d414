import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import IconButton from "@mui/material/IconButton";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useMutation } from "@tanstack/react-query";
import { useRef, useState } from "react";

import { answer, api, type Schemas } from "../../api/client";
import { Note } from "../../ui/states";
import type { Recipe } from "./recipe";

const LENGTHS: [string, string][] = [
  ["4", "whole"],
  ["3", "half, dotted"],
  ["2", "half"],
  ["3/2", "quarter, dotted"],
  ["1", "quarter"],
  ["3/4", "eighth, dotted"],
  ["1/2", "eighth"],
  ["1/4", "sixteenth"],
];
const NOTE = /^([A-G])(##|#|bb|b)?([0-8])$/;

/** What a teacher types ("d", "f# 5", "r") as a note name, the octave of the note before it where none is said. */
function read(text: string, before: string | null): string | null | undefined {
  const plain = text.trim().replace("♯", "#").replace("♭", "b").replace(/\s+/g, "");
  if (plain === "") return undefined;
  if (/^(r|rest|-)$/i.test(plain)) return null;
  const full = plain[0]!.toUpperCase() + plain.slice(1) + (/\d$/.test(plain) ? "" : (before?.match(/\d$/)?.[0] ?? "4"));
  return NOTE.test(full) ? full : undefined;
}

/** A line typed note by note, or taken from a file. */
export function Line({ recipe, onChange }: { recipe: Recipe; onChange: (part: Partial<Recipe>) => void }) {
  const [text, setText] = useState("");
  const [beats, setBeats] = useState("1");
  const [wrong, setWrong] = useState(false);
  const file = useRef<HTMLInputElement>(null);
  const fetchLine = useMutation({
    mutationFn: (chosen: File) => {
      const form = new FormData();
      form.append("file", chosen);
      // The generated type says text for the file; the form is sent as it is.
      const body = form as unknown as Schemas["LineUpload"];
      return answer(api.POST("/api/line", { body, bodySerializer: () => form }));
    },
    onSuccess: (found) => {
      const { tonic, form, meter, tempo_bpm, line } = found;
      onChange({ tonic, form, meter, tempo_bpm, line });
    },
  });
  const add = () => {
    const before = recipe.line.findLast((note) => note.name !== null)?.name ?? null;
    const name = read(text, before);
    setWrong(name === undefined);
    if (name === undefined) return;
    onChange({ line: [...recipe.line, { name, beats, slurred: false }] });
    setText("");
  };
  const change = (at: number, part: Partial<Schemas["LineNoteIn"]>) =>
    onChange({ line: recipe.line.map((note, place) => (place === at ? { ...note, ...part } : note)) });
  return (
    <Box component="section" aria-label="The line">
      <Box sx={{ display: "flex", gap: 1, alignItems: "flex-start" }}>
        <TextField
          size="small"
          label="Note"
          value={text}
          error={wrong}
          helperText={wrong ? "A note is C to B, as F# or Bb5; r is a rest." : "F#, Bb5, r"}
          onChange={(event) => setText(event.target.value)}
          onKeyDown={(event) => {
            if (event.key === "Enter") {
              event.preventDefault();
              add();
            }
          }}
          sx={{ width: 120 }}
        />
        <TextField select size="small" label="Length" value={beats} onChange={(event) => setBeats(event.target.value)}>
          {LENGTHS.map(([value, name]) => (
            <MenuItem key={value} value={value}>
              {name}
            </MenuItem>
          ))}
        </TextField>
        <Button variant="outlined" onClick={add}>
          Add
        </Button>
      </Box>
      {recipe.line.length > 0 && (
        <Box
          component="ol"
          aria-label="Notes of the line"
          sx={{ display: "flex", flexWrap: "wrap", gap: 0.5, p: 0, my: 1, listStyle: "none" }}
        >
          {recipe.line.map((note, at) => (
            <Box
              component="li"
              key={at}
              sx={{ display: "flex", alignItems: "center", bgcolor: "background.paper", borderRadius: 1, pl: 1 }}
            >
              <Typography component="span" sx={{ mr: 0.5 }}>
                <b>{note.name ?? "rest"}</b> {note.beats}
              </Typography>
              {note.name !== null && at > 0 && (
                <Button
                  size="small"
                  aria-pressed={note.slurred}
                  onClick={() => change(at, { slurred: !note.slurred })}
                  sx={{ minHeight: 32, minWidth: 32, px: 0.5 }}
                  aria-label={`Slur note ${at + 1} to the one before`}
                >
                  {note.slurred ? "⁀" : "|"}
                </Button>
              )}
              <IconButton
                size="small"
                aria-label={`Take out note ${at + 1}`}
                onClick={() => onChange({ line: recipe.line.filter((_, place) => place !== at) })}
              >
                ×
              </IconButton>
            </Box>
          ))}
        </Box>
      )}
      <input
        ref={file}
        type="file"
        hidden
        accept=".musicxml,.xml,.mxl,.mid,.midi"
        data-testid="line-file"
        onChange={(event) => {
          const chosen = event.target.files?.[0];
          if (chosen) fetchLine.mutate(chosen);
          event.target.value = "";
        }}
      />
      <Button onClick={() => file.current?.click()} disabled={fetchLine.isPending}>
        From a file (MusicXML or MIDI)
      </Button>
      {fetchLine.isError && <Note>{fetchLine.error.message}</Note>}
    </Box>
  );
}
