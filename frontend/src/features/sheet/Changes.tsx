import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";

import type { Schemas } from "../../api/client";
import { useClasses } from "../../ui/ClassChoice";
import { Few } from "../../ui/Few";
import { NumberField } from "./NumberField";
import type { Item } from "./useSheet";

type Change = Schemas["SheetChange"];

/** What is different for single pupils. */
export function Changes({ item, onChange }: { item: Item; onChange: (changes: Change[]) => void }) {
  const pupils = (useClasses().data?.classes ?? []).flatMap((group) => group.pupils);
  const changes = item.changes ?? [];
  const names = new Map(pupils.map((pupil) => [pupil.id, pupil.name]));
  const put = (at: number, next: Change | null) =>
    onChange(next ? changes.with(at, next) : changes.filter((_, own) => own !== at));
  const free = pupils.filter((pupil) => !changes.some((own) => own.pupil_id === pupil.id));
  return (
    <Box component="details">
      <summary>
        {changes.length === 0
          ? "Different for one pupil"
          : `Different for ${changes.map((own) => names.get(own.pupil_id) ?? "somebody who has left").join(", ")}`}
      </summary>
      <Box sx={{ display: "grid", gap: 1.5, mt: 1.5 }}>
        {changes.map((own, at) => {
          const name = names.get(own.pupil_id) ?? "somebody who has left";
          return (
            <Box
              key={own.pupil_id}
              role="group"
              aria-label={`For ${name}`}
              sx={{ display: "flex", flexWrap: "wrap", gap: 1.5, alignItems: "center" }}
            >
              <b>{name}</b>
              <Few<boolean>
                label={`Whether ${name} gets it`}
                value={own.left_out ?? false}
                values={[
                  [false, "gets it"],
                  [true, "does not"],
                ]}
                onPick={(left_out) => put(at, { ...own, left_out })}
              />
              {!own.left_out && (
                <>
                  <NumberField
                    label="Up to (bpm)"
                    value={own.target_bpm ?? null}
                    least={30}
                    most={208}
                    mayBeEmpty
                    onPut={(target_bpm) => put(at, { ...own, target_bpm })}
                  />
                  <NumberField
                    label="Good goes a day"
                    value={own.good_repeats ?? null}
                    least={1}
                    most={50}
                    mayBeEmpty
                    onPut={(good_repeats) => put(at, { ...own, good_repeats })}
                  />
                  <TextField
                    select
                    size="small"
                    label="Line"
                    value={own.ease ?? ""}
                    onChange={(event) => put(at, { ...own, ease: (event.target.value || null) as Change["ease"] })}
                    slotProps={{ inputLabel: { shrink: true }, select: { displayEmpty: true } }}
                    sx={{ minWidth: 150 }}
                  >
                    <MenuItem value="">their own</MenuItem>
                    {(["usual", "easier", "harder"] as const).map((ease) => (
                      <MenuItem key={ease} value={ease}>
                        the {ease}
                      </MenuItem>
                    ))}
                  </TextField>
                  <TextField
                    size="small"
                    label="A word for this pupil"
                    value={own.note ?? ""}
                    onChange={(event) => put(at, { ...own, note: event.target.value || null })}
                    slotProps={{ htmlInput: { maxLength: 500 } }}
                    sx={{ flex: "1 1 200px" }}
                  />
                </>
              )}
              <Button size="small" onClick={() => put(at, null)} aria-label={`As for all: ${name}`}>
                As for all
              </Button>
            </Box>
          );
        })}
        <TextField
          select
          size="small"
          label="Add a pupil"
          value=""
          onChange={(event) => onChange([...changes, { pupil_id: event.target.value, left_out: false }])}
          sx={{ maxWidth: 260 }}
        >
          {free.map((pupil) => (
            <MenuItem key={pupil.id} value={pupil.id}>
              {pupil.name}
            </MenuItem>
          ))}
        </TextField>
      </Box>
    </Box>
  );
}
