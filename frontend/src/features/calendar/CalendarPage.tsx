import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import MenuItem from "@mui/material/MenuItem";
import Paper from "@mui/material/Paper";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import { answer, api, type Schemas } from "../../api/client";
import { useClasses } from "../../ui/ClassChoice";
import { Loading, Note, Trouble } from "../../ui/states";
import { useSay } from "../../ui/vocabulary";
import { dayWords } from "../../ui/words";

const dateWords = (iso: string) =>
  new Date(`${iso}T12:00:00`).toLocaleDateString("en", {
    weekday: "short",
    day: "numeric",
    month: "short",
    year: "numeric",
  });

/** Lessons, days off, due days. */
export function CalendarPage() {
  const calendar = useQuery({ queryKey: ["calendar"], queryFn: () => answer(api.GET("/api/calendar")) });
  const say = useSay();
  if (calendar.isPending) return <Loading what="Opening the calendar" />;
  if (calendar.isError) return <Trouble error={calendar.error} again={() => void calendar.refetch()} />;
  const { lessons, breaks, due, today } = calendar.data;
  return (
    <Box sx={{ maxWidth: 980, display: "grid", gap: 3 }}>
      <Box sx={{ display: "flex", flexWrap: "wrap", alignItems: "center", gap: 1.5 }}>
        <Typography variant="h1" sx={{ flexGrow: 1 }}>
          Calendar
        </Typography>
        <Button component={Link} to="/outbox">
          Outbox
        </Button>
        <Button variant="outlined" component="a" href="/api/calendar.ics" download="studio.ics">
          As iCalendar
        </Button>
      </Box>
      <Lessons lessons={lessons} today={today} />
      <Breaks breaks={breaks} today={today} />
      <Box component="section" aria-label="Due days">
        <Typography variant="h2">What is due</Typography>
        {due.length === 0 && <Typography>Nothing is due from today on.</Typography>}
        <Box component="ul" sx={{ m: 0, pl: 3 }}>
          {due.map((own) => (
            <li key={own.day}>
              <b>{dayWords(own.day)}</b>: {own.titles.map(say).join("; ")}
            </li>
          ))}
        </Box>
      </Box>
    </Box>
  );
}

function Lessons({ lessons, today }: { lessons: Schemas["LessonOut"][]; today: string }) {
  const queries = useQueryClient();
  const classes = useClasses().data?.classes ?? [];
  const [fields, setFields] = useState({
    class_id: "",
    day: today,
    starts: "10:00",
    minutes: 45,
    weekly: true,
    until: "",
    place: "",
  });
  const put = (part: Partial<typeof fields>) => setFields((before) => ({ ...before, ...part }));
  const refresh = () => void queries.invalidateQueries({ queryKey: ["calendar"] });
  const add = useMutation({
    mutationFn: () =>
      answer(
        api.POST("/api/lessons", {
          body: {
            class_id: fields.class_id || classes[0]!.id,
            day: fields.day,
            starts: fields.starts,
            minutes: fields.minutes,
            until: fields.weekly && fields.until ? fields.until : null,
            place: fields.place,
          },
        }),
      ),
    onSuccess: refresh,
  });
  const drop = useMutation({
    mutationFn: (id: string) => answer(api.DELETE("/api/lessons/{id}", { params: { path: { id } } })),
    onSettled: refresh,
  });
  return (
    <Box component="section" aria-label="Lessons">
      <Typography variant="h2">Lessons</Typography>
      <Paper component="ul" sx={{ listStyle: "none", m: 0, p: 0, mb: 1.5 }}>
        {lessons.length === 0 && (
          <Typography component="li" sx={{ p: 1.5 }}>
            No lessons yet. With them, a new sheet is due at the next one.
          </Typography>
        )}
        {lessons.map((own) => (
          <Box
            component="li"
            key={own.id}
            sx={{
              display: "flex",
              flexWrap: "wrap",
              gap: 1.5,
              alignItems: "center",
              p: 1.25,
              borderTop: 1,
              borderColor: "divider",
              "&:first-of-type": { borderTop: 0 },
            }}
          >
            <Box sx={{ flex: "1 1 320px" }}>
              <b>{own.class_name}</b>, {own.starts.slice(0, 5)}, {own.minutes} minutes{own.place && `, ${own.place}`}
              <Typography sx={{ color: "text.secondary" }}>
                {own.until ? `every week until ${dateWords(own.until)}` : `once, ${dateWords(own.day)}`}
                {own.next_on ? ` · next: ${dayWords(own.next_on)}` : " · over"}
              </Typography>
            </Box>
            <Button
              size="small"
              onClick={() => drop.mutate(own.id)}
              aria-label={`Strike out the lesson of ${own.class_name}`}
            >
              Strike out
            </Button>
          </Box>
        ))}
      </Paper>
      {classes.length === 0 ? (
        <Typography>
          A lesson is of a class: <Link to="/people">make one first</Link>.
        </Typography>
      ) : (
        <Box
          component="form"
          aria-label="New lesson"
          onSubmit={(event: React.FormEvent) => {
            event.preventDefault();
            add.mutate();
          }}
          sx={{ display: "flex", flexWrap: "wrap", gap: 1.5, alignItems: "center" }}
        >
          <TextField
            select
            size="small"
            label="Class"
            value={fields.class_id || classes[0]!.id}
            onChange={(event) => put({ class_id: event.target.value })}
            sx={{ minWidth: 180 }}
          >
            {classes.map((group) => (
              <MenuItem key={group.id} value={group.id}>
                {group.name}
              </MenuItem>
            ))}
          </TextField>
          <TextField
            size="small"
            type="date"
            label="First day"
            required
            value={fields.day}
            onChange={(event) => put({ day: event.target.value })}
            slotProps={{ inputLabel: { shrink: true } }}
          />
          <TextField
            size="small"
            type="time"
            label="Begins"
            required
            value={fields.starts}
            onChange={(event) => put({ starts: event.target.value })}
            slotProps={{ inputLabel: { shrink: true } }}
          />
          <TextField
            size="small"
            type="number"
            label="Minutes"
            required
            value={fields.minutes}
            onChange={(event) => put({ minutes: Number(event.target.value) })}
            slotProps={{ htmlInput: { min: 5, max: 480 } }}
            sx={{ width: 100 }}
          />
          <FormControlLabel
            control={<Checkbox checked={fields.weekly} onChange={(_, weekly) => put({ weekly })} />}
            label="every week until"
          />
          <TextField
            size="small"
            type="date"
            label="Last day"
            required={fields.weekly}
            disabled={!fields.weekly}
            value={fields.until}
            onChange={(event) => put({ until: event.target.value })}
            slotProps={{ inputLabel: { shrink: true }, htmlInput: { min: fields.day } }}
          />
          <TextField
            size="small"
            label="Where"
            value={fields.place}
            onChange={(event) => put({ place: event.target.value })}
          />
          <Button type="submit" variant="outlined" disabled={add.isPending}>
            Put it in
          </Button>
        </Box>
      )}
      {(add.error ?? drop.error) && <Note>{(add.error ?? drop.error)!.message}</Note>}
    </Box>
  );
}

function Breaks({ breaks, today }: { breaks: Schemas["BreakOut"][]; today: string }) {
  const queries = useQueryClient();
  const [fields, setFields] = useState({ name: "", first_day: today, last_day: today });
  const put = (part: Partial<typeof fields>) => setFields((before) => ({ ...before, ...part }));
  const refresh = () => void queries.invalidateQueries({ queryKey: ["calendar"] });
  const add = useMutation({
    mutationFn: () => answer(api.POST("/api/breaks", { body: fields })),
    onSuccess: () => {
      put({ name: "" });
      refresh();
    },
  });
  const drop = useMutation({
    mutationFn: (id: string) => answer(api.DELETE("/api/breaks/{id}", { params: { path: { id } } })),
    onSettled: refresh,
  });
  return (
    <Box component="section" aria-label="Days off">
      <Typography variant="h2">Days off</Typography>
      <Typography sx={{ color: "text.secondary" }}>
        No lessons, no reminders, and nothing is wanted of anybody.
      </Typography>
      <Box component="ul" sx={{ listStyle: "none", m: 0, p: 0, mb: 1 }}>
        {breaks.map((own) => (
          <Box component="li" key={own.id} sx={{ display: "flex", gap: 1.5, alignItems: "center" }}>
            <span>
              <b>{own.name}</b>, {dateWords(own.first_day)} to {dateWords(own.last_day)}
            </span>
            <Button size="small" onClick={() => drop.mutate(own.id)} aria-label={`Strike out ${own.name}`}>
              Strike out
            </Button>
          </Box>
        ))}
      </Box>
      <Box
        component="form"
        aria-label="New days off"
        onSubmit={(event: React.FormEvent) => {
          event.preventDefault();
          add.mutate();
        }}
        sx={{ display: "flex", flexWrap: "wrap", gap: 1.5, alignItems: "center" }}
      >
        <TextField
          size="small"
          label="What they are called"
          required
          value={fields.name}
          onChange={(event) => put({ name: event.target.value })}
          slotProps={{ htmlInput: { maxLength: 80 } }}
        />
        <TextField
          size="small"
          type="date"
          label="From"
          required
          value={fields.first_day}
          onChange={(event) => put({ first_day: event.target.value })}
          slotProps={{ inputLabel: { shrink: true } }}
        />
        <TextField
          size="small"
          type="date"
          label="To"
          required
          value={fields.last_day}
          onChange={(event) => put({ last_day: event.target.value })}
          slotProps={{ inputLabel: { shrink: true }, htmlInput: { min: fields.first_day } }}
        />
        <Button type="submit" variant="outlined" disabled={add.isPending}>
          Put them in
        </Button>
      </Box>
      {(add.error ?? drop.error) && <Note>{(add.error ?? drop.error)!.message}</Note>}
    </Box>
  );
}
