import Box from "@mui/material/Box";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import { answer, api } from "../../api/client";
import { Paging } from "../../ui/Paging";
import { Trouble } from "../../ui/states";
import { dayWords, instrumentWords } from "../../ui/words";

/** Who has left; from their page they can come back. */
export function Archived({ count }: { count: number }) {
  const [open, setOpen] = useState(false);
  const [page, setPage] = useState(1);
  const gone = useQuery({
    queryKey: ["classes", "left", page],
    queryFn: () => answer(api.GET("/api/pupils", { params: { query: { left: true, page } } })),
    placeholderData: keepPreviousData,
    enabled: open,
  });
  return (
    <Box component="details" onToggle={(event) => setOpen(event.currentTarget.open)} sx={{ mt: 3 }}>
      <summary>{count === 1 ? "One pupil has left" : `${count} pupils have left`}</summary>
      {gone.isError && <Trouble error={gone.error} />}
      <Box component="ul" sx={{ pl: 3 }}>
        {gone.data?.pupils.map(({ pupil }) => (
          <li key={pupil.id}>
            <Link to={`/people/${pupil.id}?part=about`}>{pupil.name}</Link>, {instrumentWords[pupil.instrument]}
            {pupil.archived_at && `, since ${dayWords(pupil.archived_at)}`}
          </li>
        ))}
      </Box>
      {gone.data && <Paging page={gone.data.page} pages={gone.data.pages} onTurn={setPage} />}
    </Box>
  );
}
