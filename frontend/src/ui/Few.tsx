import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";

interface Props<T> {
  label: string;
  value: T;
  values: readonly (readonly [T, string])[];
  onPick: (value: T) => void;
}

/** Toggle buttons for a few values. */
export function Few<T extends string | number | boolean>({ label, value, values, onPick }: Props<T>) {
  return (
    <ToggleButtonGroup
      exclusive
      value={value}
      onChange={(_, picked: T | null) => picked !== null && onPick(picked)}
      aria-label={label}
      sx={{ flexWrap: "wrap" }}
    >
      {values.map(([key, name]) => (
        <ToggleButton key={String(key)} value={key} sx={{ px: 1.25 }}>
          {name}
        </ToggleButton>
      ))}
    </ToggleButtonGroup>
  );
}
