import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { answer, api } from "../../api/client";
import { Paging } from "../../ui/Paging";
import { Quiet } from "../../ui/Quiet";
import { Trouble } from "../../ui/states";

const moment = (at: string) => new Date(at).toLocaleString(undefined, { dateStyle: "medium", timeStyle: "short" });

/** Who of the staff heard, changed, exported and erased what, the newest first. */
export function Trail() {
  const [open, setOpen] = useState(false);
  const [page, setPage] = useState(1);
  const trail = useQuery({
    queryKey: ["audit", page],
    queryFn: () => answer(api.GET("/api/audit", { params: { query: { page } } })),
    placeholderData: keepPreviousData,
    enabled: open,
  });
  return (
    <Box component="details" onToggle={(event) => setOpen(event.currentTarget.open)}>
      <summary>Who did what</summary>
      <Typography sx={{ color: "text.secondary", mt: 1 }}>
        What those who teach here heard, changed, exported and erased; kept for thirteen months.
      </Typography>
      {trail.isError && <Trouble error={trail.error} again={() => void trail.refetch()} />}
      {trail.data?.lines.length === 0 && <Typography sx={{ mt: 1 }}>Nothing yet.</Typography>}
      <Box component="ul" sx={{ listStyle: "none", m: 0, mt: 1, p: 0 }}>
        {trail.data?.lines.map((own) => (
          <Box component="li" key={`${own.created_at} ${own.what}`} sx={{ py: 0.25 }}>
            <Quiet>{moment(own.created_at)}</Quiet> {own.actor_name} {own.act} {own.what}
          </Box>
        ))}
      </Box>
      {trail.data && <Paging page={trail.data.page} pages={trail.data.pages} onTurn={setPage} />}
    </Box>
  );
}
