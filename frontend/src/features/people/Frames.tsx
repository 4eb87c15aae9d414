import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { answer, api, type Schemas } from "../../api/client";
import { Loading, Note } from "../../ui/states";

/** Which hand frames a pupil brought along: the workshop calls nothing new that is ticked here. */
export function Frames({ pupil, onClose }: { pupil: Schemas["PupilOut"]; onClose: () => void }) {
  const queries = useQueryClient();
  const catalogue = useQuery({
    queryKey: ["catalogue"],
    queryFn: () => answer(api.GET("/api/catalogue")),
    staleTime: Infinity,
  });
  const save = useMutation({
    mutationFn: (known: Schemas["PupilOut"]["known"]) =>
      answer(api.PATCH("/api/pupils/{id}", { params: { path: { id: pupil.id } }, body: { known } })),
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: ["classes"] });
      void queries.invalidateQueries({ queryKey: ["preview"] });
    },
  });
  if (!catalogue.data) return <Loading what="Fetching the frames" />;
  return (
    <Box role="group" aria-label={`What ${pupil.name} knows`} sx={{ py: 1, display: "flex", flexWrap: "wrap" }}>
      {catalogue.data.frames.map((frame) => (
        <FormControlLabel
          key={frame}
          control={
            <Checkbox
              checked={pupil.known.includes(frame)}
              disabled={save.isPending}
              onChange={(_, checked) =>
                save.mutate(checked ? [...pupil.known, frame] : pupil.known.filter((own) => own !== frame))
              }
            />
          }
          label={frame}
        />
      ))}
      <Button onClick={onClose}>Done</Button>
      {save.isError && <Note>{save.error.message}</Note>}
    </Box>
  );
}
