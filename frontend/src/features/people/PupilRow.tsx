import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import { answer, api, type Schemas } from "../../api/client";
import { useMay } from "../../app/session";
import { colours } from "../../app/theme";
import { Note } from "../../ui/states";
import { useStudioSettings } from "../../ui/vocabulary";
import { dayWords, instrumentWords } from "../../ui/words";
import { Frames } from "./Frames";

/** One pupil in the list: what is wanted most often is done here, all else on the pupil's own page. */
export function PupilRow({ pupil, onCard }: { pupil: Schemas["PupilOut"]; onCard: (card: Schemas["Card"]) => void }) {
  const queries = useQueryClient();
  const mayChange = useMay("people");
  const [asking, setAsking] = useState<"consent" | "card" | "frames" | null>(null);
  const [adult, setAdult] = useState("");
  const [pictures, setPictures] = useState(false);
  const consentText = useStudioSettings().data?.consent_text;
  const consent = useMutation({
    mutationFn: (body: { consent_by: string; pictures_agreed: boolean }) =>
      answer(api.PATCH("/api/pupils/{id}", { params: { path: { id: pupil.id } }, body })),
    onSuccess: () => {
      setAsking(null);
      void queries.invalidateQueries({ queryKey: ["classes"] });
    },
  });
  const renew = useMutation({
    mutationFn: () => answer(api.POST("/api/pupils/{id}/passphrase", { params: { path: { id: pupil.id } } })),
    onSuccess: (card) => {
      setAsking(null);
      onCard(card);
    },
  });
  return (
    <Box
      component="li"
      sx={{ borderBottom: `1px solid ${colours.line}`, "&:last-child": { borderBottom: 0 }, px: 2, py: 1 }}
    >
      <Box
        sx={{
          display: "grid",
          gridTemplateColumns: { xs: "1fr", md: "200px 1fr 320px auto" },
          gap: { xs: 0.5, md: 2 },
          alignItems: "center",
        }}
      >
        <Box component={Link} to={`/people/${pupil.id}`} sx={{ color: colours.spruce, fontWeight: 700, py: 0.75 }}>
          {pupil.name}
        </Box>
        <span>
          {instrumentWords[pupil.instrument]} {pupil.size}{" "}
          <Box component="span" sx={{ color: "text.secondary" }}>
            string {Math.round(pupil.string_length_mm)} mm
          </Box>
        </span>
        {pupil.consent_at ? (
          <span>
            May record{pupil.pictures_agreed && " and send pictures"}{" "}
            <Box component="span" sx={{ color: "text.secondary" }}>
              ({pupil.consent_by}, {dayWords(pupil.consent_at)})
            </Box>
          </span>
        ) : (
          <Box component="span" sx={{ color: colours.plum }}>
            No adult has said yes yet
          </Box>
        )}
        {mayChange && (
          <Box sx={{ display: "flex", gap: 1, flexWrap: "wrap" }}>
            {pupil.consent_at ? (
              <Button
                size="small"
                onClick={() => consent.mutate({ consent_by: "", pictures_agreed: false })}
                aria-label={`Take back consent for ${pupil.name}`}
              >
                Take back
              </Button>
            ) : (
              <Button
                size="small"
                variant="outlined"
                onClick={() => setAsking("consent")}
                aria-label={`Note consent for ${pupil.name}`}
              >
                Note a yes
              </Button>
            )}
            <Button
              size="small"
              variant="outlined"
              onClick={() => setAsking(asking === "frames" ? null : "frames")}
              aria-label={`What the hand of ${pupil.name} knows, and which line is theirs`}
            >
              Hand{pupil.known.length ? ` (${pupil.known.length})` : ""}
            </Button>
            <Button
              size="small"
              variant="outlined"
              onClick={() => setAsking("card")}
              aria-label={`New card for ${pupil.name}`}
            >
              New card
            </Button>
          </Box>
        )}
      </Box>
      {asking === "consent" && (
        <Box
          component="form"
          onSubmit={(e: React.FormEvent) => {
            e.preventDefault();
            consent.mutate({ consent_by: adult, pictures_agreed: pictures });
          }}
          sx={{ display: "flex", gap: 1.5, flexWrap: "wrap", py: 1.5 }}
        >
          {consentText && (
            <Typography sx={{ flexBasis: "100%", color: "text.secondary", maxWidth: 720 }}>{consentText}</Typography>
          )}
          <TextField
            label="Which adult said yes to recordings?"
            size="small"
            value={adult}
            onChange={(event) => setAdult(event.target.value)}
            autoFocus
            required
            sx={{ minWidth: 300 }}
          />
          <FormControlLabel
            control={<Checkbox checked={pictures} onChange={(_, checked) => setPictures(checked)} />}
            label="and to pictures of the bow hold"
          />
          <Button type="submit" variant="contained" disabled={!adult.trim() || consent.isPending}>
            Note it
          </Button>
          <Button onClick={() => setAsking(null)}>Not now</Button>
        </Box>
      )}
      {asking === "frames" && <Frames pupil={pupil} onClose={() => setAsking(null)} />}
      {asking === "card" && (
        <Box sx={{ display: "flex", gap: 1.5, flexWrap: "wrap", alignItems: "center", py: 1.5 }}>
          <Typography>The words on the old card will stop working.</Typography>
          <Button variant="contained" onClick={() => renew.mutate()} disabled={renew.isPending}>
            Make a new card
          </Button>
          <Button onClick={() => setAsking(null)}>Not now</Button>
        </Box>
      )}
      {consent.isError && <Note>{consent.error.message}</Note>}
      {renew.isError && <Note>{renew.error.message}</Note>}
    </Box>
  );
}
