import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import FormGroup from "@mui/material/FormGroup";

interface Props<T extends string> {
  label: string;
  chosen: readonly T[];
  /** All there are, in the order in which they are kept. */
  values: readonly T[];
  /** What they are called, where they are not called as they are kept. */
  names?: Partial<Record<T, string>>;
  onChange: (chosen: T[]) => void;
}

const capital = (text: string) => text[0]!.toUpperCase() + text.slice(1);

/** Any number of a few things. */
export function Several<T extends string>({ label, chosen, values, names, onChange }: Props<T>) {
  return (
    <FormGroup aria-label={label} role="group">
      {values.map((value) => (
        <FormControlLabel
          key={value}
          sx={{ my: -0.4 }}
          control={
            <Checkbox
              size="small"
              checked={chosen.includes(value)}
              onChange={(_, on) => onChange(values.filter((own) => (own === value ? on : chosen.includes(own))))}
            />
          }
          label={capital(names?.[value] ?? value)}
        />
      ))}
    </FormGroup>
  );
}
