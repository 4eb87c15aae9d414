import Dialog from "@mui/material/Dialog";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import { useMemo, useState } from "react";

import { useShortcuts, useSingleKeys } from "./shortcuts";

const KEYS: [string, [string, string][]][] = [
  [
    "A take",
    [
      ["Space", "play, stop"],
      ["S", "just the spots worth hearing"],
      ["A, O, C", "accepted, once more, come and see me"],
      ["Ctrl + Enter", "send the word, and on to the next take"],
      ["↓", "the next take, without a word"],
      ["↑", "back"],
    ],
  ],
  [
    "In the lesson",
    [
      ["←, →", "the warm-up before, the next"],
      ["I", "the next instrument"],
    ],
  ],
  ["Everywhere", [["?", "this list"]]],
];

/** Which keys act where, shown by `?`. */
export function ShortcutHelp() {
  const [open, setOpen] = useState(false);
  const [on] = useSingleKeys();
  useShortcuts(useMemo(() => ({ "?": () => setOpen(true) }), []));
  return (
    <Dialog open={open} onClose={() => setOpen(false)} aria-labelledby="shortcuts">
      <DialogTitle id="shortcuts">Keys</DialogTitle>
      <DialogContent>
        {KEYS.map(([place, keys]) => (
          <Box component="section" key={place} sx={{ mb: 2 }}>
            <Typography variant="h2">{place}</Typography>
            <Box component="dl" sx={{ display: "grid", gridTemplateColumns: "130px 1fr", gap: 0.5, m: 0 }}>
              {keys.map(([key, words]) => (
                <Box key={key} sx={{ display: "contents" }}>
                  <dt>
                    <kbd>{key}</kbd>
                  </dt>
                  <Box component="dd" sx={{ m: 0 }}>
                    {words}
                  </Box>
                </Box>
              ))}
            </Box>
          </Box>
        ))}
        {on && <Typography sx={{ color: "text.secondary" }}>Single keys can be switched off beside a take.</Typography>}
      </DialogContent>
    </Dialog>
  );
}
