import Button from "@mui/material/Button";
import Divider from "@mui/material/Divider";
import ListSubheader from "@mui/material/ListSubheader";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import { useMutation } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";

import { answer, api, type Schemas } from "../../api/client";
import { Note } from "../../ui/states";
import type { InstrumentKey, Recipe } from "./recipe";

type Ease = NonNullable<Schemas["PreviewQuestion"]["ease"]>;

interface Props {
  score: Schemas["ScoreOut"];
  insight: Schemas["InsightOut"];
  recipe: Recipe;
  ease: Schemas["PreviewQuestion"]["ease"];
  onRegister: (own: Required<Schemas["RegisterIn"]>) => void;
  onEase: (instrument: InstrumentKey, ease: Ease) => void;
}

const EASES: Record<Ease, string> = {
  usual: "The usual line",
  easier: "The easier line: it drops rather than shift",
  harder: "The harder line: it goes up",
};

/** Where one instrument's line lies, which of its lines is looked at, and the line as a file. */
export function PartMenu({ score, insight, recipe, ease = "usual", onRegister, onEase }: Props) {
  const [anchor, setAnchor] = useState<Element | null>(null);
  const own = recipe.registers.find((one) => one.instrument === score.instrument);
  const first = score.notes[0]?.name ?? "";
  const save = useMutation({
    mutationFn: (kind: Schemas["ExportQuestion"]["kind"]) =>
      answer(api.POST("/api/export", { body: { recipe, instrument: score.instrument, kind, ease }, parseAs: "blob" })),
    onSuccess: (file, kind) => {
      const link = document.createElement("a");
      link.href = URL.createObjectURL(file);
      link.download = `${score.title}, ${score.instrument_name.toLowerCase()}.${kind === "midi" ? "mid" : kind}`;
      link.click();
      URL.revokeObjectURL(link.href);
    },
  });
  const close = () => setAnchor(null);
  const item = (key: string, words: string, selected: boolean, act: () => void): ReactNode => (
    <MenuItem
      key={key}
      selected={selected}
      onClick={() => {
        act();
        close();
      }}
    >
      {words}
    </MenuItem>
  );
  const register = (part: Partial<Schemas["RegisterIn"]>) =>
    onRegister({
      instrument: score.instrument,
      start: own?.start ?? "",
      drop_after: own?.drop_after ?? "",
      ...part,
    });
  // Where a line may drop: after each note of its first rise but the last.
  const rising = score.notes.filter(
    (note, at) => at > 0 && score.notes.slice(0, at).every((before) => before.name !== note.name),
  );
  const drops = [...new Set(rising.map((note) => note.name))];
  return (
    <>
      <Button
        size="small"
        onClick={(event) => setAnchor(event.currentTarget)}
        aria-haspopup="menu"
        aria-label={`from ${first}${ease !== "usual" ? `, ${ease}` : ""}: where the ${score.instrument_name.toLowerCase()} lies, and its files`}
      >
        from {first}
        {ease !== "usual" && `, ${ease}`}
      </Button>
      <Menu anchorEl={anchor} open={!!anchor} onClose={close} slotProps={{ paper: { sx: { maxHeight: 460 } } }}>
        {insight.starts.length > 1 && [
          <ListSubheader key="start">First note</ListSubheader>,
          item("start-own", "As it is easiest", !own?.start, () => register({ start: "" })),
          ...insight.starts.map((start) =>
            item(`start-${start}`, start, own?.start === start, () => register({ start })),
          ),
        ]}
        {insight.starts.length > 0 && [
          <ListSubheader key="drop">Drop an octave</ListSubheader>,
          item("drop-own", "Where it is usual", !own?.drop_after, () => register({ drop_after: "" })),
          item("drop-never", "Never", own?.drop_after === "never", () => register({ drop_after: "never" })),
          ...drops.map((drop) =>
            item(`drop-${drop}`, `After ${drop}`, own?.drop_after === drop, () => register({ drop_after: drop })),
          ),
        ]}
        {insight.eases.length > 1 && [
          <ListSubheader key="ease">Shown here (each pupil’s own is set under People)</ListSubheader>,
          ...insight.eases.map((one) => item(one, EASES[one], one === ease, () => onEase(score.instrument, one))),
        ]}
        <Divider />
        {item("musicxml", "Save as MusicXML", false, () => save.mutate("musicxml"))}
        {item("midi", "Save as MIDI", false, () => save.mutate("midi"))}
      </Menu>
      {save.isError && <Note>{save.error.message}</Note>}
    </>
  );
}
