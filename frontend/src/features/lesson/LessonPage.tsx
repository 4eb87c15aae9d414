import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { Link, useSearchParams } from "react-router";

import { answer, api } from "../../api/client";
import type { Person } from "../../app/session";
import { ClassChoice, useClasses } from "../../ui/ClassChoice";
import { Few } from "../../ui/Few";
import { useShortcuts } from "../../ui/shortcuts";
import { Empty, Loading, Trouble } from "../../ui/states";
import { useSay } from "../../ui/vocabulary";
import { instrumentWords } from "../../ui/words";
import { BigLine } from "./BigLine";
import { RecordOne } from "./RecordOne";

/** On a screen in the room: today's warm-ups one after the other, large, for every instrument in turn. */
export function LessonPage({ person }: { person: Person }) {
  const [params, setParams] = useSearchParams();
  const classId = params.get("class_id") ?? "";
  const say = useSay();
  const classes = useClasses();
  const week = useQuery({ queryKey: ["week"], queryFn: () => answer(api.GET("/api/week")) });
  const [at, setAt] = useState(0);
  const [instrument, setInstrument] = useState<string | null>(null);
  const [recording, setRecording] = useState(false);
  const group = classes.data?.classes.find((own) => own.id === classId);
  const members = useMemo(
    () => (group ? new Set([...group.pupils, ...group.guests].map((pupil) => pupil.id)) : null),
    [group],
  );
  const current = useMemo(
    () =>
      (week.data?.assignments ?? [])
        .filter((own) => own.due_on >= week.data!.today)
        .map((own) => ({
          ...own,
          standings: own.standings.filter((standing) => !members || members.has(standing.pupil_id)),
        }))
        .filter((own) => own.standings.length > 0)
        .reverse(),
    [week.data, members],
  );
  const own = current[Math.min(at, current.length - 1)];
  const instruments = Object.keys(instrumentWords).filter((key) =>
    own?.standings.some((standing) => standing.instrument === key),
  );
  const shown = instrument && instruments.includes(instrument) ? instrument : instruments[0];
  const turn = (by: number) => {
    setAt((before) => Math.max(0, Math.min(current.length - 1, before + by)));
    setRecording(false);
  };
  useShortcuts(
    useMemo(
      () => ({
        ArrowRight: () => turn(1),
        ArrowLeft: () => turn(-1),
        i: () => {
          const next = instruments[(instruments.indexOf(shown ?? "") + 1) % Math.max(instruments.length, 1)];
          if (next) setInstrument(next);
        },
      }),
      // eslint-disable-next-line react-hooks/exhaustive-deps -- made anew with what they act on
      [current.length, shown, own?.id],
    ),
  );
  if (week.isPending || classes.isPending) return <Loading what="Opening the lesson" />;
  if (week.isError) return <Trouble error={week.error} again={() => void week.refetch()} />;
  return (
    <>
      <Box sx={{ display: "flex", flexWrap: "wrap", alignItems: "center", gap: 2, mb: 2 }}>
        <Typography variant="h1" sx={{ flexGrow: 1 }}>
          In the lesson
        </Typography>
        <ClassChoice
          value={classId}
          onPick={(id) => {
            setAt(0);
            setParams(id ? { class_id: id } : {}, { replace: true });
          }}
        />
      </Box>
      {!own || !shown ? (
        <Empty title="Nothing is set for now.">
          <Typography sx={{ mb: 2 }}>What is set, and not past its day, is shown here one by one.</Typography>
          <Button variant="contained" component={Link} to="/sheets">
            Write a week’s sheet
          </Button>
        </Empty>
      ) : (
        <>
          <Box sx={{ display: "flex", flexWrap: "wrap", alignItems: "center", gap: 2, mb: 2 }}>
            <Button variant="outlined" disabled={at === 0} onClick={() => turn(-1)} aria-label="The warm-up before">
              ←
            </Button>
            <Typography sx={{ color: "text.secondary" }}>
              {Math.min(at, current.length - 1) + 1} of {current.length}
            </Typography>
            <Button
              variant="outlined"
              disabled={at >= current.length - 1}
              onClick={() => turn(1)}
              aria-label="The next warm-up"
            >
              →
            </Button>
            <Typography
              component="h2"
              sx={{ fontSize: { xs: "1.3rem", md: "1.8rem" }, fontWeight: 700, flex: "1 1 300px" }}
            >
              {say(own.title)}
            </Typography>
            {instruments.length > 1 && (
              <Few
                label="Instrument"
                value={shown}
                values={instruments.map((key) => [key, instrumentWords[key]!])}
                onPick={setInstrument}
              />
            )}
          </Box>
          {own.note && <Typography sx={{ fontSize: "1.3rem", mb: 1 }}>“{own.note}”</Typography>}
          <BigLine key={`${own.id} ${shown}`} assignment={own} instrument={shown} />
          <Box sx={{ mt: 2 }}>
            {recording ? (
              <RecordOne person={person} assignment={own} onClose={() => setRecording(false)} />
            ) : (
              <Button variant="outlined" onClick={() => setRecording(true)}>
                Record one pupil
              </Button>
            )}
          </Box>
        </>
      )}
    </>
  );
}
