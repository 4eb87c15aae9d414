import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import { answer, api, type Schemas } from "../../api/client";
import { colours } from "../../app/theme";
import { Paging } from "../../ui/Paging";
import { Empty, Loading, Trouble } from "../../ui/states";
import { useSay } from "../../ui/vocabulary";
import { dayWords, instrumentWords } from "../../ui/words";
import { cellWords, STATES, StandingSign, stateWords } from "./standing";

/** Pupils by steps in one picture: a table, so that it can be read without seeing it. */
export function Picture({ query }: { query: { class_id?: string; path_id?: string } }) {
  const say = useSay();
  const [page, setPage] = useState(1);
  const progress = useQuery({
    queryKey: ["progress", query, page],
    queryFn: () => answer(api.GET("/api/progress", { params: { query: { ...query, page } } })),
    placeholderData: keepPreviousData,
  });
  if (progress.isPending) return <Loading what="Looking at the class" />;
  if (progress.isError) return <Trouble error={progress.error} again={() => void progress.refetch()} />;
  const { steps, pupils } = progress.data;
  if (pupils.length === 0)
    return (
      <Empty title="Nobody is here yet.">
        <Button component={Link} to="/people" variant="contained">
          Put pupils in
        </Button>
      </Empty>
    );
  if (steps.length === 0)
    return (
      <Empty title="Nothing was set yet.">
        <Typography sx={{ mb: 2 }}>What you set appears here as a column; a learning path shows its steps.</Typography>
        <Button component={Link} to="/sheets" variant="contained">
          Write the week’s sheet
        </Button>
      </Empty>
    );
  const used = STATES.filter((state) => pupils.some((pupil) => pupil.cells.some((cell) => cell.state === state)));
  return (
    <>
      <Box sx={{ overflowX: "auto", border: `1px solid ${colours.line}`, bgcolor: colours.card, borderRadius: 1 }}>
        <Box component="table" sx={{ borderCollapse: "collapse", minWidth: "100%" }}>
          <thead>
            <tr>
              <Box component="th" scope="col" sx={{ ...corner, textAlign: "left", p: 1 }}>
                Pupil
              </Box>
              {steps.map((step) => (
                <Box
                  component="th"
                  scope="col"
                  key={step.key}
                  sx={{
                    p: 1,
                    minWidth: 92,
                    maxWidth: 150,
                    fontWeight: 500,
                    fontSize: "0.85rem",
                    lineHeight: 1.25,
                    verticalAlign: "bottom",
                    textAlign: "center",
                  }}
                >
                  {say(step.title)}
                </Box>
              ))}
              <Box component="th" scope="col" sx={{ p: 1, fontWeight: 500, fontSize: "0.85rem" }}>
                Heard last
              </Box>
            </tr>
          </thead>
          <tbody>
            {pupils.map((pupil) => (
              <Box component="tr" key={pupil.id} sx={{ borderTop: `1px solid ${colours.line}` }}>
                <Box component="th" scope="row" sx={{ ...corner, textAlign: "left", p: 1, fontWeight: 400 }}>
                  <Box component={Link} to={`/people/${pupil.id}`} sx={{ color: colours.spruce, fontWeight: 700 }}>
                    {pupil.name}
                  </Box>{" "}
                  <Box component="span" sx={{ color: "text.secondary", fontSize: "0.9rem" }}>
                    {instrumentWords[pupil.instrument]}
                  </Box>
                </Box>
                {pupil.cells.map((cell, at) => (
                  <Box component="td" key={steps[at]!.key} sx={{ textAlign: "center", p: 0.5 }}>
                    <CellView cell={cell} />
                  </Box>
                ))}
                <Box component="td" sx={{ p: 1, color: "text.secondary", fontSize: "0.9rem", whiteSpace: "nowrap" }}>
                  {pupil.last_heard ? dayWords(pupil.last_heard) : "not yet"}
                </Box>
              </Box>
            ))}
          </tbody>
        </Box>
      </Box>
      <Box
        component="ul"
        aria-label="Signs"
        sx={{ display: "flex", flexWrap: "wrap", gap: 2.5, listStyle: "none", p: 0 }}
      >
        {used
          .filter((state) => state !== "not_set")
          .map((state) => (
            <Box component="li" key={state} sx={{ display: "flex", gap: 0.75, alignItems: "center" }}>
              <StandingSign state={state} /> {stateWords[state]}
            </Box>
          ))}
      </Box>
      <Paging page={progress.data.page} pages={progress.data.pages} onTurn={setPage} />
    </>
  );
}

const corner = { position: "sticky", left: 0, bgcolor: colours.card, zIndex: 1, whiteSpace: "nowrap" } as const;

const inCell = {
  display: "inline-flex",
  flexDirection: "column",
  alignItems: "center",
  justifyContent: "center",
  minWidth: 44,
  minHeight: 44,
} as const;

function CellView({ cell }: { cell: Schemas["Cell"] }) {
  const words = cellWords(cell);
  const since = cell.state === "stuck" && cell.since ? dayWords(cell.since) : null;
  const inside = (
    <>
      <StandingSign state={cell.state} />
      {since && (
        <Box component="span" sx={{ display: "block", fontSize: "0.75rem", color: colours.lantern }}>
          {since}
        </Box>
      )}
    </>
  );
  return cell.take_id ? (
    <Box
      component={Link}
      to={`/listening/${cell.take_id}`}
      aria-label={`${words}: hear the newest go`}
      title={words}
      sx={{ ...inCell, color: "inherit", textDecoration: "none" }}
    >
      {inside}
    </Box>
  ) : (
    <Box title={words} role="img" aria-label={words} sx={inCell}>
      {inside}
    </Box>
  );
}
