import Autocomplete from "@mui/material/Autocomplete";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import Paper from "@mui/material/Paper";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { answer, api, type Schemas } from "../../api/client";
import { useMay } from "../../app/session";
import { Loading, Note, Trouble } from "../../ui/states";
import { inVocabulary, useStudioSettings } from "../../ui/vocabulary";
import { GoodGo } from "./GoodGo";
import { House } from "./House";
import { OwnPassword } from "./OwnPassword";
import { Levels } from "./Levels";
import { Practice } from "./Practice";
import { RecordSettings } from "./Record";
import { Tapes } from "./Tapes";
import type { Words } from "./words";

const COUNTS: Words["count_in"][] = ["1 2 3 4", "1 2 ready go", "1 and 2 and", "4 3 2 1"];

/** The studio's own words and tapes. */
export function Studio() {
  const words = useStudioSettings();
  const mayChange = useMay("people");
  const catalogue = useQuery({
    queryKey: ["catalogue"],
    queryFn: () => answer(api.GET("/api/catalogue")),
    staleTime: Infinity,
  });
  if (words.isPending || catalogue.isPending) return <Loading what="Opening the studio" />;
  if (words.isError) return <Trouble error={words.error} again={() => void words.refetch()} />;
  if (catalogue.isError) return <Trouble error={catalogue.error} again={() => void catalogue.refetch()} />;
  if (!mayChange)
    return (
      <>
        <Typography variant="h1" sx={{ mb: 2 }}>
          Studio
        </Typography>
        <Paper component="section" aria-label="Me" sx={{ p: 2.5, maxWidth: 980 }}>
          <Typography sx={{ mb: 1.5 }}>Words, levels and tapes are set by the teachers of the studio.</Typography>
          <OwnPassword />
        </Paper>
      </>
    );
  return <Desk kept={words.data as Words} catalogue={catalogue.data} />;
}

function Desk({ kept, catalogue }: { kept: Words; catalogue: Schemas["Catalogue"] }) {
  const queries = useQueryClient();
  const mayHouse = useMay("house");
  const [pattern, setPattern] = useState<string>("sixteenths-eighths");
  const save = useMutation({
    mutationFn: (next: Words) => answer(api.PUT("/api/studio/settings", { body: next })),
    onSuccess: (saved) => {
      queries.setQueryData(["studio-settings"], saved);
      void queries.invalidateQueries({ queryKey: ["tapes"] });
    },
  });
  const change = (part: Partial<Words>) => save.mutate({ ...kept, ...part });
  const own = catalogue.patterns.find((entry) => entry.key === pattern)!;
  const syllables = kept.cues[pattern] ?? own.cue;
  return (
    <Box sx={{ display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 3, maxWidth: 980 }}>
      <Typography variant="h1">Studio</Typography>
      <Paper
        component="section"
        aria-label="Words"
        sx={{ p: 2.5, display: "grid", gridTemplateColumns: "minmax(0, 1fr)", gap: 2 }}
      >
        <Typography variant="h2">Words</Typography>
        <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", sm: "1fr 1fr" }, gap: 2 }}>
          <TextField
            select
            label="Note values"
            value={kept.values}
            onChange={(event) => change({ values: event.target.value as Words["values"] })}
          >
            <MenuItem value="quarter">quarter, eighth, measure</MenuItem>
            <MenuItem value="crotchet">crotchet, quaver, bar</MenuItem>
          </TextField>
          <TextField
            select
            label="Note names"
            value={kept.names}
            onChange={(event) => change({ names: event.target.value as Words["names"] })}
          >
            <MenuItem value="letters">C, D, E</MenuItem>
            <MenuItem value="fixed">do, re, mi: C is do</MenuItem>
            <MenuItem value="movable">do, re, mi: the tonic is do</MenuItem>
          </TextField>
          <TimeZone kept={kept.time_zone} onChange={(time_zone) => change({ time_zone })} />
          <TextField
            select
            label="Count-in"
            value={kept.count_in}
            onChange={(event) => change({ count_in: event.target.value as Words["count_in"] })}
          >
            {COUNTS.map((style) => (
              <MenuItem key={style} value={style}>
                {style}
              </MenuItem>
            ))}
          </TextField>
          <TextField
            select
            label="6/8 is counted"
            value={kept.count_in_six ? "six" : "two"}
            onChange={(event) => change({ count_in_six: event.target.value === "six" })}
          >
            <MenuItem value="six">{inVocabulary("in six: every eighth", kept.values)}</MenuItem>
            <MenuItem value="two">{inVocabulary("in two: dotted quarters", kept.values)}</MenuItem>
          </TextField>
        </Box>
        <Box sx={{ display: "grid", gridTemplateColumns: { xs: "1fr", sm: "1fr 1fr" }, gap: 2 }}>
          <TextField
            select
            label="Words for a pattern"
            value={pattern}
            onChange={(event) => setPattern(event.target.value)}
          >
            {catalogue.patterns.map((entry) => (
              <MenuItem key={entry.key} value={entry.key}>
                {inVocabulary(entry.name, kept.values)}
              </MenuItem>
            ))}
          </TextField>
          <CueField
            key={`${pattern} ${syllables.join(" ")}`}
            syllables={syllables}
            needed={own.cue.length}
            mine={pattern in kept.cues}
            onKeep={(cue) => change({ cues: { ...kept.cues, [pattern]: cue } })}
            onDrop={() =>
              change({ cues: Object.fromEntries(Object.entries(kept.cues).filter(([key]) => key !== pattern)) })
            }
          />
        </Box>
        {save.isError && <Note>{save.error.message}</Note>}
      </Paper>
      <Levels kept={kept} catalogue={catalogue} onChange={(levels) => change({ levels })} />
      <GoodGo kept={kept.good_go as Required<Schemas["GoodGo"]>} onChange={(good_go) => change({ good_go })} />
      <Practice kept={kept} catalogue={catalogue} onChange={change} />
      <Tapes kept={kept} catalogue={catalogue} onChange={(marks) => change({ marks })} />
      <RecordSettings kept={kept} onChange={change} />
      <Paper component="section" aria-label="Me" sx={{ p: 2.5 }}>
        <OwnPassword />
      </Paper>
      {mayHouse && <House />}
    </Box>
  );
}

/** When a day begins, and what hour stands on a report. */
function TimeZone({ kept, onChange }: { kept: string; onChange: (zone: string) => void }) {
  return (
    <Autocomplete
      options={Intl.supportedValuesOf("timeZone")}
      value={kept || null}
      onChange={(_, zone) => onChange(zone ?? "")}
      renderInput={(field) => (
        <TextField
          {...field}
          label="Time zone"
          helperText={kept ? undefined : "The server's own, as long as none is set."}
        />
      )}
    />
  );
}

interface CueProps {
  syllables: string[];
  needed: number;
  mine: boolean;
  onKeep: (cue: string[]) => void;
  onDrop: () => void;
}

function CueField({ syllables, needed, mine, onKeep, onDrop }: CueProps) {
  const [text, setText] = useState(syllables.join(" "));
  const cue = text.trim().split(/\s+/).filter(Boolean);
  const fits = cue.length === needed;
  return (
    <Box sx={{ display: "flex", gap: 1, alignItems: "flex-start" }}>
      <TextField
        fullWidth
        label={`${needed} ${needed === 1 ? "syllable" : "syllables"}, a space between them`}
        value={text}
        error={!fits}
        helperText={fits ? "A hyphen at the end where a word goes on." : `This has ${cue.length}.`}
        onChange={(event) => setText(event.target.value)}
      />
      <Button variant="outlined" disabled={!fits || text.trim() === syllables.join(" ")} onClick={() => onKeep(cue)}>
        Keep
      </Button>
      {mine && <Button onClick={onDrop}>Ours again</Button>}
    </Box>
  );
}
