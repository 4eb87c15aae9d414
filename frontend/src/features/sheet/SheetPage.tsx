import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";

import { answer, api, type Schemas } from "../../api/client";
import { Few } from "../../ui/Few";
import { Loading, Note, Trouble } from "../../ui/states";
import { dayWords } from "../../ui/words";
import { ItemEditor } from "./ItemEditor";
import { Pages } from "./Pages";
import { Ready } from "./Ready";
import { type Item, useSheet } from "./useSheet";

const VIEWS = [
  ["write", "Write"],
  ["pages", "As each pupil sees it"],
] as const;
const MOST = 12;
type View = (typeof VIEWS)[number][0];

/** One week's sheet: written, looked at, sent, taken back. */
export function SheetPage() {
  const { id = "" } = useParams();
  return <OneSheet key={id} id={id} />;
}

function OneSheet({ id }: { id: string }) {
  const queries = useQueryClient();
  const go = useNavigate();
  const { sheet, change, save, startAgain, error, unsaved, loading } = useSheet(id);
  const [view, setView] = useState<View>("write");
  // What an exercise is called is said by the house once it is kept; until then it is called as it was taken.
  const [picked, setPicked] = useState<Record<string, string>>({});
  const catalogue = useQuery({
    queryKey: ["catalogue"],
    queryFn: () => answer(api.GET("/api/catalogue")),
    staleTime: Infinity,
  });
  const path = { params: { path: { id } } };
  const shown = (next: Schemas["SheetOut"]) => {
    queries.setQueryData(["sheet", id], next);
    for (const key of ["sheets", "week", "calendar"]) void queries.invalidateQueries({ queryKey: [key] });
  };
  const send = useMutation({
    mutationFn: async () => {
      if (!(await save())) throw new Error("The sheet could not be kept, so it was not sent.");
      return answer(api.POST("/api/sheets/{id}/send", path));
    },
    onSuccess: (sent) => shown(sent.sheet),
  });
  const back = useMutation({
    mutationFn: () => answer(api.DELETE("/api/sheets/{id}/send", path)),
    onSuccess: (next) => {
      send.reset();
      shown(next);
    },
  });
  const drop = useMutation({
    mutationFn: () => answer(api.DELETE("/api/sheets/{id}", path)),
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: ["sheets"] });
      void go("/sheets");
    },
  });
  const template = useMutation({
    mutationFn: async (name: string) => {
      await save();
      return answer(api.POST("/api/sheets/{id}/template", { ...path, body: { name } }));
    },
    onSuccess: () => void queries.invalidateQueries({ queryKey: ["sheets"] }),
  });
  if (loading.isPending || catalogue.isPending) return <Loading what="Fetching the sheet" />;
  if (loading.isError) return <Trouble error={loading.error} again={() => void loading.refetch()} />;
  if (catalogue.isError) return <Trouble error={catalogue.error} again={() => void catalogue.refetch()} />;
  if (!sheet) return null;
  const sent = sheet.sent_at !== null;
  const titles: Record<string, string> = { ...picked };
  loading.data.items.forEach((item, at) => (titles[JSON.stringify(item.recipe)] = loading.data.titles[at] ?? ""));
  const put = (at: number, next: Item | null) =>
    change({ items: next ? sheet.items.with(at, next) : sheet.items.filter((_, own) => own !== at) });
  const swap = (at: number, by: number) => {
    const items = [...sheet.items];
    [items[at], items[at + by]] = [items[at + by]!, items[at]!];
    change({ items });
  };
  const problem = send.error ?? back.error ?? drop.error ?? template.error;
  return (
    <>
      <Box sx={{ display: "flex", flexWrap: "wrap", alignItems: "center", gap: 1.5, mb: 2 }}>
        <Typography variant="h1" sx={{ flexGrow: 1 }}>
          {sheet.kind === "template" ? "Template" : "Week’s sheet"}
        </Typography>
        <Few<View> label="What is shown" value={view} values={VIEWS} onPick={setView} />
        <Button
          variant="outlined"
          component="a"
          href={`/api/sheets/${id}/paper.pdf`}
          target="_blank"
          disabled={sheet.items.length === 0 || unsaved}
        >
          On paper
        </Button>
        {sheet.kind === "draft" && (
          <Button
            variant="contained"
            disabled={sheet.items.length === 0 || send.isPending}
            onClick={() => send.mutate()}
          >
            Send
          </Button>
        )}
      </Box>
      {sent && (
        <Box role="status" sx={{ display: "flex", flexWrap: "wrap", gap: 1.5, alignItems: "center", mb: 2 }}>
          <span>
            {send.data
              ? `Sent: ${send.data.exercises} ${send.data.exercises === 1 ? "exercise" : "exercises"} to ${send.data.pupils} ${send.data.pupils === 1 ? "pupil" : "pupils"}.`
              : `Sent ${dayWords(sheet.sent_at!)}.`}{" "}
            To write on, copy it.
          </span>
          <Button size="small" variant="outlined" disabled={back.isPending} onClick={() => back.mutate()}>
            Take it back
          </Button>
          <Button size="small" component={Link} to="/week">
            See the week
          </Button>
        </Box>
      )}
      {problem && <Note>{problem.message}</Note>}
      {error && (
        <Note>
          {error.message}{" "}
          <Button size="small" onClick={() => void save()}>
            Try again
          </Button>
          <Button size="small" onClick={startAgain}>
            Show what is kept
          </Button>
        </Note>
      )}
      {view === "pages" ? (
        <Pages id={id} items={sheet.items.length} unsaved={unsaved} />
      ) : (
        <Box
          component="fieldset"
          disabled={sent}
          aria-label="The sheet"
          sx={{
            border: 0,
            m: 0,
            p: 0,
            display: "grid",
            gap: 3,
            gridTemplateColumns: { xs: "minmax(0, 1fr)", lg: "minmax(0, 1fr) 340px" },
            alignItems: "start",
          }}
        >
          <Box sx={{ display: "grid", gap: 2 }}>
            <Box sx={{ display: "flex", flexWrap: "wrap", gap: 2 }}>
              <TextField
                size="small"
                label="Name (if you like)"
                value={sheet.name}
                onChange={(event) => change({ name: event.target.value })}
                slotProps={{ htmlInput: { maxLength: 80 } }}
                sx={{ flex: "1 1 220px" }}
              />
              {sheet.kind !== "template" && (
                <TextField
                  size="small"
                  label="Due"
                  type="date"
                  value={sheet.due_on ?? ""}
                  onChange={(event) => change({ due_on: event.target.value || null })}
                  slotProps={{ inputLabel: { shrink: true } }}
                />
              )}
              <Typography aria-live="polite" sx={{ alignSelf: "center", color: "text.secondary", minWidth: 80 }}>
                {sent ? "" : unsaved ? "not kept yet …" : "kept"}
              </Typography>
            </Box>
            {sheet.items.length === 0 && (
              <Typography sx={{ py: 3 }}>
                Nothing on it yet. Take something from the right, or from the workshop, from what a class gets wrong
                together, or from what might come next for a pupil.
              </Typography>
            )}
            {sheet.items.map((item, at) => (
              <ItemEditor
                key={`${at} ${JSON.stringify(item.recipe)}`}
                item={item}
                title={titles[JSON.stringify(item.recipe)] ?? ""}
                levels={catalogue.data.levels}
                first={at === 0}
                last={at === sheet.items.length - 1}
                onChange={(next) => put(at, next)}
                onMove={(by) => swap(at, by)}
              />
            ))}
            {!sent && (
              <Box sx={{ display: "flex", flexWrap: "wrap", gap: 1 }}>
                {sheet.kind === "draft" && (
                  <Button
                    size="small"
                    disabled={sheet.items.length === 0 || template.isPending}
                    onClick={() => template.mutate(sheet.name || "My template")}
                  >
                    {template.isSuccess ? "Kept as a template" : "Keep as a template"}
                  </Button>
                )}
                <Button size="small" disabled={drop.isPending} onClick={() => drop.mutate()}>
                  Throw this sheet away
                </Button>
              </Box>
            )}
          </Box>
          {!sent && (
            <Ready
              catalogue={catalogue.data}
              full={sheet.items.length >= MOST}
              onPick={(item, title) => {
                setPicked((before) => ({ ...before, [JSON.stringify(item.recipe)]: title }));
                change({ items: [...sheet.items, item] });
              }}
            />
          )}
        </Box>
      )}
    </>
  );
}
