import { colours } from "../app/theme";
import { nestShape, REACH, type ReportNote } from "./nests";

/** All nests of a take laid over one another: its picture at one glance. */
export function TakePicture({ notes, size = 320 }: { notes: ReportNote[]; size?: number }) {
  const half = size / 2;
  const ring = half * 0.5;
  const heard = notes.filter((note) => note.status === "played" || note.status === "wrong_pitch").map(nestShape);
  const home = heard.filter((shape) => shape.state === "home").length;
  return (
    <svg
      viewBox={`-8 0 ${size + 16} ${size}`}
      role="img"
      aria-label={`${home} of ${notes.length} notes landed in the ring`}
      style={{ width: "100%", maxWidth: size, display: "block" }}
    >
      <line x1={34} y1={half} x2={size - 34} y2={half} stroke={colours.line} />
      <line x1={half} y1={24} x2={half} y2={size - 24} stroke={colours.line} />
      <circle cx={half} cy={half} r={ring} fill={colours.moss} stroke={colours.ring} strokeWidth="2.5" />
      <line x1={half - ring} y1={half} x2={half + ring} y2={half} stroke={colours.line} />
      <line x1={half} y1={half - ring} x2={half} y2={half + ring} stroke={colours.line} />
      {heard.map((shape) => (
        <circle
          key={shape.index}
          cx={half + (shape.dx / REACH) * ring * 1.7}
          cy={half + (shape.dy / REACH) * ring * 1.7}
          r="8"
          fill={shape.state === "home" ? colours.spruce : shape.state === "wrong" ? colours.card : colours.lantern}
          stroke={shape.state === "wrong" ? colours.lantern : colours.card}
          strokeWidth={shape.state === "wrong" ? 2 : 1}
          fillOpacity={0.9}
        />
      ))}
      <g fontSize="15" fill={colours.quiet} textAnchor="middle">
        <text x={half} y={17}>
          high
        </text>
        <text x={half} y={size - 7}>
          low
        </text>
        <text x={14} y={half + 5}>
          early
        </text>
        <text x={size - 14} y={half + 5}>
          late
        </text>
      </g>
    </svg>
  );
}
