import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Paper from "@mui/material/Paper";
import Typography from "@mui/material/Typography";
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import { answer, api } from "../../api/client";
import { Paging } from "../../ui/Paging";
import { Empty, Loading, Trouble } from "../../ui/states";
import { dayWords } from "../../ui/words";

/** What would go by mail. Nothing leaves the machine: it can be copied, or said at the door. */
export function OutboxPage() {
  const queries = useQueryClient();
  const [page, setPage] = useState(1);
  const outbox = useQuery({
    queryKey: ["outbox", page],
    queryFn: () => answer(api.GET("/api/outbox", { params: { query: { page } } })),
    placeholderData: keepPreviousData,
  });
  const drop = useMutation({
    mutationFn: (id: string) => answer(api.DELETE("/api/outbox/{id}", { params: { path: { id } } })),
    onSettled: () => void queries.invalidateQueries({ queryKey: ["outbox"] }),
  });
  if (outbox.isPending) return <Loading what="Opening the outbox" />;
  if (outbox.isError) return <Trouble error={outbox.error} again={() => void outbox.refetch()} />;
  const { messages, pages } = outbox.data;
  return (
    <Box sx={{ maxWidth: 860 }}>
      <Typography variant="h1">Outbox</Typography>
      <Typography sx={{ color: "text.secondary", mb: 2 }}>
        What this program would send by mail. Nothing leaves this machine: copy what you want to send. Reminders are
        switched off under <Link to="/studio">Studio</Link>.
      </Typography>
      {messages.length === 0 && (
        <Empty title="Nothing to send.">
          <Typography>A reminder stands here when something is due soon and nothing was recorded of it.</Typography>
        </Empty>
      )}
      {messages.map((own) => (
        <Paper component="article" key={own.id} sx={{ p: 2, mb: 1.5 }}>
          <Typography sx={{ color: "text.secondary" }}>
            To the adult of <Link to={`/people/${own.pupil_id}`}>{own.pupil_name}</Link> · {dayWords(own.created_at)}
          </Typography>
          <Typography variant="h3" component="h2">
            {own.subject}
          </Typography>
          <Typography sx={{ my: 1 }}>{own.words}</Typography>
          <Button
            size="small"
            variant="outlined"
            onClick={() => void navigator.clipboard.writeText(`${own.subject}\n\n${own.words}`)}
          >
            Copy
          </Button>{" "}
          <Button size="small" onClick={() => drop.mutate(own.id)} disabled={drop.isPending}>
            Away with it
          </Button>
        </Paper>
      ))}
      <Paging page={page} pages={pages} onTurn={setPage} />
    </Box>
  );
}
