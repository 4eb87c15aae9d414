import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { answer, api } from "../../api/client";
import { Note } from "../../ui/states";

interface Props {
  /** Of the class that is renamed; a new one is made without. */
  id?: string;
  name?: string;
  onClose?: () => void;
}

/** The name of a class: a new one, or another name for one that is there. */
export function ClassName({ id, name = "", onClose }: Props) {
  const queries = useQueryClient();
  const [text, setText] = useState(name);
  const save = useMutation({
    mutationFn: () =>
      answer(
        id
          ? api.PATCH("/api/classes/{id}", { params: { path: { id } }, body: { name: text } })
          : api.POST("/api/classes", { body: { name: text } }),
      ),
    onSuccess: () => {
      setText("");
      void queries.invalidateQueries({ queryKey: ["classes"] });
      void queries.invalidateQueries({ queryKey: ["week"] });
      onClose?.();
    },
  });
  return (
    <>
      <Box
        component="form"
        onSubmit={(event: React.FormEvent) => {
          event.preventDefault();
          save.mutate();
        }}
        sx={{ display: "flex", gap: 1.5, flexWrap: "wrap", my: 1.5 }}
      >
        <TextField
          label={id ? "Name of the class" : "Name of a new class"}
          size="small"
          value={text}
          onChange={(event) => setText(event.target.value)}
          required
          slotProps={{ htmlInput: { maxLength: 80 } }}
          sx={{ minWidth: 260 }}
        />
        <Button type="submit" variant={id ? "contained" : "outlined"} disabled={!text.trim() || save.isPending}>
          {id ? "Keep" : "Make the class"}
        </Button>
        {onClose && <Button onClick={onClose}>Not now</Button>}
      </Box>
      {save.isError && <Note>{save.error.message}</Note>}
    </>
  );
}
