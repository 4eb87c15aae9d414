import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";

import { colours } from "../../../app/theme";
import type { MicrophoneError, MicrophoneFault } from "../../../recording/microphone";

/** What is drawn beside the microphone for each fault. */
const SIGNS: Record<MicrophoneFault, string> = {
  refused: "M8 40 L40 8",
  none: "M8 8 L40 40 M40 8 L8 40",
  taken: "M30 30 h14 v14 h-14 z",
  unplugged: "M24 38 v4 M24 46 v2",
  calls: "M8 40 L40 8",
  failed: "M36 30 v8 M36 43 v1",
};

/** Why nothing is heard, and what to do, with a picture. */
export function MicrophoneHelp({ problem }: { problem: MicrophoneError }) {
  return (
    <Box
      role="alert"
      sx={{
        display: "flex",
        gap: 2,
        alignItems: "center",
        border: `2px solid ${colours.lantern}`,
        borderRadius: 2,
        p: 2,
        mt: 2,
      }}
    >
      <Picture sign={SIGNS[problem.fault]} />
      <Typography sx={{ fontSize: "1.2rem" }}>{problem.message}</Typography>
    </Box>
  );
}

/** The same for a microphone that works, and could be heard better. */
export function SoundHint({ words }: { words: string }) {
  return (
    <Box role="status" sx={{ display: "flex", gap: 1.5, alignItems: "center", justifyContent: "center" }}>
      <Picture sign="M36 30 v8 M36 43 v1" small />
      <Typography sx={{ fontSize: "1.15rem" }}>{words}</Typography>
    </Box>
  );
}

function Picture({ sign, small = false }: { sign: string; small?: boolean }) {
  const size = small ? 36 : 64;
  return (
    <svg width={size} height={size} viewBox="0 0 48 48" aria-hidden="true" style={{ flexShrink: 0 }}>
      <rect x="18" y="5" width="12" height="22" rx="6" fill={colours.moss} stroke={colours.ink} strokeWidth="2.5" />
      <path
        d="M12 20 v3 a12 12 0 0 0 24 0 v-3 M24 35 v7 M17 43 h14"
        fill="none"
        stroke={colours.ink}
        strokeWidth="2.5"
      />
      <path d={sign} fill="none" stroke={colours.lantern} strokeWidth="4" strokeLinecap="round" />
    </svg>
  );
}
