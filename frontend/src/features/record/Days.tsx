import Box from "@mui/material/Box";

import type { Schemas } from "../../api/client";
import { colours } from "../../app/theme";

const CELL = 30;
const LEFT = 44;
const TOP = 24;
const NAMES = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];

/** Twelve weeks, a column each: a nest for every day on which something was played, larger where it was more. An empty day is only paper. */
export function Days({ days, since }: { days: Schemas["PractisedDay"][]; since: string }) {
  const begin = mondayOf(new Date(`${since}T12:00`));
  const today = new Date();
  const weeks = Math.floor((today.getTime() - begin.getTime()) / 604_800_000) + 1;
  const most = Math.max(...days.map((day) => day.goes), 1);
  const width = LEFT + weeks * CELL;
  return (
    <Box sx={{ overflowX: "auto" }} tabIndex={0} role="group" aria-label="Days of practice">
      <svg width={width} height={TOP + 7 * CELL} role="img" aria-label={words(days)}>
        {NAMES.map((name, at) => (
          <text key={name} x="0" y={TOP + at * CELL + 20} fontSize="13" fill={colours.quiet}>
            {at % 2 === 0 ? name : ""}
          </text>
        ))}
        {Array.from({ length: weeks }, (_, week) => {
          const monday = new Date(begin.getTime() + week * 604_800_000);
          const first = monday.getDate() <= 7 || week === 0;
          return first ? (
            <text key={week} x={LEFT + week * CELL} y="14" fontSize="13" fill={colours.quiet}>
              {monday.toLocaleDateString("en", { month: "short" })}
            </text>
          ) : null;
        })}
        {days.map((own) => {
          const day = new Date(`${own.day}T12:00`);
          const week = Math.floor((day.getTime() - begin.getTime()) / 604_800_000);
          const x = LEFT + week * CELL + CELL / 2;
          const y = TOP + ((day.getDay() + 6) % 7) * CELL + CELL / 2;
          return (
            <g key={own.day}>
              <circle
                cx={x}
                cy={y}
                r={7 + 6 * (own.goes / most)}
                fill={colours.moss}
                stroke={colours.ring}
                strokeWidth="1.5"
              />
              {own.good > 0 && <circle cx={x} cy={y} r={3 + 4 * (own.good / most)} fill={colours.spruce} />}
              <title>{`${day.toLocaleDateString("en", { weekday: "long", day: "numeric", month: "long" })}: ${own.goes} goes, ${own.good} good`}</title>
            </g>
          );
        })}
      </svg>
    </Box>
  );
}

function mondayOf(day: Date): Date {
  const monday = new Date(day);
  monday.setDate(day.getDate() - ((day.getDay() + 6) % 7));
  return monday;
}

function words(days: Schemas["PractisedDay"][]): string {
  const last = days.at(-1)!;
  return `Practised on ${days.length} ${days.length === 1 ? "day" : "days"}, last on ${new Date(`${last.day}T12:00`).toLocaleDateString("en", { day: "numeric", month: "long" })}.`;
}
