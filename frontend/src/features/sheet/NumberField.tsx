import TextField from "@mui/material/TextField";
import { useState } from "react";

interface Common {
  label: string;
  least: number;
  most: number;
  width?: number;
}
type Props = Common &
  (
    | { mayBeEmpty?: false; value: number; onPut: (value: number) => void }
    | { mayBeEmpty: true; value: number | null; onPut: (value: number | null) => void }
  );

/** A number that is put as soon as it is one; what is none stays in the field, and says what is wanted. */
export function NumberField(props: Props) {
  const { label, value, least, most, width = 130 } = props;
  const [text, setText] = useState(value === null ? "" : String(value));
  const [from, setFrom] = useState(value);
  if (from !== value) {
    setFrom(value);
    if (Number(text) !== value) setText(value === null ? "" : String(value));
  }
  const number = Number(text);
  const empty = text.trim() === "";
  const right = empty ? props.mayBeEmpty === true : number >= least && number <= most;
  return (
    <TextField
      size="small"
      type="number"
      label={label}
      value={text}
      error={!right}
      helperText={right ? undefined : `${least} to ${most}`}
      onChange={(event) => {
        const next = event.target.value;
        setText(next);
        if (next.trim() === "") {
          if (props.mayBeEmpty) props.onPut(null);
        } else if (Number(next) >= least && Number(next) <= most) props.onPut(Number(next));
      }}
      slotProps={{ inputLabel: { shrink: true } }}
      sx={{ width }}
    />
  );
}
