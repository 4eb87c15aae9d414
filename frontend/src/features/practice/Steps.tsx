import Box from "@mui/material/Box";
import ButtonBase from "@mui/material/ButtonBase";

import { colours } from "../../app/theme";
import type { At } from "./asked";

const NAMES: [At | "see", string][] = [
  ["ready", "Get ready"],
  ["hear", "Hear it"],
  ["play", "Play it"],
  ["see", "See it"],
];

interface Props {
  at: At | "see";
  /** Where a step can be gone to. */
  onGo?: (at: At) => void;
}

/** The way through one exercise; every step but the last can be gone to at any time. */
export function Steps({ at, onGo }: Props) {
  const place = NAMES.findIndex(([own]) => own === at);
  return (
    <Box
      component="ol"
      aria-label="Steps"
      sx={{
        display: "grid",
        gridTemplateColumns: "repeat(4, 1fr)",
        gap: { xs: 0.5, sm: 1 },
        listStyle: "none",
        p: 0,
        m: 0,
        mb: 2,
      }}
    >
      {NAMES.map(([own, name], here) => (
        <Box component="li" key={own}>
          <ButtonBase
            disabled={!onGo || own === "see"}
            aria-current={own === at ? "step" : undefined}
            onClick={() => own !== "see" && onGo?.(own)}
            sx={{
              width: "100%",
              minHeight: 48,
              fontFamily: "body1.fontFamily",
              fontSize: { xs: "0.95rem", sm: "1.1rem" },
              fontWeight: own === at ? 700 : 400,
              color: own === at ? colours.ink : colours.quiet,
              borderBottom: `6px solid ${here < place ? colours.spruce : own === at ? colours.lantern : colours.line}`,
              "&:focus-visible": { outline: `3px solid ${colours.lantern}`, outlineOffset: 2 },
            }}
          >
            {name}
          </ButtonBase>
        </Box>
      ))}
    </Box>
  );
}
