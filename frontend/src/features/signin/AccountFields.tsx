import TextField from "@mui/material/TextField";
import type { FieldErrors, FieldValues, Path, UseFormRegister } from "react-hook-form";

import type { Asked } from "./account";

interface Props<T extends FieldValues> {
  asked: Asked<Path<T>>[];
  register: UseFormRegister<T>;
  errors: FieldErrors<T>;
}

/** The fields of an account, each with what is wanted of it. */
export function AccountFields<T extends FieldValues>({ asked, register, errors }: Props<T>) {
  return asked.map(({ key, label, type, complete, rules }) => (
    <TextField
      key={key}
      {...register(key, rules)}
      label={label}
      type={type}
      autoComplete={complete}
      fullWidth
      required
      error={!!errors[key]}
      helperText={errors[key]?.message as string | undefined}
      sx={{ mb: 2 }}
    />
  ));
}
