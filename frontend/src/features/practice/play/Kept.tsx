import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useEffect, useState } from "react";
import { useNavigate } from "react-router";

import { PlayerBar } from "../../../music/PlayerBar";
import { usePlayer } from "../../../music/usePlayer";
import { keepTake, type KeptTake, keptPieces, letGo } from "../../../recording/keep";
import { useArrived } from "../../../recording/useSender";
import { wavBlob } from "../../../recording/wav";

interface Props {
  take: KeptTake;
  onAgain: () => void;
  onSend: (take: KeptTake) => void;
}

/** A recording that can not leave the device now: it is heard here, chosen for the teacher or thrown away, and goes by itself later. */
export function Kept({ take, onAgain, onSend }: Props) {
  const go = useNavigate();
  const [handIn, setHandIn] = useState(take.handIn ?? false);
  const [src, setSrc] = useState<string | null>(null);
  useEffect(() => {
    let url: string | null = null;
    let gone = false;
    void soundOf(take).then((sound) => {
      if (gone) return;
      url = URL.createObjectURL(sound);
      setSrc(url);
    });
    return () => {
      gone = true;
      if (url) URL.revokeObjectURL(url);
    };
  }, [take]);
  const arrived = useArrived(take.key);
  useEffect(() => {
    if (arrived) void go(`/takes/${arrived}`);
  }, [arrived, go]);
  const player = usePlayer(src ?? undefined, NO_ONSETS);
  const choose = async () => {
    setHandIn(!handIn);
    await keepTake({ ...take, handIn: !handIn });
  };
  const drop = async () => {
    await letGo(take.key);
    onAgain();
  };
  return (
    <Box role="status" sx={{ mt: 3, display: "grid", gap: 2 }}>
      <Typography variant="h1" component="p">
        It is safe on this device.
      </Typography>
      <Typography sx={{ fontSize: "1.2rem" }}>
        There is no way to the house just now. It goes by itself as soon as there is one; until then I can not tell how
        it was. Keep this device, and do not clear its browser.
      </Typography>
      {src && <PlayerBar player={player} src={src} name="your go" large />}
      <Box sx={{ display: "flex", flexWrap: "wrap", gap: 2 }}>
        <Button variant="contained" size="large" onClick={onAgain} sx={LARGE}>
          Play again
        </Button>
        <Button variant="outlined" size="large" aria-pressed={handIn} onClick={() => void choose()} sx={LARGE}>
          {handIn ? "For your teacher: yes" : "Hand this one in"}
        </Button>
        <Button variant="outlined" size="large" onClick={() => onSend({ ...take, handIn })} sx={LARGE}>
          Try to send it now
        </Button>
        <Button size="large" onClick={() => void drop()} sx={LARGE}>
          Throw it away
        </Button>
      </Box>
    </Box>
  );
}

const LARGE = { fontSize: "1.2rem", minHeight: 60 } as const;
const NO_ONSETS: never[] = [];

const soundOf = async (take: KeptTake): Promise<Blob> =>
  take.file ?? wavBlob(await keptPieces(take.key), take.sampleRate);
