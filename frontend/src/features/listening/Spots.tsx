import Box from "@mui/material/Box";
import Button from "@mui/material/Button";

import type { Schemas } from "../../api/client";
import { clockWords } from "../../ui/words";
import { useSingleKeys } from "../../ui/shortcuts";
import { useSay } from "../../ui/vocabulary";

type Spot = Schemas["TakeOut"]["spots"][number];

interface Props {
  spots: Spot[];
  onAll: () => void;
  onOne: (spot: Spot) => void;
}

/** What is worth hearing of a take: one press plays just that. */
export function Spots({ spots, onAll, onOne }: Props) {
  const say = useSay();
  const [single] = useSingleKeys();
  const seconds = spots.reduce((sum, spot) => sum + spot.end_s - spot.start_s, 0);
  return (
    <Box
      component="section"
      aria-label="Worth hearing"
      className="no-print"
      sx={{ display: "flex", flexWrap: "wrap", alignItems: "center", gap: 1, mt: 1 }}
    >
      <Button variant="outlined" size="small" onClick={onAll}>
        Just the spots ({Math.round(seconds)} s)&nbsp;{single && <kbd>S</kbd>}
      </Button>
      {spots.map((spot) => (
        <Button key={spot.start_s} size="small" onClick={() => onOne(spot)} sx={{ px: 1 }}>
          {clockWords(spot.start_s)} {say(spot.words)}
        </Button>
      ))}
    </Box>
  );
}
