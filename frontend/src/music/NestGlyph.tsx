import { colours } from "../app/theme";
import type { NestShape } from "./nests";

/** One nest, drawn around (cx, cy). */
export function NestGlyph({ shape, cx, cy, radius }: { shape: NestShape; cx: number; cy: number; radius: number }) {
  const dot = Math.max(2.6, radius * 0.32);
  const x = cx + shape.dx * radius;
  const y = cy + shape.dy * radius;
  switch (shape.state) {
    case "missed":
      return (
        <circle
          cx={cx}
          cy={cy}
          r={radius}
          fill="none"
          stroke={colours.plum}
          strokeWidth="1.6"
          strokeDasharray="3.5 3"
        />
      );
    case "unclear":
      return <circle cx={cx} cy={cy} r={radius} fill="url(#owl-hatch)" stroke={colours.plum} strokeWidth="1.4" />;
    case "home":
      return (
        <>
          <circle cx={cx} cy={cy} r={radius} fill={colours.moss} stroke={colours.ring} strokeWidth="1.4" />
          <circle cx={x} cy={y} r={dot} fill={colours.spruce} />
        </>
      );
    default:
      return (
        <>
          <circle cx={cx} cy={cy} r={radius} fill={colours.card} stroke={colours.ring} strokeWidth="1.4" />
          <line x1={cx} y1={cy} x2={x} y2={y} stroke={colours.lantern} strokeWidth="1.4" />
          {shape.state === "wrong" ? (
            // Another note altogether: an open dot, so that colour is not all that tells.
            <circle cx={x} cy={y} r={dot} fill={colours.card} stroke={colours.lantern} strokeWidth="1.8" />
          ) : (
            <circle cx={x} cy={y} r={dot} fill={colours.lantern} />
          )}
          {shape.clamped && <Tick x={x} y={y} dx={shape.dx} dy={shape.dy} size={dot + 2} />}
        </>
      );
  }
}

/** A short stroke across the stem's end: further out than drawn. */
function Tick({ x, y, dx, dy, size }: { x: number; y: number; dx: number; dy: number; size: number }) {
  const length = Math.hypot(dx, dy) || 1;
  const [ux, uy] = [dx / length, dy / length];
  const [px, py] = [x + ux * (size + 1), y + uy * (size + 1)];
  return (
    <line
      x1={px - uy * size}
      y1={py + ux * size}
      x2={px + uy * size}
      y2={py - ux * size}
      stroke={colours.lantern}
      strokeWidth="1.4"
    />
  );
}

/** Pattern of a nest that the ear is not sure of; once on a page that draws nests. */
export function HatchPattern() {
  return (
    <svg width="0" height="0" aria-hidden="true" style={{ position: "absolute" }}>
      <defs>
        <pattern id="owl-hatch" width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="5" height="5" fill={colours.card} />
          <line x1="0" y1="0" x2="0" y2="5" stroke={colours.plum} strokeWidth="1.6" />
        </pattern>
      </defs>
    </svg>
  );
}
