import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";

import { answer, api, type Schemas } from "../../api/client";
import { colours } from "../../app/theme";
import { Empty, Loading, Trouble } from "../../ui/states";
import { useSay } from "../../ui/vocabulary";
import { dayWords } from "../../ui/words";
import { Days } from "./Days";
import { ThenAndNow } from "./ThenAndNow";
import { WayPicture } from "./WayPicture";

/** What was practised, and how it went on: the pupil's own, and set beside nobody else's. */
export function RecordPage() {
  const record = useQuery({ queryKey: ["record"], queryFn: () => answer(api.GET("/api/record")) });
  if (record.isPending) return <Loading what="Looking back" />;
  if (record.isError) return <Trouble error={record.error} again={() => void record.refetch()} />;
  const { days, ways, favourites, passed } = record.data;
  if (!days.length && !passed.length)
    return (
      <>
        <Typography variant="h1" sx={{ fontSize: "2rem" }}>
          My record
        </Typography>
        <Empty title="Nothing is recorded yet.">
          <Typography>What you play is kept here, day by day, so that you can hear how it grew.</Typography>
        </Empty>
      </>
    );
  const goes = days.reduce((sum, day) => sum + day.goes, 0);
  return (
    <>
      <Typography variant="h1" sx={{ fontSize: "2rem", mb: 1 }}>
        My record
      </Typography>
      <Typography sx={{ fontSize: "1.2rem", mb: 2 }}>
        {goes} {goes === 1 ? "go" : "goes"} on {days.length} {days.length === 1 ? "day" : "days"} in twelve weeks.
      </Typography>
      <Days days={days} since={record.data.since} />
      {passed.length > 0 && <Passed passed={passed} />}
      {favourites.length > 0 && <Favourites favourites={favourites} />}
      {ways.length > 0 && (
        <Typography sx={{ color: "text.secondary", mt: 3 }}>
          A nest for each go through a whole line: the fuller, the more notes were home; higher is faster; a good go has
          a frame.
        </Typography>
      )}
      {ways.map((way) => (
        <Way key={way.exercise_id} way={way} />
      ))}
    </>
  );
}

function Passed({ passed }: { passed: Schemas["PassedStepOut"][] }) {
  const say = useSay();
  return (
    <Box component="section" aria-label="Passed" sx={{ mt: 3 }}>
      <Typography variant="h2" sx={{ fontSize: "1.3rem" }}>
        Passed
      </Typography>
      <Box component="ul" sx={{ m: 0, pl: 3, fontSize: "1.15rem" }}>
        {passed.map((own) => (
          <li key={own.title}>
            {say(own.title)}, {dayWords(own.on)}
          </li>
        ))}
      </Box>
    </Box>
  );
}

function Favourites({ favourites }: { favourites: Schemas["Favourite"][] }) {
  const say = useSay();
  return (
    <Box component="section" aria-label="Favourites" sx={{ mt: 3 }}>
      <Typography variant="h2" sx={{ fontSize: "1.3rem" }}>
        Favourites
      </Typography>
      <Box component="ul" sx={{ listStyle: "none", p: 0, m: 0 }}>
        {favourites.map((own) => (
          <Box component="li" key={own.id}>
            <Box
              component={Link}
              to={`/takes/${own.id}`}
              sx={{ color: colours.spruce, display: "inline-block", py: 1.25, fontSize: "1.15rem" }}
            >
              {say(own.title)}, {dayWords(own.recorded_at)}
            </Box>
          </Box>
        ))}
      </Box>
    </Box>
  );
}

function Way({ way }: { way: Schemas["WayWithExercise"] }) {
  const say = useSay();
  const good = way.goes.filter((own) => own.good).length;
  const first = way.goes[0]!;
  const last = way.goes.at(-1)!;
  return (
    <Box component="section" aria-label={say(way.title)} sx={{ mt: 4, borderTop: `1px solid ${colours.line}`, pt: 2 }}>
      <Typography variant="h2" sx={{ fontSize: "1.3rem" }}>
        {say(way.title)}
        {way.passed && " · passed"}
      </Typography>
      <Typography sx={{ fontSize: "1.1rem", mb: 1 }}>
        {way.goes.length} {way.goes.length === 1 ? "go" : "goes"}
        {good > 0 && `, ${good} good`}
        {way.reached_bpm !== null && `; clean up to ${Math.round(way.reached_bpm)}`}.
      </Typography>
      <WayPicture goes={way.goes} />
      {dayWords(first.recorded_at) !== dayWords(last.recorded_at) && <ThenAndNow first={first} last={last} />}
    </Box>
  );
}
