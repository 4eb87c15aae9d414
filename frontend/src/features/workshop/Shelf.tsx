import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";

import { answer, api, type Schemas } from "../../api/client";
import { colours } from "../../app/theme";
import { Paging } from "../../ui/Paging";
import { Loading, Note, Trouble } from "../../ui/states";

type Exercise = Schemas["ExerciseOut"];

interface Props {
  /** Opens an exercise to look at or to change. */
  onOpen: (recipe: Schemas["Recipe"], exercise: Exercise | null) => void;
  open: Exercise | null;
}

const row = {
  borderTop: `1px solid ${colours.line}`,
  display: "flex",
  alignItems: "center",
  gap: 0.5,
} as const;
const opener = {
  justifyContent: "space-between",
  flexGrow: 1,
  borderRadius: 1,
  px: 1,
  color: colours.ink,
  textAlign: "left",
} as const;

/** The studio's own exercises. */
export function Exercises({ onOpen, open }: Props) {
  const [search, setSearch] = useState("");
  const [retired, setRetired] = useState(false);
  const asked = useDeferredValue(search);
  const queries = useQueryClient();
  const [page, setPage] = useState(1);
  const shelf = useQuery({
    queryKey: ["shelf", asked, retired, page],
    queryFn: () => answer(api.GET("/api/exercises", { params: { query: { search: asked, retired, page } } })),
    placeholderData: keepPreviousData,
  });
  const move = useMutation({
    mutationFn: ({ id, back }: { id: string; back: boolean }) =>
      answer(
        api.POST(back ? "/api/exercises/{id}/restore" : "/api/exercises/{id}/retire", { params: { path: { id } } }),
      ),
    onSuccess: () => void queries.invalidateQueries({ queryKey: ["shelf"] }),
  });
  return (
    <>
      <Box sx={{ display: "flex", gap: 1, mb: 1 }}>
        <TextField
          size="small"
          label="Find by name or tag"
          type="search"
          value={search}
          onChange={(event) => {
            setPage(1);
            setSearch(event.target.value);
          }}
          sx={{ flexGrow: 1 }}
        />
        <Button
          onClick={() => {
            setPage(1);
            setRetired(!retired);
          }}
          aria-pressed={retired}
        >
          {retired ? "Back to the shelf" : "Retired"}
        </Button>
      </Box>
      {shelf.isPending && <Loading what="Looking on the shelf" />}
      {shelf.isError && <Trouble error={shelf.error} again={() => void shelf.refetch()} />}
      {shelf.data?.exercises.length === 0 && (
        <Typography sx={{ color: "text.secondary" }}>
          {asked
            ? "Nothing by that name."
            : retired
              ? "Nothing is retired."
              : "The shelf is empty. Save an exercise to find it here."}
        </Typography>
      )}
      <Box component="ul" sx={{ listStyle: "none", p: 0, m: 0, overflowY: "auto" }}>
        {shelf.data?.exercises.map((exercise) => (
          <Box component="li" key={exercise.id} sx={row}>
            <Button
              onClick={() => onOpen(exercise.recipe, exercise)}
              aria-current={open?.id === exercise.id}
              sx={{ ...opener, ...(open?.id === exercise.id ? { bgcolor: colours.moss } : {}) }}
            >
              <span>
                {exercise.title}
                {exercise.version > 1 && ` (version ${exercise.version})`}
                {exercise.tags.length > 0 && (
                  <Box component="span" sx={{ color: "text.secondary", fontSize: "0.9rem" }}>
                    {" "}
                    {exercise.tags.join(", ")}
                  </Box>
                )}
              </span>
              <Box component="span" sx={{ color: "text.secondary", whiteSpace: "nowrap", pl: 1 }}>
                {exercise.recipe.tempo_bpm} bpm
              </Box>
            </Button>
            <Button
              size="small"
              onClick={() => move.mutate({ id: exercise.id, back: exercise.retired })}
              aria-label={`${exercise.retired ? "Bring back" : "Retire"} ${exercise.title}`}
            >
              {exercise.retired ? "Bring back" : "Retire"}
            </Button>
          </Box>
        ))}
      </Box>
      {shelf.data && <Paging page={shelf.data.page} pages={shelf.data.pages} onTurn={setPage} />}
      {move.isError && <Note>{move.error.message}</Note>}
    </>
  );
}

/** Ready sequences, to take from and to edit. */
export function Paths({ onOpen }: Pick<Props, "onOpen">) {
  const queries = useQueryClient();
  const paths = useQuery({ queryKey: ["paths"], queryFn: () => answer(api.GET("/api/paths")) });
  const change = useMutation({
    mutationFn: (path: Schemas["PathOut"]) => {
      const { id, ...body } = path;
      return answer(api.PUT("/api/paths/{id}", { params: { path: { id } }, body }));
    },
    onSuccess: () => void queries.invalidateQueries({ queryKey: ["paths"] }),
  });
  if (paths.isPending) return <Loading what="Opening the paths" />;
  if (paths.isError) return <Trouble error={paths.error} again={() => void paths.refetch()} />;
  const swap = (path: Schemas["PathOut"], at: number, to: number) => {
    const steps = [...path.steps];
    [steps[at], steps[to]] = [steps[to]!, steps[at]!];
    change.mutate({ ...path, steps });
  };
  return (
    <>
      {paths.data.paths.map((path) => (
        <Box component="details" key={path.id} sx={{ borderTop: `1px solid ${colours.line}`, py: 0.5 }}>
          <summary>
            <b>{path.name}</b> <span>({path.steps.length} steps)</span>
          </summary>
          <Typography sx={{ color: "text.secondary", my: 0.5 }}>{path.about}</Typography>
          <Box component="ol" sx={{ pl: 0, m: 0, listStyle: "none" }}>
            {path.steps.map((step, at) => (
              <Box component="li" key={at} sx={row}>
                <Button onClick={() => onOpen(step.recipe, null)} sx={opener}>
                  <span>
                    {at + 1}. {step.title}
                  </span>
                </Button>
                <Button
                  size="small"
                  sx={{ minWidth: 36, px: 0.5 }}
                  disabled={at === 0 || change.isPending}
                  onClick={() => swap(path, at, at - 1)}
                  aria-label={`Move step ${at + 1} up`}
                >
                  ↑
                </Button>
                <Button
                  size="small"
                  sx={{ minWidth: 36, px: 0.5 }}
                  disabled={change.isPending}
                  onClick={() => change.mutate({ ...path, steps: path.steps.filter((_, place) => place !== at) })}
                  aria-label={`Take step ${at + 1} out`}
                >
                  ×
                </Button>
              </Box>
            ))}
          </Box>
        </Box>
      ))}
      {change.isError && <Note>{change.error.message}</Note>}
    </>
  );
}
