import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { answer, api, type Schemas } from "../../../api/client";
import { Note } from "../../../ui/states";

/** A picture of the bow hold, where the teacher asks for one and an adult has said yes. No microphone can hear a thumb. */
export function BowHold({ take }: { take: Schemas["TakeOut"] }) {
  const queries = useQueryClient();
  const [sent, setSent] = useState(0);
  const path = { id: take.id };
  const again = () => {
    setSent((before) => before + 1);
    void queries.invalidateQueries({ queryKey: ["take", take.id] });
  };
  const send = useMutation({
    mutationFn: (picture: File) => {
      const form = new FormData();
      form.append("picture", picture);
      const body = form as unknown as Schemas["PictureUpload"];
      return answer(api.POST("/api/takes/{id}/picture", { params: { path }, body, bodySerializer: () => form }));
    },
    onSuccess: again,
  });
  const drop = useMutation({
    mutationFn: () => answer(api.DELETE("/api/takes/{id}/picture", { params: { path } })),
    onSuccess: again,
  });
  if (!take.picture_wanted) return null;
  return (
    <Box>
      <Typography sx={{ fontSize: "1.15rem", mb: 1 }}>
        Your teacher would like to see your bow hold: only the hand and the bow, nobody’s face.
      </Typography>
      {take.picture_url && (
        <Box
          component="img"
          src={`${take.picture_url}?${sent}`}
          alt="Your bow hold"
          sx={{ display: "block", maxWidth: 280, maxHeight: 220, borderRadius: 2, mb: 1 }}
        />
      )}
      <Box sx={{ display: "flex", gap: 1.5, flexWrap: "wrap" }}>
        <Button component="label" variant="outlined" size="large" disabled={send.isPending}>
          {send.isPending ? "Sending …" : take.picture_url ? "Take another picture" : "Take a picture"}
          <input
            type="file"
            accept="image/jpeg,image/png,image/webp"
            capture="environment"
            hidden
            data-testid="picture"
            onChange={(event) => event.target.files?.[0] && send.mutate(event.target.files[0])}
          />
        </Button>
        {take.picture_url && (
          <Button size="large" onClick={() => drop.mutate()}>
            Take it away
          </Button>
        )}
      </Box>
      {(send.error ?? drop.error) && <Note>{(send.error ?? drop.error)!.message}</Note>}
    </Box>
  );
}
