import Box from "@mui/material/Box";
import Paper from "@mui/material/Paper";
import Typography from "@mui/material/Typography";

import type { Schemas } from "../../../api/client";
import { useSay } from "../../../ui/vocabulary";
import { dayWords } from "../../../ui/words";

type Week = Schemas["HabitWeek"];

const mmWords = (mm: number) =>
  Math.abs(mm) < 0.05 ? "in place" : `${Math.abs(mm)} mm towards the ${mm > 0 ? "bridge" : "scroll"}`;

const weekWords = (week: Week) =>
  week.takes === 0 ? "not heard" : `${week.takes} of ${week.of}${week.mm === null ? "" : `, ${mmWords(week.mm)}`}`;

/** Habits that came and went, week by week, in millimetres where the hand is the cause. */
export function Habits({ habits }: { habits: Schemas["Habit"][] }) {
  const say = useSay();
  const weeks = habits[0]!.weeks.map((week) => week.monday);
  return (
    <Paper component="section" aria-label="Habits" sx={{ p: 2, gridColumn: "1 / -1", overflowX: "auto" }}>
      <Typography variant="h2">Habits, week by week</Typography>
      <Typography sx={{ color: "text.secondary", mb: 1 }}>
        In how many takes of a week it was heard, and where the finger stood.
      </Typography>
      <Box component="table" sx={{ borderCollapse: "collapse", "& td, & th": { p: 0.75, pr: 2, textAlign: "left" } }}>
        <thead>
          <tr>
            <th scope="col">Week of</th>
            {weeks.map((monday) => (
              <Box component="th" scope="col" key={monday} sx={{ fontWeight: 500, whiteSpace: "nowrap" }}>
                {dayWords(monday)}
              </Box>
            ))}
          </tr>
        </thead>
        <tbody>
          {habits.map((habit) => (
            <Box component="tr" key={`${habit.kind} ${habit.title}`} sx={{ borderTop: 1, borderColor: "divider" }}>
              <Box component="th" scope="row" sx={{ fontWeight: 700 }}>
                {say(habit.title)}
              </Box>
              {habit.weeks.map((week) => (
                <Box
                  component="td"
                  key={week.monday}
                  sx={{
                    whiteSpace: "nowrap",
                    color: week.takes ? "text.primary" : "text.secondary",
                    fontSize: "0.95rem",
                  }}
                >
                  {weekWords(week)}
                </Box>
              ))}
            </Box>
          ))}
        </tbody>
      </Box>
    </Paper>
  );
}
