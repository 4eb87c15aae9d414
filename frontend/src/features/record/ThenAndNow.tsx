import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useRef, useState } from "react";

import type { Schemas } from "../../api/client";
import { dayWords } from "../../ui/words";

type Go = Schemas["GoOnTheWay"];

/** Two goes, heard one after the other: the first there is, and the last. */
export function ThenAndNow({ first, last }: { first: Go; last: Go }) {
  const then = useRef<HTMLAudioElement>(null);
  const now = useRef<HTMLAudioElement>(null);
  const [heard, setHeard] = useState<"then" | "now" | null>(null);
  const [failed, setFailed] = useState(false);
  const play = async (which: "then" | "now") => {
    const element = (which === "then" ? then : now).current!;
    element.currentTime = 0;
    setHeard(which);
    try {
      await element.play();
    } catch {
      // Stopped before it began is no failure; a sound that did not come is.
      if (element.error) setFailed(true);
    }
  };
  const stop = () => {
    then.current?.pause();
    now.current?.pause();
    setHeard(null);
  };
  return (
    <Box sx={{ display: "flex", gap: 2, alignItems: "center", flexWrap: "wrap", mt: 1 }}>
      <audio ref={then} src={`/api/takes/${first.id}/audio`} preload="none" onEnded={() => void play("now")} />
      <audio ref={now} src={`/api/takes/${last.id}/audio`} preload="none" onEnded={() => setHeard(null)} />
      <Button variant="outlined" size="large" onClick={() => (heard ? stop() : void play("then"))}>
        {heard ? "Stop" : "Hear then and now"}
      </Button>
      <Typography role="status" sx={{ fontSize: "1.15rem" }}>
        {heard === "then"
          ? `Then: ${dayWords(first.recorded_at)} …`
          : heard === "now"
            ? `And now: ${dayWords(last.recorded_at)} …`
            : `${dayWords(first.recorded_at)}, then ${dayWords(last.recorded_at)}`}
      </Typography>
      {failed && (
        <Typography role="alert">The sound did not come. Try again when this device is on the network.</Typography>
      )}
    </Box>
  );
}
