import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Paper from "@mui/material/Paper";
import Typography from "@mui/material/Typography";
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";

import { answer, api, type Schemas } from "../../api/client";
import type { Person } from "../../app/session";
import { colours } from "../../app/theme";
import { useWidth } from "../../music/useWidth";
import { Empty, Loading, Trouble } from "../../ui/states";
import { useSay } from "../../ui/vocabulary";
import { dayWords, verdictWords } from "../../ui/words";
import { useWeekKept } from "./useWeekKept";
import { WaitingTakes } from "./WaitingTakes";
import { WeekStrip } from "./WeekStrip";

/** What is set for today: the next thing to do first, and large. */
export function Today({ person }: { person: Person }) {
  const today = useQuery({ queryKey: ["today"], queryFn: () => answer(api.GET("/api/today")) });
  const { ref, width } = useWidth<HTMLDivElement>();
  useWeekKept(today.data?.items, width);
  if (today.isPending) return <Loading what="Looking at today" />;
  if (today.isError) return <Trouble error={today.error} again={() => void today.refetch()} />;
  const { items } = today.data;
  return (
    <div ref={ref}>
      <WaitingTakes person={person} />
      {items.length === 0 ? (
        <Empty title="Nothing is set today.">
          <Typography>Your teacher puts warm-ups here. Until then: play something that you like.</Typography>
        </Empty>
      ) : (
        <>
          <Typography variant="h1" sx={{ fontSize: "2rem", mb: 2 }}>
            Today
          </Typography>
          <WeekStrip week={today.data.week} today={today.data.today} />
          <Box sx={{ display: "grid", gap: 2 }}>
            {items.map((item, at) => (
              <Item
                key={item.assignment_id}
                item={item}
                first={at === 0 && !item.accepted}
                past={item.due_on < today.data.today}
              />
            ))}
          </Box>
        </>
      )}
    </div>
  );
}

function Item({ item, first, past }: { item: Schemas["TodayItem"]; first: boolean; past: boolean }) {
  const say = useSay();
  return (
    <Paper
      component="section"
      sx={{
        p: { xs: 2, sm: 3 },
        borderRadius: 2,
        borderWidth: first ? 2 : 1,
        borderColor: first ? colours.spruce : colours.line,
      }}
    >
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 2, alignItems: "center" }}>
        <Box sx={{ flex: "1 1 320px" }}>
          <Typography variant="h1" component="h2" sx={{ fontSize: first ? "1.7rem" : "1.35rem" }}>
            {say(item.title)}
          </Typography>
          <Typography sx={{ fontSize: "1.1rem", color: "text.secondary" }}>
            {past ? "was for" : "for"} {dayWords(item.due_on)} · up to {item.target_bpm}
          </Typography>
          {item.note && <Typography sx={{ fontSize: "1.15rem", mt: 0.5 }}>“{item.note}”</Typography>}
          {!item.accepted && <Goes done={item.good_today} wanted={item.wanted_today} />}
          {!item.accepted && item.takes > 0 && !item.handed_in && (
            <Typography sx={{ fontSize: "1.05rem", mt: 0.5 }}>
              Nothing of it is with your teacher yet: hand in the go that you like best.
            </Typography>
          )}
        </Box>
        <Button
          component={Link}
          to={`/practice/${item.assignment_id}`}
          variant={first ? "contained" : "outlined"}
          size="large"
          sx={{ fontSize: "1.25rem", px: 4, minHeight: 60 }}
        >
          {item.accepted ? "Play it again" : "Play"}
        </Button>
      </Box>
      {item.last_mark && (
        <Typography
          sx={{
            borderLeft: `3px solid ${item.last_mark.verdict === "accepted" ? colours.spruce : colours.lantern}`,
            pl: 1.5,
            mt: 2,
            fontSize: "1.1rem",
          }}
        >
          <b>{verdictWords(item.last_mark.verdict)}.</b> {item.last_mark.remark}
        </Typography>
      )}
    </Paper>
  );
}

/** Good goes of today as small nests: filled as they come, never counted against anybody. */
function Goes({ done, wanted }: { done: number; wanted: number }) {
  if (wanted === 0)
    return (
      <Typography sx={{ fontSize: "1.05rem", mt: 1.5 }}>
        {done > 0 ? "That was more than today asked for." : "Not for today. Play it if you like."}
      </Typography>
    );
  const shown = Math.min(wanted, 12);
  return (
    <Box sx={{ display: "flex", alignItems: "center", gap: 1, mt: 1.5, flexWrap: "wrap" }}>
      <svg width={shown * 26} height="24" role="img" aria-label={`${done} of ${wanted} good goes today`}>
        {Array.from({ length: shown }, (_, at) => (
          <g key={at}>
            <circle
              cx={at * 26 + 12}
              cy="12"
              r="9.5"
              fill={at < done ? colours.moss : "none"}
              stroke={colours.ring}
              strokeWidth="1.6"
            />
            {at < done && <circle cx={at * 26 + 12} cy="12" r="4" fill={colours.spruce} />}
          </g>
        ))}
      </svg>
      <Typography sx={{ fontSize: "1.05rem" }}>
        {done >= wanted
          ? "All good goes for today are in."
          : `${wanted - done} good ${wanted - done === 1 ? "go" : "goes"} to come`}
      </Typography>
    </Box>
  );
}
