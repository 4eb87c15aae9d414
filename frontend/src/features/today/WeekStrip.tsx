import Box from "@mui/material/Box";

import type { Schemas } from "../../api/client";
import { colours } from "../../app/theme";

type Day = Schemas["PlanDay"];

const LARGEST = 15;
const SMALLEST = 4;

/**
 * Monday to Sunday: a nest for each day, filled where something was played, its egg as large as what was good; what is to come
 * stands in it.
 */
export function WeekStrip({ week, today }: { week: Day[]; today: string }) {
  const most = Math.max(...week.map((day) => Math.max(day.good, day.wanted ?? 0)), 1);
  return (
    <Box
      component="ol"
      aria-label="This week"
      sx={{ display: "grid", gridTemplateColumns: "repeat(7, minmax(0, 1fr))", p: 0, m: 0, mb: 2, listStyle: "none" }}
    >
      {week.map((day) => {
        const own = day.day === today;
        const radius = day.good ? SMALLEST + (LARGEST - SMALLEST) * Math.min(day.good / most, 1) : 0;
        return (
          <Box
            component="li"
            key={day.day}
            aria-current={own ? "date" : undefined}
            aria-label={words(day, own)}
            sx={{ textAlign: "center" }}
          >
            <Box component="span" aria-hidden="true" sx={{ fontWeight: own ? 700 : 400, display: "block" }}>
              {name(day.day, "short")}
            </Box>
            <svg width="44" height="44" viewBox="-22 -22 44 44" aria-hidden="true">
              <circle
                r="18"
                fill={day.goes ? colours.moss : "none"}
                stroke={own ? colours.lantern : colours.ring}
                strokeWidth={own ? 2.5 : 1.5}
                strokeDasharray={!day.goes && day.wanted ? "4 4" : undefined}
              />
              {radius > 0 && <circle r={radius} fill={colours.spruce} />}
              {!day.good && !!day.wanted && (
                <text y="6" textAnchor="middle" fontSize="16" fill={colours.quiet}>
                  {day.wanted}
                </text>
              )}
            </svg>
          </Box>
        );
      })}
    </Box>
  );
}

const name = (day: string, length: "short" | "long") =>
  new Date(`${day}T12:00`).toLocaleDateString(undefined, { weekday: length });

function words(day: Day, today: boolean): string {
  const said = `${today ? "Today, " : ""}${name(day.day, "long")}: `;
  const played = `${day.goes} ${day.goes === 1 ? "go" : "goes"}, ${day.good} good`;
  if (day.wanted === null) return said + (day.goes ? played : "free");
  if (day.wanted === 0) return said + (day.goes ? played : "nothing set");
  return `${said}${day.good} of ${day.wanted} good goes`;
}
