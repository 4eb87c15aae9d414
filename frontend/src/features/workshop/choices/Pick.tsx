import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";

interface Props<T extends string> {
  label: string;
  value: T;
  values: readonly (readonly [T, string])[];
  onPick: (value: T) => void;
}

/** A list to pick one of many from. */
export function Pick<T extends string>({ label, value, values, onPick }: Props<T>) {
  return (
    <TextField
      select
      size="small"
      fullWidth
      label={label}
      value={value}
      onChange={(event) => onPick(event.target.value as T)}
      slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
    >
      {values.map(([key, name]) => (
        <MenuItem key={key} value={key}>
          {name}
        </MenuItem>
      ))}
    </TextField>
  );
}
