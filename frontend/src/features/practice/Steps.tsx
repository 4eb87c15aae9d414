import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";

import { colours } from "../../app/theme";

const NAMES = ["Hear it", "Play it", "See it"];

/** Where one is on the way: hear, play, see. */
export function Steps({ at }: { at: 1 | 2 | 3 }) {
  return (
    <Box sx={{ display: "flex", alignItems: "center", gap: 1.5, mb: 2 }}>
      <Typography sx={{ fontWeight: 700 }}>
        Step {at} of 3: {NAMES[at - 1]}
      </Typography>
      <Box aria-hidden="true" sx={{ display: "flex", gap: 0.75 }}>
        {NAMES.map((name, place) => (
          <Box
            key={name}
            sx={{
              width: 34,
              height: 8,
              borderRadius: 4,
              bgcolor: place + 1 < at ? colours.spruce : place + 1 === at ? colours.lantern : colours.line,
            }}
          />
        ))}
      </Box>
    </Box>
  );
}
