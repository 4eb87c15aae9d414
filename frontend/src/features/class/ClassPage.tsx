import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useQuery } from "@tanstack/react-query";

import { answer, api } from "../../api/client";
import { ClassChoice, useClasses } from "../../ui/ClassChoice";
import { Few } from "../../ui/Few";
import { useAddress } from "../../ui/useAddress";
import { Picture } from "./Picture";
import { Suggestions } from "./Suggestions";
import { Together } from "./Together";

const PARTS = [
  ["steps", "Pupils by steps"],
  ["together", "Wrong together"],
  ["next", "What might come next"],
] as const;
type Part = (typeof PARTS)[number][0];

/** Seeing the class: who stands where, what they get wrong together, what might come next. */
export function ClassPage() {
  const { params, put } = useAddress();
  const classId = params.get("class_id") ?? "";
  const pathId = params.get("path_id") ?? "";
  const part = PARTS.find(([key]) => key === params.get("part"))?.[0] ?? "steps";
  const paths = useQuery({ queryKey: ["paths"], queryFn: () => answer(api.GET("/api/paths")) });
  const anybody = useClasses().data?.classes.some((group) => group.pupils.length + group.guests.length > 0) ?? false;
  const query = { ...(classId && { class_id: classId }) };
  const search = new URLSearchParams({ ...query, ...(pathId && { path_id: pathId }) }).toString();
  return (
    <>
      <Box className="no-print" sx={{ display: "flex", flexWrap: "wrap", alignItems: "center", gap: 2, mb: 2 }}>
        <Typography variant="h1" sx={{ flexGrow: 1 }}>
          The class
        </Typography>
        <Few<Part> label="What is shown" value={part} values={PARTS} onPick={(next) => put("part", next)} />
      </Box>
      <Box className="no-print" sx={{ display: "flex", flexWrap: "wrap", alignItems: "center", gap: 1.5, mb: 2 }}>
        <ClassChoice value={classId} onPick={(id) => put("class_id", id)} />
        {part === "steps" && anybody && (
          <>
            <TextField
              select
              size="small"
              label="Steps"
              slotProps={{ inputLabel: { shrink: true }, select: { displayEmpty: true } }}
              value={pathId}
              onChange={(event) => put("path_id", event.target.value)}
              sx={{ minWidth: 220 }}
            >
              <MenuItem value="">What was set</MenuItem>
              {paths.data?.paths.map((path) => (
                <MenuItem key={path.id} value={path.id}>
                  Path: {path.name}
                </MenuItem>
              ))}
            </TextField>
            <Button size="small" variant="outlined" component="a" href={`/api/class.pdf?${search}`} download>
              On paper
            </Button>
            <Button
              size="small"
              variant="outlined"
              component="a"
              href={`/api/records.pdf?${new URLSearchParams(query).toString()}`}
              download
            >
              A page each, for parents
            </Button>
            <Button
              size="small"
              variant="outlined"
              component="a"
              href={`/api/results.csv?${new URLSearchParams(query).toString()}`}
              download
            >
              Results as CSV
            </Button>
          </>
        )}
      </Box>
      {part === "steps" && <Picture query={{ ...query, ...(pathId && { path_id: pathId }) }} />}
      {part === "together" && <Together query={query} />}
      {part === "next" && <Suggestions query={query} />}
    </>
  );
}
