import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { answer, api, type Schemas } from "../../api/client";
import { Few } from "../../ui/Few";
import { Loading, Note } from "../../ui/states";

/** Which hand frames a pupil brought along (the workshop calls nothing new that is ticked here), and which line is theirs. */
export function Frames({ pupil, onClose }: { pupil: Schemas["PupilOut"]; onClose: (() => void) | null }) {
  const queries = useQueryClient();
  const catalogue = useQuery({
    queryKey: ["catalogue"],
    queryFn: () => answer(api.GET("/api/catalogue")),
    staleTime: Infinity,
  });
  const save = useMutation({
    mutationFn: (body: Pick<Schemas["PupilChange"], "known" | "ease">) =>
      answer(api.PATCH("/api/pupils/{id}", { params: { path: { id: pupil.id } }, body })),
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: ["classes"] });
      void queries.invalidateQueries({ queryKey: ["pupil"] });
      void queries.invalidateQueries({ queryKey: ["preview"] });
    },
  });
  if (!catalogue.data) return <Loading what="Fetching the frames" />;
  const frames = catalogue.data.instruments.find((own) => own.key === pupil.instrument)?.frames ?? [];
  return (
    <Box role="group" aria-label={`What ${pupil.name} knows`} sx={{ py: 1, display: "flex", flexWrap: "wrap" }}>
      {frames.map((frame) => (
        <FormControlLabel
          key={frame}
          control={
            <Checkbox
              checked={pupil.known.includes(frame)}
              disabled={save.isPending}
              onChange={(_, checked) =>
                save.mutate({
                  known: checked ? [...pupil.known, frame] : pupil.known.filter((own) => own !== frame),
                })
              }
            />
          }
          label={frame}
        />
      ))}
      <Box sx={{ flexBasis: "100%", display: "flex", flexWrap: "wrap", gap: 1.5, alignItems: "center", mt: 1 }}>
        <span>Where an instrument has several lines of an exercise, from now on</span>
        <Few
          label={`Line for ${pupil.name}`}
          value={pupil.ease}
          values={[
            ["usual", "the usual one"],
            ["easier", "the easier"],
            ["harder", "the harder"],
          ]}
          onPick={(ease) => save.mutate({ ease })}
        />
        {onClose && <Button onClick={onClose}>Done</Button>}
      </Box>
      {save.isError && <Note>{save.error.message}</Note>}
    </Box>
  );
}
