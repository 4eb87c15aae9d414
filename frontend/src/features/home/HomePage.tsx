import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";

import { answer, api, type Schemas } from "../../api/client";
import { colours } from "../../app/theme";
import { Loading, Note, Trouble } from "../../ui/states";
import { useSay } from "../../ui/vocabulary";
import { dayWords, instrumentWords } from "../../ui/words";
import { WeekStrip } from "../today/WeekStrip";

/** For the adult at home, who need not read music: the week, what to do at the instrument, how to tune, how long. */
export function HomePage() {
  const say = useSay();
  const home = useQuery({ queryKey: ["home"], queryFn: () => answer(api.GET("/api/home")) });
  if (home.isPending) return <Loading what="Fetching the week" />;
  if (home.isError) return <Trouble error={home.error} again={() => void home.refetch()} />;
  const own = home.data;
  return (
    <Box sx={{ maxWidth: 760 }}>
      <Box sx={{ display: "flex", alignItems: "baseline", gap: 2, flexWrap: "wrap", mb: 1 }}>
        <Typography variant="h1" sx={{ flexGrow: 1 }}>
          For the adult at home
        </Typography>
        <Button variant="outlined" component="a" href="/api/home.pdf" target="_blank" rel="noopener">
          One sheet to print
        </Button>
        <Button component="a" href="/api/own-calendar.ics" download="lessons.ics">
          Lessons for your calendar
        </Button>
      </Box>
      <Typography sx={{ fontSize: "1.15rem", mb: 2 }}>
        {own.minutes_today > 0
          ? `About ${own.minutes_today} minutes today. Little and often: a short time on most days is worth more than a long one on Sunday.`
          : "Nothing is set for today. Playing for pleasure is always right."}
      </Typography>
      {!own.may_record && (
        <Note>
          {own.name} may practise and listen, but not record, until an adult has said yes. The teacher writes it down.
        </Note>
      )}
      <WeekStrip week={own.week} today={own.today} />
      <Part title="What there is to do">
        {own.items.length === 0 ? (
          <Typography>Nothing is set at present.</Typography>
        ) : (
          <Box component="ol" sx={{ pl: 3, m: 0 }}>
            {own.items.map((item) => (
              <Box component="li" key={`${item.title} ${item.due_on}`} sx={{ mb: 1.5 }}>
                <b>{say(item.title)}</b>
                <br />
                {item.due_on < own.today ? "An old friend: it comes back now and then." : howWords(item)}
                {item.note && (
                  <>
                    <br />
                    The teacher says: “{item.note}”
                  </>
                )}
              </Box>
            ))}
          </Box>
        )}
        <Typography sx={{ color: "text.secondary" }}>
          A good go is one that was right from start to end. A tempo below the target is a step on the way, not a fault.
        </Typography>
      </Part>
      <Part title="How you can help">
        <Typography>
          Be within earshot. Ask to hear the easy one first. Say one thing that you liked. When it will not go, let{" "}
          {say("the hard bar")} be played alone and slowly; when it still will not, stop for today. You need not read
          music: the page tells what to change.
        </Typography>
      </Part>
      <Part title={`At the ${instrumentWords[own.instrument]}`}>
        <Box component="ul" sx={{ pl: 3, m: 0 }}>
          {own.checklist.map((line) => (
            <li key={line}>{line}</li>
          ))}
        </Box>
      </Part>
      <Part title="Tuning">
        <Typography>
          The strings, from low to high: {own.strings.join(", ")}. Under “Get ready” the page hears each string while it
          is bowed, and says whether it is low or high.
        </Typography>
        <Typography>{own.tuning_care}</Typography>
      </Part>
      <Part title="With care">
        <Typography>{own.care}</Typography>
      </Part>
    </Box>
  );
}

function howWords(item: Schemas["HomeItem"]): string {
  const goes = item.wanted_today === 1 ? "go" : "goes";
  const wanted =
    item.wanted_today > 0 ? `${item.wanted_today} good ${goes} today (${item.good_today} so far)` : "not for today";
  const tempo =
    item.bpm < item.target_bpm
      ? `${Math.round(item.bpm)} now and up to ${Math.round(item.target_bpm)}`
      : Math.round(item.bpm);
  return `${wanted}, at ${tempo}; for ${dayWords(item.due_on)}.`;
}

function Part({ title, children }: { title: string; children: ReactNode }) {
  return (
    <Box
      component="section"
      aria-label={title}
      sx={{ borderTop: `1px solid ${colours.line}`, py: 2, fontSize: "1.1rem" }}
    >
      <Typography variant="h2" sx={{ fontSize: "1.2rem", mb: 0.5 }}>
        {title}
      </Typography>
      {children}
    </Box>
  );
}
