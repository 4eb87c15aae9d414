import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useState } from "react";

import type { Person } from "../../app/session";
import { type KeptTake, letGo } from "../../recording/keep";
import { sendKept } from "../../recording/send";
import { useKept, useSendingProblem } from "../../recording/useSender";
import { Note } from "../../ui/states";

/** What is on this device and not yet at the house. It goes by itself; what does not go can be tried by hand, or thrown away. */
export function WaitingTakes({ person }: { person: Person }) {
  const kept = useKept(person.id);
  const found = useSendingProblem();
  const [own, setOwn] = useState<string | null>(null);
  const problem = own ?? found;
  if (!kept.data?.length) return null;
  const drop = async (take: KeptTake) => {
    await letGo(take.key);
    setOwn(null);
    void kept.refetch();
  };
  return (
    <Box sx={{ mb: 3 }}>
      <Typography role="status" sx={{ fontSize: "1.1rem" }}>
        {kept.data.length === 1 ? "One go is" : `${kept.data.length} goes are`} still on this device, safe.{" "}
        {kept.data.length === 1 ? "It goes" : "They go"} to the house by{" "}
        {kept.data.length === 1 ? "itself" : "themselves"}, as soon as there is a way.
      </Typography>
      {problem && (
        <>
          <Note>{problem}</Note>
          {kept.data.map((take) => (
            <Box key={take.key} sx={{ display: "flex", gap: 1.5, alignItems: "center", flexWrap: "wrap" }}>
              <Typography>{take.title}</Typography>
              <SendAgain take={take} onProblem={setOwn} onSent={() => void kept.refetch()} />
              <Button onClick={() => void drop(take)}>Throw it away</Button>
            </Box>
          ))}
        </>
      )}
    </Box>
  );
}

interface SendAgainProps {
  take: KeptTake;
  onProblem: (words: string) => void;
  onSent: () => void;
}

function SendAgain({ take, onProblem, onSent }: SendAgainProps) {
  const [sending, setSending] = useState(false);
  const send = async () => {
    setSending(true);
    try {
      await sendKept(take, () => {});
      onSent();
    } catch (error) {
      onProblem((error as Error).message);
    } finally {
      setSending(false);
    }
  };
  return (
    <Button variant="outlined" disabled={sending} onClick={() => void send()}>
      Send it again
    </Button>
  );
}
