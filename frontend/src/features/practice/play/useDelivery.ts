import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { useNavigate } from "react-router";

import { Problem } from "../../../api/client";
import type { KeptTake } from "../../../recording/keep";
import { sendKept } from "../../../recording/send";
import { tellProblem } from "../../../recording/useSender";

const TOO_SHORT = "That was too short to keep. Count in and play the whole line.";

/** The way of a recording from this device to the house, and of the pupil to what was heard in it. `hidden`: a try may show its notes. */
export function useDelivery(assignmentId: string, hidden: boolean) {
  const go = useNavigate();
  const queries = useQueryClient();
  const [sending, setSending] = useState<number | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  /** Kept on this device, because there was no way out. */
  const [waiting, setWaiting] = useState<KeptTake | null>(null);
  const deliver = useCallback(
    async (take: KeptTake) => {
      setProblem(null);
      setSending(0);
      try {
        const id = await sendKept(take, setSending);
        setWaiting(null);
        tellProblem(queries, null);
        if (id === null) {
          setProblem(TOO_SHORT);
          setSending(null);
          return;
        }
        for (const key of [["today"], ["room", assignmentId], ["record"]])
          void queries.invalidateQueries({ queryKey: key });
        if (hidden) void queries.invalidateQueries({ queryKey: ["practice", assignmentId] });
        void go(`/takes/${id}`);
      } catch (error) {
        setSending(null);
        // What the house will not have is told as that; only where there is no way to it does the take wait.
        if (!(error instanceof Problem) || error.status === 0 || error.status >= 500) setWaiting(take);
        setProblem((error as Error).message);
        // The page of today knows of it too: there it can be sent again, or thrown away.
        tellProblem(queries, (error as Error).message);
      }
    },
    [assignmentId, hidden, go, queries],
  );
  const forget = useCallback(() => {
    setWaiting(null);
    setProblem(null);
  }, []);
  return { sending, problem, setProblem, waiting, deliver, forget };
}

export type Delivery = ReturnType<typeof useDelivery>;
