import { colours } from "../app/theme";

/** The mark: two nests as eyes. The only owl. */
export function Mark({ size = 18 }: { size?: number }) {
  return (
    <svg width={(size * 34) / 18} height={size} viewBox="0 0 34 18" aria-hidden="true">
      <g fill={colours.card} stroke={colours.spruce} strokeWidth="2">
        <circle cx="9" cy="9" r="7.5" />
        <circle cx="25" cy="9" r="7.5" />
      </g>
      <g fill={colours.lantern}>
        <circle cx="10" cy="8" r="2.4" />
        <circle cx="24" cy="10" r="2.4" />
      </g>
    </svg>
  );
}
