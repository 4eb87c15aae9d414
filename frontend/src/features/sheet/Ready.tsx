import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import { answer, api, type Schemas } from "../../api/client";
import { useSay } from "../../ui/vocabulary";
import { newItem } from "./newItem";
import type { Item } from "./useSheet";

interface Props {
  catalogue: Schemas["Catalogue"];
  full: boolean;
  onPick: (item: Item, title: string) => void;
}

/** What stands ready for a sheet: the shelf, and the steps of the learning paths. */
export function Ready({ catalogue, onPick, full }: Props) {
  const say = useSay();
  const [from, setFrom] = useState("");
  const [search, setSearch] = useState("");
  const shelf = useQuery({
    queryKey: ["shelf", search, false],
    queryFn: () => answer(api.GET("/api/exercises", { params: { query: { search } } })),
    placeholderData: (before) => before,
  });
  const paths = useQuery({ queryKey: ["paths"], queryFn: () => answer(api.GET("/api/paths")) });
  const path = paths.data?.paths.find((own) => own.id === from);
  const ready: { title: string; recipe: Schemas["Recipe"] }[] = path
    ? path.steps.filter((step) => step.title.toLowerCase().includes(search.toLowerCase()))
    : (shelf.data?.exercises ?? []);
  return (
    <Box component="aside" aria-label="Ready exercises" sx={{ display: "grid", gap: 1.5 }}>
      <TextField
        select
        size="small"
        label="Take from"
        slotProps={{ inputLabel: { shrink: true }, select: { displayEmpty: true } }}
        value={from}
        onChange={(event) => setFrom(event.target.value)}
      >
        <MenuItem value="">The shelf</MenuItem>
        {paths.data?.paths.map((own) => (
          <MenuItem key={own.id} value={own.id}>
            Path: {own.name}
          </MenuItem>
        ))}
      </TextField>
      <TextField
        size="small"
        type="search"
        label="Search"
        value={search}
        onChange={(event) => setSearch(event.target.value)}
      />
      {full && <Typography>Twelve exercises are on it: that is a full sheet.</Typography>}
      <Box component="ul" sx={{ listStyle: "none", m: 0, p: 0, maxHeight: 460, overflowY: "auto" }}>
        {ready.map((own, at) => (
          <Box
            component="li"
            key={`${at} ${own.title}`}
            sx={{ display: "flex", alignItems: "center", gap: 1, py: 0.25 }}
          >
            <Box sx={{ flexGrow: 1 }}>
              {say(own.title)}{" "}
              <Box component="span" sx={{ color: "text.secondary", fontSize: "0.9rem" }}>
                {own.recipe.tempo_bpm}
              </Box>
            </Box>
            <Button
              size="small"
              variant="outlined"
              disabled={full}
              aria-label={`Put on the sheet: ${own.title}`}
              onClick={() => onPick(newItem(catalogue, own.recipe), own.title)}
              sx={{ minWidth: 44, px: 0 }}
            >
              +
            </Button>
          </Box>
        ))}
        {ready.length === 0 && <Typography component="li">Nothing of that name.</Typography>}
      </Box>
      <Button size="small" component={Link} to="/workshop">
        Make one in the workshop
      </Button>
    </Box>
  );
}
