import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useMutation } from "@tanstack/react-query";
import { useRef, useState } from "react";

import { answer, api, type Schemas } from "../../../api/client";
import { colours } from "../../../app/theme";
import { Note } from "../../../ui/states";
import { useSay } from "../../../ui/vocabulary";
import { Few } from "../../../ui/Few";
import { Pick } from "../choices/Pick";
import type { Change, InstrumentKey, Recipe } from "../recipe";
import { change, type Edited, fifthsOf, insert, midiOf, nearest, remove, spelt, transposed } from "./editing";
import { LineBoard } from "./LineBoard";
import { pluck } from "../../../sound/pluck";

const LENGTHS: [string, string][] = [
  ["1/4", "Sixteenth"],
  ["1/2", "Eighth"],
  ["3/4", "Dotted eighth"],
  ["1", "Quarter"],
  ["3/2", "Dotted quarter"],
  ["2", "Half note"],
  ["3", "Dotted half note"],
  ["4", "Whole note"],
];
/** The keys 1 to 5; a full stop gives the dotted one, and back. */
const KEYS = ["1/4", "1/2", "1", "2", "4"];
const DOTTED: Record<string, string> = { "1/2": "3/4", "1": "3/2", "2": "3", "3/4": "1/2", "3/2": "1", "3": "2" };

interface Props {
  recipe: Recipe;
  catalogue: Schemas["Catalogue"];
  onChange: Change;
}

/**
 * A line of the teacher's own: pressed on a drawn fingerboard, put in by letters and keys, or taken from a file; heard as it
 * is put in, and corrected note by note.
 */
export function Line({ recipe, catalogue, onChange }: Props) {
  const say = useSay();
  const [player, setPlayer] = useState<InstrumentKey>("violin");
  const [beats, setBeats] = useState("1");
  /** The chosen note; what is put in comes after it. */
  const [chosen, setChosen] = useState(-1);
  const file = useRef<HTMLInputElement>(null);
  const keys = useRef<HTMLDivElement>(null);
  const instrument = catalogue.instruments.find((own) => own.key === player)!;
  const fifths = fifthsOf(recipe.tonic, recipe.form !== "major");
  const now: Edited = { line: recipe.line as Edited["line"], pins: recipe.pins };
  const last = Math.min(chosen, now.line.length - 1);
  const note = now.line[last];
  const put = (next: Edited) => onChange(next);
  const add = (name: string | null, place?: Parameters<typeof insert>[3]) => {
    const at = note ? last + 1 : now.line.length;
    if (name !== null) pluck(midiOf(name));
    put(insert(now, at, { name, beats, slurred: false }, place));
    setChosen(at);
  };
  const edit = (part: Parameters<typeof change>[2]) => {
    if (!note) return;
    if (part.name) pluck(midiOf(part.name));
    put(change(now, last, part));
  };
  const take = () => {
    if (!note) return;
    put(remove(now, last));
    setChosen(Math.max(last - 1, now.line.length > 1 ? 0 : -1));
  };
  const length = (value: string) => {
    setBeats(value);
    if (note) edit({ beats: value });
  };
  const move = (semitones: number) => note?.name && edit({ name: transposed(note.name, semitones, fifths) });
  const onKey = (event: React.KeyboardEvent) => {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const { key } = event;
    const before = now.line.slice(0, last + 1).findLast((own) => own.name !== null)?.name ?? null;
    if (/^[a-g]$/i.test(key)) add(nearest(key.toUpperCase(), fifths, before));
    else if (/^[1-5]$/.test(key)) length(KEYS[Number(key) - 1]!);
    else if (key === "." && DOTTED[beats]) length(DOTTED[beats]);
    else if (key === "r") add(null);
    else if (key === "s" && last > 0) edit({ slurred: !note?.slurred });
    else if (key === "#" || key === "+") move(1);
    else if (key === "-") move(-1);
    else if (key === "ArrowUp") move(event.shiftKey ? 12 : 1);
    else if (key === "ArrowDown") move(event.shiftKey ? -12 : -1);
    else if (key === "ArrowLeft") setChosen(Math.max(last - 1, 0));
    else if (key === "ArrowRight") setChosen(Math.min(last + 1, now.line.length - 1));
    else if (key === "Delete" || key === "Backspace") take();
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  const fetchLine = useMutation({
    mutationFn: (picked: File) => {
      const form = new FormData();
      form.append("file", picked);
      // The generated type says text for the file; the form is sent as it is.
      const body = form as unknown as Schemas["LineUpload"];
      return answer(api.POST("/api/line", { body, bodySerializer: () => form }));
    },
    onSuccess: (found) => {
      const { tonic, form, meter, tempo_bpm, line } = found;
      onChange({ tonic, form, meter, tempo_bpm, line });
    },
  });
  return (
    <Box component="section" aria-label="The line" sx={{ display: "grid", gap: 1 }}>
      <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1fr", gap: 1 }}>
        <Pick
          label="Fingerboard of"
          value={player}
          values={catalogue.instruments.map((own) => [own.key, own.name] as const)}
          onPick={setPlayer}
        />
        <Pick
          label="Length"
          value={beats}
          values={LENGTHS.map(([value, name]) => [value, say(name)] as const)}
          onPick={length}
        />
      </Box>
      <LineBoard
        instrument={instrument}
        fifths={fifths}
        onPress={(string, place) => {
          add(spelt(string.midi + place.semitones, fifths), {
            instrument: player,
            string: string.name,
            finger: place.finger,
          });
          keys.current?.focus();
        }}
      />
      <Box
        ref={keys}
        role="listbox"
        tabIndex={0}
        aria-label="Notes of the line: letters put notes in, 1 to 5 set the length, arrows move"
        aria-activedescendant={note ? `line-note-${last}` : undefined}
        onKeyDown={onKey}
        sx={{
          display: "flex",
          flexWrap: "wrap",
          gap: 0.5,
          minHeight: 44,
          p: 0.5,
          border: `1px solid ${colours.line}`,
          borderRadius: 1,
          bgcolor: colours.card,
        }}
      >
        {now.line.length === 0 && (
          <Typography sx={{ color: "text.secondary", p: 0.5 }}>
            Press a place, or press here and type a letter.
          </Typography>
        )}
        {now.line.map((own, at) => (
          <Box
            key={at}
            id={`line-note-${at}`}
            role="option"
            aria-selected={at === last}
            aria-label={`${own.name ?? "rest"}, ${own.beats} beats${own.slurred ? ", slurred" : ""}`}
            onClick={() => {
              setChosen(at);
              setBeats(own.beats);
              if (own.name) pluck(midiOf(own.name));
            }}
            sx={{
              cursor: "pointer",
              borderRadius: 1,
              px: 0.75,
              py: 0.25,
              bgcolor: at === last ? colours.lanternLight : colours.moss,
              outline: at === last ? `2px solid ${colours.lantern}` : "none",
            }}
          >
            {own.slurred && "⁀"}
            <b>{own.name?.replace("#", "♯").replace(/b(?=\d)/, "♭") ?? "rest"}</b> {own.beats}
          </Box>
        ))}
      </Box>
      <Few
        label="The chosen note"
        value={""}
        values={[
          ["rest", "Rest"],
          ["down", "♭"],
          ["up", "♯"],
          ["slur", "Slur"],
          ["out", "Take out"],
        ]}
        onPick={(what) => {
          if (what === "rest") add(null);
          else if (what === "out") take();
          else if (what === "slur") {
            if (last > 0) edit({ slurred: !note?.slurred });
          } else move(what === "up" ? 1 : -1);
        }}
      />
      <Typography sx={{ color: "text.secondary", fontSize: "0.9rem" }}>
        Keys: a to g, r a rest, 1 to 5 the length, a full stop its dot, arrows to move, s a slur, Delete; Ctrl+Z goes
        back.
      </Typography>
      <input
        ref={file}
        type="file"
        hidden
        accept=".musicxml,.xml,.mxl,.mid,.midi"
        data-testid="line-file"
        onChange={(event) => {
          const picked = event.target.files?.[0];
          if (picked) fetchLine.mutate(picked);
          event.target.value = "";
        }}
      />
      <Button onClick={() => file.current?.click()} disabled={fetchLine.isPending} sx={{ justifySelf: "start" }}>
        From a file (MusicXML or MIDI)
      </Button>
      {fetchLine.isError && <Note>{fetchLine.error.message}</Note>}
    </Box>
  );
}
