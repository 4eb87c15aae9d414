import Box from "@mui/material/Box";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";

import type { Schemas } from "../../api/client";
import { PlayerBar } from "../../music/PlayerBar";
import { ScoreView } from "../../music/ScoreView";
import { useTake, useTakeOnScore } from "../../music/useTake";
import { Loading, Trouble } from "../../ui/states";
import { dayWords } from "../../ui/words";

const clock = (iso: string) =>
  new Date(iso).toLocaleTimeString("en", { hour: "2-digit", minute: "2-digit", hour12: false });

/** Another take of the same exercise under this one, line under line. */
export function Beside({ take }: { take: Schemas["TakeOut"] }) {
  const [other, setOther] = useState("");
  if (!take.others.length) return null;
  return (
    <Box component="section" aria-label="Another take beside it" className="no-print" sx={{ mt: 2 }}>
      <TextField
        select
        size="small"
        label="Beside another take"
        value={other}
        onChange={(event) => setOther(event.target.value)}
        sx={{ minWidth: 240, mb: 1 }}
      >
        <MenuItem value="">None</MenuItem>
        {take.others.map((own) => (
          <MenuItem key={own.id} value={own.id}>
            {dayWords(own.recorded_at)}, {clock(own.recorded_at)}
          </MenuItem>
        ))}
      </TextField>
      {other && <Other key={other} id={other} now={take} />}
    </Box>
  );
}

function Other({ id, now }: { id: string; now: Schemas["TakeOut"] }) {
  const take = useTake(id, 1000);
  if (take.isPending) return <Loading what="Fetching the other take" />;
  if (take.isError) return <Trouble error={take.error} again={() => void take.refetch()} />;
  return <OtherTake take={take.data} now={now} />;
}

function OtherTake({ take, now }: { take: Schemas["TakeOut"]; now: Schemas["TakeOut"] }) {
  const { ref, score, player, accepted, playNote } = useTakeOnScore(take);
  return (
    <Box ref={ref}>
      {accepted && now.report?.accepted && (
        <Typography sx={{ mb: 1 }}>{compared(accepted, now.report, take.recorded_at > now.recorded_at)}</Typography>
      )}
      {score.data ? (
        <ScoreView
          score={score.data}
          notes={accepted?.notes}
          extras={accepted?.extras}
          current={player.current}
          onPlay={playNote}
        />
      ) : (
        <Loading what="Engraving" />
      )}
      {take.audio_url && <PlayerBar player={player} src={take.audio_url} name="the other take" />}
    </Box>
  );
}

/** What has changed between the earlier take and the later one, dimension by dimension. */
function compared(other: Schemas["Report"], now: Schemas["Report"], otherIsLater: boolean): string {
  const [from, to] = otherIsLater ? [now, other] : [other, now];
  const pairs: [string, number, number][] = [
    ["in tune", from.judgement?.pitch.home ?? 0, to.judgement?.pitch.home ?? 0],
    ["in time", from.judgement?.rhythm.home ?? 0, to.judgement?.rhythm.home ?? 0],
    ["tempo", Math.round(from.tempo.played_bpm ?? 0), Math.round(to.tempo.played_bpm ?? 0)],
    ["stops", from.judgement?.completeness.stops ?? 0, to.judgement?.completeness.stops ?? 0],
  ];
  return `From the earlier to the later: ${pairs.map(([name, a, b]) => `${name} ${a} → ${b}`).join(", ")}.`;
}
