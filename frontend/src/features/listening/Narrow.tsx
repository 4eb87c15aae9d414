import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { useDeferredValue } from "react";

import type { Schemas } from "../../api/client";
import { ClassChoice } from "../../ui/ClassChoice";
import { useAddress } from "../../ui/useAddress";
import { instrumentWords } from "../../ui/words";

const KEYS = ["class_id", "pupil_id", "instrument", "search"] as const;

/** The filters of a list; they stand in the address, so that going back finds them again. */
export function useNarrowed() {
  const { params, put } = useAddress();
  const values = Object.fromEntries(KEYS.map((key) => [key, params.get(key) ?? ""])) as Record<
    (typeof KEYS)[number],
    string
  >;
  const typed = useDeferredValue(values.search);
  const query = {
    ...(values.class_id && { class_id: values.class_id }),
    ...(values.pupil_id && { pupil_id: values.pupil_id }),
    ...(values.instrument && { instrument: values.instrument as Schemas["TakeRow"]["instrument"] }),
    ...(typed && { search: typed }),
  };
  const change = (key: (typeof KEYS)[number], value: string) => put(key, value);
  const clear = () => KEYS.forEach((key) => change(key, ""));
  return { values, query, change, any: Object.keys(query).length > 0, clear };
}

export function Narrow({ own }: { own: ReturnType<typeof useNarrowed> }) {
  const { values, change, any, clear } = own;
  return (
    <Box role="search" sx={{ display: "flex", flexWrap: "wrap", gap: 1.5, mb: 2, alignItems: "center" }}>
      <TextField
        size="small"
        type="search"
        label="Name or exercise"
        value={values.search}
        onChange={(event) => change("search", event.target.value)}
        sx={{ minWidth: 220 }}
      />
      <ClassChoice value={values.class_id} onPick={(id) => change("class_id", id)} />
      <TextField
        select
        size="small"
        label="Instrument"
        slotProps={{ inputLabel: { shrink: true }, select: { displayEmpty: true } }}
        value={values.instrument}
        onChange={(event) => change("instrument", event.target.value)}
        sx={{ minWidth: 160 }}
      >
        <MenuItem value="">All instruments</MenuItem>
        {Object.entries(instrumentWords).map(([key, name]) => (
          <MenuItem key={key} value={key}>
            {name}
          </MenuItem>
        ))}
      </TextField>
      {any && <Button onClick={clear}>Show all</Button>}
    </Box>
  );
}
