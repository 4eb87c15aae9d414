import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useState } from "react";

import { answer, api } from "../../api/client";
import { useSessionChange } from "../../app/session";
import { Note } from "../../ui/states";

/** Another password; every other session ends with it. */
export function OwnPassword() {
  const [old, setOld] = useState("");
  const [fresh, setFresh] = useState("");
  const change = useSessionChange((body: { old: string; new: string }) =>
    answer(api.POST("/api/session/password", { body })),
  );
  return (
    <Box component="details">
      <summary>My password</summary>
      <Box
        component="form"
        onSubmit={(event: React.FormEvent) => {
          event.preventDefault();
          change.mutate({ old, new: fresh });
        }}
        sx={{ display: "flex", flexWrap: "wrap", gap: 1.5, alignItems: "center", mt: 1.5 }}
      >
        <TextField
          size="small"
          type="password"
          label="Until now"
          autoComplete="current-password"
          required
          value={old}
          onChange={(event) => setOld(event.target.value)}
        />
        <TextField
          size="small"
          type="password"
          label="From now on, ten letters or more"
          autoComplete="new-password"
          required
          value={fresh}
          onChange={(event) => setFresh(event.target.value)}
          slotProps={{ htmlInput: { minLength: 10 } }}
          sx={{ minWidth: 280 }}
        />
        <Button type="submit" variant="outlined" disabled={change.isPending || !old || fresh.length < 10}>
          Change it
        </Button>
        {change.isSuccess && <span role="status">Changed; every other session has ended.</span>}
      </Box>
      {change.isError && <Note>{change.error.message}</Note>}
    </Box>
  );
}
