import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import { LineChart } from "@mui/x-charts/LineChart";
import { Link } from "react-router";

import type { Schemas } from "../../../api/client";
import { colours } from "../../../app/theme";
import { dayWords } from "../../../ui/words";

const percent = (share: number) => Math.round(100 * share);

/**
 * Pitch, rhythm and tempo of one exercise, go by go. Lines are told apart by their marks and by being full, dashed or dotted, and the
 * table says the same in figures.
 */
export function StepPlot({ step }: { step: Schemas["StoryStep"] }) {
  const { goes } = step;
  const places = goes.map((_, at) => at + 1);
  const days = goes.map((go) => dayWords(go.recorded_at));
  const only = goes.length === 1 ? goes[0] : undefined;
  if (only)
    return (
      <Typography sx={{ mt: 1 }}>
        {dayWords(only.recorded_at)}: {percent(only.pitch_share)} % in tune, {percent(only.time_share)} % on time, at{" "}
        {Math.round(only.bpm)}. <Link to={`/listening/${only.take_id}`}>Hear it</Link>
      </Typography>
    );
  return (
    <>
      <Box
        aria-hidden="true"
        sx={{
          "& .MuiLineElement-root[data-series=time], & .MuiLineChart-line[data-series=time]": {
            strokeDasharray: "6 4",
          },
          "& .MuiLineElement-root[data-series=tempo], & .MuiLineChart-line[data-series=tempo]": {
            strokeDasharray: "1.5 5",
          },
        }}
      >
        <LineChart
          height={190}
          skipAnimation
          margin={{ left: 4, right: 4, top: 12, bottom: 4 }}
          xAxis={[
            {
              data: places,
              scaleType: "point",
              valueFormatter: (place: number) => days[place - 1] ?? "",
              tickLabelInterval: (_, at) => at === 0 || at === places.length - 1,
            },
          ]}
          yAxis={[
            { id: "share", min: 0, max: 100, valueFormatter: (value: number) => `${value} %`, width: 48 },
            {
              id: "bpm",
              position: "right",
              min: 30,
              max: Math.max(step.target_bpm, ...goes.map((go) => go.bpm)) + 10,
              width: 36,
            },
          ]}
          series={[
            {
              id: "pitch",
              label: "in tune",
              yAxisId: "share",
              data: goes.map((go) => percent(go.pitch_share)),
              color: colours.spruce,
              curve: "linear",
              shape: "circle",
              showMark: true,
            },
            {
              id: "time",
              label: "on time",
              yAxisId: "share",
              data: goes.map((go) => percent(go.time_share)),
              color: colours.plum,
              curve: "linear",
              shape: "square",
              showMark: true,
            },
            {
              id: "tempo",
              label: "tempo asked (right)",
              yAxisId: "bpm",
              data: goes.map((go) => go.bpm),
              color: colours.quiet,
              curve: "stepAfter",
              shape: "triangle",
              showMark: true,
            },
          ]}
        />
      </Box>
      <Box component="details" sx={{ overflowX: "auto" }}>
        <summary>In figures</summary>
        <Box component="table" sx={{ borderCollapse: "collapse", "& td, & th": { p: 0.5, pr: 2, textAlign: "left" } }}>
          <thead>
            <tr>
              {["Day", "In tune", "On time", "Tempo", "Good", ""].map((head) => (
                <th scope="col" key={head}>
                  {head}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {goes.map((go) => (
              <tr key={go.take_id}>
                <td>{dayWords(go.recorded_at)}</td>
                <td>{percent(go.pitch_share)} %</td>
                <td>{percent(go.time_share)} %</td>
                <td>{Math.round(go.bpm)}</td>
                <td>{go.good ? "yes" : "no"}</td>
                <td>
                  <Link to={`/listening/${go.take_id}`}>hear it</Link>
                </td>
              </tr>
            ))}
          </tbody>
        </Box>
      </Box>
    </>
  );
}
