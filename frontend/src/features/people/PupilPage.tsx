import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense } from "react";
import { Link, useParams, useSearchParams } from "react-router";

import { answer, api } from "../../api/client";
import { useMay } from "../../app/session";
import { Few } from "../../ui/Few";
import { Loading, Trouble } from "../../ui/states";
import { instrumentWords } from "../../ui/words";
import { AboutPupil } from "./AboutPupil";
import { NextForPupil } from "./NextForPupil";
import { Passed } from "./Passed";

// The plots are large, and only looked at here.
const Story = lazy(() => import("./story/Story").then((m) => ({ default: m.Story })));

const PARTS = [
  ["way", "The way"],
  ["passed", "Passed"],
  ["about", "About"],
] as const;
type Part = (typeof PARTS)[number][0];

/** One pupil: over months, what is passed, what might come next, and what the teachers keep of them. */
export function PupilPage() {
  const { id = "" } = useParams();
  const [params, setParams] = useSearchParams();
  const mayChange = useMay("people");
  const parts = PARTS.filter(([key]) => mayChange || key !== "about");
  const part = parts.find(([key]) => key === params.get("part"))?.[0] ?? "way";
  const pupil = useQuery({
    queryKey: ["pupil", id],
    queryFn: () => answer(api.GET("/api/pupils/{id}", { params: { path: { id } } })),
  });
  const story = useQuery({
    queryKey: ["story", id],
    queryFn: () => answer(api.GET("/api/pupils/{id}/story", { params: { path: { id } } })),
  });
  if (pupil.isPending) return <Loading what="Fetching the pupil" />;
  if (pupil.isError) return <Trouble error={pupil.error} again={() => void pupil.refetch()} />;
  const { pupil: own, class_name, path_name, path_steps } = pupil.data;
  return (
    <>
      <Box sx={{ display: "flex", flexWrap: "wrap", alignItems: "center", gap: 2, mb: 2 }}>
        <Box sx={{ flexGrow: 1 }}>
          <Typography variant="h1">
            {own.name}{" "}
            <Box component="span" sx={{ color: "text.secondary", fontWeight: 400 }}>
              {instrumentWords[own.instrument]} {own.size}
            </Box>
          </Typography>
          <Typography sx={{ color: "text.secondary" }}>
            {class_name}
            {path_name &&
              ` · ${path_name}: ${Math.min(own.path_step, path_steps.length)} of ${path_steps.length} steps`}
            {own.archived_at && " · has left"}
            {own.goal && ` · goal: ${own.goal}`}
          </Typography>
        </Box>
        <Box className="no-print" sx={{ display: "flex", gap: 1, flexWrap: "wrap", alignItems: "center" }}>
          <Few<Part>
            label="What is shown"
            value={part}
            values={parts}
            onPick={(next) => setParams({ part: next }, { replace: true })}
          />
          <Button size="small" variant="outlined" component={Link} to={`/listening?only=all&pupil_id=${own.id}`}>
            Takes
          </Button>
          <Button
            size="small"
            variant="outlined"
            component="a"
            href={`/api/pupils/${own.id}/record.pdf`}
            download={`${own.name}.pdf`}
          >
            On paper
          </Button>
        </Box>
      </Box>
      {part === "about" ? (
        <AboutPupil detail={pupil.data} />
      ) : story.isPending ? (
        <Loading what="Turning the pages back" />
      ) : story.isError ? (
        <Trouble error={story.error} again={() => void story.refetch()} />
      ) : part === "passed" ? (
        <Passed pupilId={own.id} story={story.data} />
      ) : (
        <>
          <NextForPupil pupilId={own.id} />
          <Suspense fallback={<Loading what="Drawing" />}>
            <Story story={story.data} />
          </Suspense>
        </>
      )}
    </>
  );
}
