import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Paper from "@mui/material/Paper";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { Link, useNavigate } from "react-router";

import { answer, api, type Schemas } from "../../api/client";
import { Paging } from "../../ui/Paging";
import { Empty, Loading, Note, Trouble } from "../../ui/states";
import { useSay } from "../../ui/vocabulary";
import { dayWords } from "../../ui/words";

type Line = Schemas["SheetLine"];
const KINDS: [Line["kind"], string][] = [
  ["draft", "Being written"],
  ["template", "Templates"],
  ["sent", "Sent"],
];

/** The week's sheets: what is being written, what is kept to begin with, what was sent. */
export function SheetsPage() {
  const queries = useQueryClient();
  const go = useNavigate();
  const [page, setPage] = useState(1);
  const [search, setSearch] = useState("");
  const asked = useDeferredValue(search);
  const sheets = useQuery({
    queryKey: ["sheets", page, asked],
    queryFn: () => answer(api.GET("/api/sheets", { params: { query: { page, search: asked } } })),
    placeholderData: keepPreviousData,
  });
  const begin = useMutation({
    mutationFn: (body: Schemas["NewSheet"]) => answer(api.POST("/api/sheets", { body })),
    onSuccess: (made) => {
      void queries.invalidateQueries({ queryKey: ["sheets"] });
      void go(`/sheets/${made.id}`);
    },
  });
  if (sheets.isPending) return <Loading what="Fetching the sheets" />;
  if (sheets.isError) return <Trouble error={sheets.error} again={() => void sheets.refetch()} />;
  const all = sheets.data.sheets;
  const last = all.find((own) => own.kind === "sent");
  return (
    <Box sx={{ maxWidth: 980 }}>
      <Box sx={{ display: "flex", flexWrap: "wrap", alignItems: "center", gap: 1.5, mb: 2 }}>
        <Typography variant="h1" sx={{ flexGrow: 1 }}>
          Week’s sheets
        </Typography>
        {last && (
          <Button variant="outlined" disabled={begin.isPending} onClick={() => begin.mutate({ copy_of: last.id })}>
            Copy the last one
          </Button>
        )}
        <Button variant="contained" disabled={begin.isPending} onClick={() => begin.mutate({})}>
          New sheet
        </Button>
      </Box>
      {begin.isError && <Note>{begin.error.message}</Note>}
      {(asked || sheets.data.pages > 1) && (
        <TextField
          size="small"
          type="search"
          label="Name of a sheet"
          value={search}
          onChange={(event) => {
            setPage(1);
            setSearch(event.target.value);
          }}
          sx={{ mb: 2, minWidth: 260 }}
        />
      )}
      {all.length === 0 && !asked && (
        <Empty title="No sheet yet.">
          <Typography>
            A sheet sets several exercises at once: to a class, to an instrument, to single pupils. It is looked at as
            each pupil will see it before it is sent.
          </Typography>
        </Empty>
      )}
      {KINDS.map(([kind, heading]) => {
        const own = all.filter((sheet) => sheet.kind === kind);
        if (own.length === 0) return null;
        return (
          <Box component="section" key={kind} aria-label={heading} sx={{ mb: 3 }}>
            <Typography variant="h2" sx={{ mb: 0.5 }}>
              {heading}
            </Typography>
            <Paper component="ul" sx={{ listStyle: "none", m: 0, p: 0 }}>
              {own.map((sheet) => (
                <Row key={sheet.id} sheet={sheet} onCopy={() => begin.mutate({ copy_of: sheet.id })} />
              ))}
            </Paper>
          </Box>
        );
      })}
      <Paging page={sheets.data.page} pages={sheets.data.pages} onTurn={setPage} />
    </Box>
  );
}

function Row({ sheet, onCopy }: { sheet: Line; onCopy: () => void }) {
  const say = useSay();
  const name = sheet.name || sheet.titles.map(say).join("; ") || "An empty sheet";
  return (
    <Box
      component="li"
      sx={{
        display: "flex",
        flexWrap: "wrap",
        gap: 2,
        alignItems: "center",
        p: 1.5,
        borderTop: 1,
        borderColor: "divider",
        "&:first-of-type": { borderTop: 0 },
      }}
    >
      <Box sx={{ flex: "1 1 320px", minWidth: 0 }}>
        <Box component={Link} to={`/sheets/${sheet.id}`} sx={{ color: "inherit", fontWeight: 700 }}>
          {name}
        </Box>
        <Typography sx={{ color: "text.secondary" }}>
          {sheet.titles.length} {sheet.titles.length === 1 ? "exercise" : "exercises"}
          {sheet.due_on && ` · for ${dayWords(sheet.due_on)}`} · {sheet.teacher_name}
          {sheet.sent_at && ` · sent ${dayWords(sheet.sent_at)}`}
        </Typography>
      </Box>
      {sheet.kind !== "draft" && (
        <Button size="small" variant="outlined" onClick={onCopy}>
          {sheet.kind === "template" ? "Begin with it" : "Copy"}
        </Button>
      )}
    </Box>
  );
}
