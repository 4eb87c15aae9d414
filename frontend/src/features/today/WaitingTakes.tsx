import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";

import { Problem } from "../../api/client";
import type { Person } from "../../app/session";
import { keptTakes, type KeptTake, letGo } from "../../recording/keep";
import { sendKept } from "../../recording/send";
import { Note } from "../../ui/states";

/** Takes that are on this device and not yet with the teacher: sent by themselves, as soon as it goes. */
export function WaitingTakes({ person }: { person: Person }) {
  const queries = useQueryClient();
  const kept = useQuery({
    queryKey: ["kept", person.id],
    queryFn: () => keptTakes(person.id),
    staleTime: 0,
    networkMode: "always",
  });
  const [problem, setProblem] = useState<string | null>(null);
  const busy = useRef(false);

  useEffect(() => {
    const waiting = kept.data ?? [];
    const sendAll = async () => {
      if (busy.current || waiting.length === 0) return;
      busy.current = true;
      try {
        for (const take of waiting) await sendKept(take, () => {}, false);
        setProblem(null);
      } catch (error) {
        setProblem((error as Error).message);
      } finally {
        busy.current = false;
        void kept.refetch();
        void queries.invalidateQueries({ queryKey: ["today"] });
      }
    };
    void sendAll();
    const again = () => void sendAll();
    window.addEventListener("online", again);
    return () => window.removeEventListener("online", again);
    // Once for every fresh list; a failure waits for the network or for the button.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [kept.data?.length]);

  const drop = async (take: KeptTake) => {
    await letGo(take.key);
    setProblem(null);
    void kept.refetch();
  };

  if (!kept.data?.length) return null;
  return (
    <Box sx={{ mb: 3 }}>
      <Typography sx={{ fontSize: "1.1rem" }}>
        {kept.data.length === 1 ? "A take" : `${kept.data.length} takes`} on this device{" "}
        {kept.data.length === 1 ? "is" : "are"} still on the way to your teacher. Nothing is lost.
      </Typography>
      {problem && (
        <>
          <Note>{problem}</Note>
          {kept.data.map((take) => (
            <Box key={take.key} sx={{ display: "flex", gap: 1.5, alignItems: "center", flexWrap: "wrap" }}>
              <Typography>{take.title}</Typography>
              <SendAgain
                take={take}
                onProblem={(error) => setProblem(error instanceof Problem ? error.message : String(error))}
                onSent={() => void kept.refetch()}
              />
              <Button onClick={() => void drop(take)}>Throw it away</Button>
            </Box>
          ))}
        </>
      )}
    </Box>
  );
}

function SendAgain({
  take,
  onProblem,
  onSent,
}: {
  take: KeptTake;
  onProblem: (error: unknown) => void;
  onSent: () => void;
}) {
  const [sending, setSending] = useState(false);
  const send = async () => {
    setSending(true);
    try {
      await sendKept(take, () => {});
      onSent();
    } catch (error) {
      onProblem(error);
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
