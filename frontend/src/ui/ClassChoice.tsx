import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import { useQuery } from "@tanstack/react-query";

import { answer, api } from "../api/client";

export const useClasses = () => useQuery({ queryKey: ["classes"], queryFn: () => answer(api.GET("/api/classes")) });

interface Props {
  value: string;
  onPick: (id: string) => void;
}

/** Which class; with a single one there is nothing to choose. */
export function ClassChoice({ value, onPick }: Props) {
  const classes = useClasses();
  if ((classes.data?.classes.length ?? 0) < 2) return null;
  return (
    <TextField
      select
      size="small"
      label="Class"
      slotProps={{ inputLabel: { shrink: true }, select: { displayEmpty: true } }}
      value={value}
      onChange={(event) => onPick(event.target.value)}
      sx={{ minWidth: 200 }}
    >
      <MenuItem value="">All classes</MenuItem>
      {classes.data!.classes.map((group) => (
        <MenuItem key={group.id} value={group.id}>
          {group.name}
        </MenuItem>
      ))}
    </TextField>
  );
}
