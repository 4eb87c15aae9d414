import Box from "@mui/material/Box";
import Paper from "@mui/material/Paper";
import Typography from "@mui/material/Typography";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { answer, api, type Schemas } from "../../api/client";
import { ScoreView } from "../../music/ScoreView";
import { useWidth } from "../../music/useWidth";
import { Loading, Note, Trouble } from "../../ui/states";
import { useSay } from "../../ui/vocabulary";
import { instrumentWords } from "../../ui/words";

type Page = Schemas["PageOfPupil"];

/** The sheet as each pupil will see it: their own line, in their clef, with their own terms. */
export function Pages({ id, items, unsaved }: { id: string; items: number; unsaved: boolean }) {
  const [chosen, setChosen] = useState<string | null>(null);
  const pages = useQuery({
    queryKey: ["sheet-pages", id],
    queryFn: () => answer(api.GET("/api/sheets/{id}/pages", { params: { path: { id } } })),
    placeholderData: keepPreviousData,
    enabled: !unsaved,
  });
  if (items === 0) return <Typography>There is nothing on the sheet yet.</Typography>;
  if (pages.isPending) return <Loading what="Laying the pages out" />;
  if (pages.isError) return <Trouble error={pages.error} again={() => void pages.refetch()} />;
  const all = pages.data.pages;
  if (all.length === 0) return <Typography>It is for nobody yet.</Typography>;
  const page = all.find((own) => own.pupil_id === chosen) ?? all[0]!;
  return (
    <Box sx={{ display: "grid", gap: 3, gridTemplateColumns: { xs: "minmax(0, 1fr)", md: "240px minmax(0, 1fr)" } }}>
      <Box component="ul" aria-label="Pupils" sx={{ listStyle: "none", m: 0, p: 0, maxHeight: 620, overflowY: "auto" }}>
        {all.map((own) => (
          <li key={own.pupil_id}>
            <Box
              component="button"
              type="button"
              aria-pressed={own === page}
              onClick={() => setChosen(own.pupil_id)}
              sx={{
                width: "100%",
                textAlign: "left",
                font: "inherit",
                p: 1,
                minHeight: 44,
                border: 0,
                borderLeft: 3,
                borderColor: own === page ? "secondary.main" : "transparent",
                bgcolor: own === page ? "background.paper" : "transparent",
                cursor: "pointer",
              }}
            >
              <b>{own.name}</b>{" "}
              <Box component="span" sx={{ color: "text.secondary" }}>
                {instrumentWords[own.instrument]}, {own.items.length}
              </Box>
            </Box>
          </li>
        ))}
      </Box>
      <Box sx={{ display: "grid", gap: 2 }} aria-live="polite">
        {page.can_not.map((words) => (
          <Note key={words}>
            {words}: left out for {page.name}.
          </Note>
        ))}
        {page.items.map((item, at) => (
          <OneItem key={`${page.pupil_id} ${at}`} page={page} item={item} />
        ))}
      </Box>
    </Box>
  );
}

function OneItem({ page, item }: { page: Page; item: Page["items"][number] }) {
  const say = useSay();
  const { ref, width } = useWidth<HTMLDivElement>();
  const recipe = { ...item.recipe, tempo_bpm: item.target_bpm };
  const preview = useQuery({
    queryKey: ["preview", recipe, width, page.instrument, item.ease],
    queryFn: () =>
      answer(
        api.POST("/api/preview", { body: { recipe, instrument: page.instrument, width: width!, ease: item.ease } }),
      ),
    enabled: width !== null,
    staleTime: Infinity,
  });
  return (
    <Paper component="section" aria-label={item.title} sx={{ p: 2 }}>
      <Typography variant="h3" component="h2">
        {say(item.title)}
      </Typography>
      <Typography sx={{ color: "text.secondary" }}>
        {item.good_repeats} good {item.good_repeats === 1 ? "go" : "goes"} a day, on {item.days_a_week} days, up to{" "}
        {item.target_bpm}
        {item.note && ` · “${item.note}”`}
      </Typography>
      <Box ref={ref} sx={{ minHeight: 110 }}>
        {preview.isError && <Note>{preview.error.message}</Note>}
        {preview.data?.part && <ScoreView score={preview.data.part.score} current={null} />}
      </Box>
    </Paper>
  );
}
