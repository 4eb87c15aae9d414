import Autocomplete from "@mui/material/Autocomplete";
import Box from "@mui/material/Box";
import TextField from "@mui/material/TextField";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";

import type { Schemas } from "../../api/client";
import { useClasses } from "../../ui/ClassChoice";
import { instrumentWords } from "../../ui/words";

type Own = Required<Schemas["Audience"]>;
type Instrument = Own["instruments"][number];

/** For whom: classes, instruments, or just these pupils. Nothing chosen: everybody. */
export function Audience({ audience, onChange }: { audience: Schemas["Audience"]; onChange: (next: Own) => void }) {
  const own: Own = { class_ids: [], instruments: [], pupil_ids: [], ...audience };
  const classes = useClasses().data?.classes ?? [];
  const pupils = classes.flatMap((group) => group.pupils);
  const single = own.pupil_ids.length > 0;
  return (
    <Box role="group" aria-label="For whom" sx={{ display: "flex", flexWrap: "wrap", gap: 1.5, alignItems: "center" }}>
      {classes.length > 1 && (
        <ToggleButtonGroup
          size="small"
          value={own.class_ids}
          disabled={single}
          onChange={(_, class_ids: string[]) => onChange({ ...own, class_ids })}
          aria-label="Classes"
        >
          {classes.map((group) => (
            <ToggleButton key={group.id} value={group.id} sx={{ minHeight: 36, py: 0.25 }}>
              {group.name}
            </ToggleButton>
          ))}
        </ToggleButtonGroup>
      )}
      <ToggleButtonGroup
        size="small"
        value={own.instruments}
        disabled={single}
        onChange={(_, instruments: Instrument[]) => onChange({ ...own, instruments })}
        aria-label="Instruments"
      >
        {Object.entries(instrumentWords).map(([key, name]) => (
          <ToggleButton key={key} value={key} sx={{ minHeight: 36, py: 0.25 }}>
            {name}
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
      <Autocomplete
        multiple
        size="small"
        limitTags={3}
        options={pupils}
        value={pupils.filter((pupil) => own.pupil_ids.includes(pupil.id))}
        getOptionLabel={(pupil) => pupil.name}
        getOptionKey={(pupil) => pupil.id}
        isOptionEqualToValue={(one, other) => one.id === other.id}
        onChange={(_, chosen) => onChange({ ...own, pupil_ids: chosen.map((pupil) => pupil.id) })}
        renderInput={(params) => (
          <TextField {...params} label={single ? "Just these" : "Everybody of these, or just …"} />
        )}
        sx={{ flex: "1 1 240px", minWidth: 220 }}
      />
    </Box>
  );
}
