import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import IconButton from "@mui/material/IconButton";
import Slider from "@mui/material/Slider";
import Typography from "@mui/material/Typography";

import { colours } from "../app/theme";
import { clockWords } from "../ui/words";
import type { Player } from "./usePlayer";

interface Props {
  player: Player;
  src: string;
  name: string;
  /** Places worth hearing, in seconds. */
  spots?: number[];
  large?: boolean;
  /** The tempo is chosen elsewhere. */
  ownTempo?: boolean;
  /** In a row with other things: no figures, and the sound is fetched when it is wanted. */
  compact?: boolean;
}

const SPEEDS = [1, 0.75, 0.5];

/** The one player: a round button, the line of time, slower at the same pitch. */
export function PlayerBar({ player, src, name, spots = [], large = false, ownTempo = false, compact = false }: Props) {
  const { attach, playing, time, duration, rate, failed, toggle, seek, setRate } = player;
  const size = large ? 64 : compact ? 34 : 42;
  return (
    <Box sx={{ display: "flex", alignItems: "center", gap: 2, flexWrap: "wrap", flexGrow: 1 }}>
      <audio ref={attach} src={src} preload={compact ? "none" : "auto"} />
      <IconButton
        onClick={toggle}
        aria-label={playing ? `Stop ${name}` : `Play ${name}`}
        sx={{
          width: size,
          height: size,
          bgcolor: colours.ink,
          color: colours.card,
          "&:hover": { bgcolor: colours.spruce },
          "&:focus-visible": { outline: `3px solid ${colours.lantern}`, outlineOffset: 2 },
        }}
      >
        <svg width={size * 0.4} height={size * 0.4} viewBox="0 0 16 16" aria-hidden="true">
          {playing ? (
            <path d="M3 2h3.5v12H3zM9.5 2H13v12H9.5z" fill="currentColor" />
          ) : (
            <path d="M4 1.5v13l10-6.5z" fill="currentColor" />
          )}
        </svg>
      </IconButton>
      <Slider
        aria-label={`Place in ${name}`}
        value={Math.min(time, duration || 0)}
        max={duration || 1}
        step={0.05}
        marks={spots.map((value) => ({ value }))}
        onChange={(_, value) => seek(value)}
        getAriaValueText={clockWords}
        sx={{
          flex: compact ? "1 1 80px" : "1 1 160px",
          "& .MuiSlider-rail": { opacity: 1, bgcolor: colours.line, height: 6 },
          "& .MuiSlider-track": { height: 6, border: 0 },
          "& .MuiSlider-thumb": { width: 14, height: 14 },
          "& .MuiSlider-mark": { width: 3, height: 14, bgcolor: colours.lantern, opacity: 1 },
        }}
      />
      {!compact && (
        <>
          <Typography sx={{ minWidth: 84, textAlign: "right" }}>
            {clockWords(time)} / {clockWords(duration)}
          </Typography>
          {!ownTempo && (
            <Button variant="outlined" onClick={() => setRate(SPEEDS[(SPEEDS.indexOf(rate) + 1) % SPEEDS.length]!)}>
              {rate === 1 ? "Slower" : `Speed ${Math.round(rate * 100)} %`}
            </Button>
          )}
        </>
      )}
      {failed && <Typography role="alert">The sound did not come. Reload the page to try again.</Typography>}
    </Box>
  );
}
