import Button from "@mui/material/Button";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";

import { answer, api, type Schemas } from "../../../api/client";
import { type Microphone, microphone } from "../../../recording/microphone";
import { wavBlob } from "../../../recording/wav";
import { Note } from "../../../ui/states";

const LONGEST_MS = 30_000;

/** The question said aloud, half a minute at most; it is sent when it ends. */
export function SpokenHelp({ takeId, assignmentId }: { takeId: string; assignmentId: string }) {
  const queries = useQueryClient();
  const [speaking, setSpeaking] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  const open = useRef<{ microphone: Microphone; pieces: Float32Array[]; timer: number } | null>(null);
  const send = useMutation({
    mutationFn: (sound: Blob) => {
      const form = new FormData();
      form.append("sound", sound, "help.wav");
      const body = form as unknown as Schemas["SpokenHelp"];
      return answer(
        api.POST("/api/takes/{id}/help", { params: { path: { id: takeId } }, body, bodySerializer: () => form }),
      );
    },
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: ["take", takeId] });
      void queries.invalidateQueries({ queryKey: ["room", assignmentId] });
    },
  });
  const close = () => {
    const own = open.current;
    open.current = null;
    if (own) window.clearTimeout(own.timer);
    own?.microphone.close();
    setSpeaking(false);
    return own;
  };
  const left = useRef(false);
  useEffect(() => {
    left.current = false;
    return () => {
      left.current = true;
      window.clearTimeout(open.current?.timer);
      open.current?.microphone.close();
    };
  }, []);
  const end = () => {
    const own = close();
    if (own?.pieces.length) send.mutate(wavBlob(own.pieces, own.microphone.context.sampleRate));
  };
  const begin = async () => {
    setProblem(null);
    try {
      const own = await microphone();
      if (left.current) return own.close();
      const pieces: Float32Array[] = [];
      own.node.port.onmessage = ({ data }: MessageEvent<{ samples?: Float32Array }>) => {
        if (data.samples) pieces.push(data.samples);
      };
      open.current = { microphone: own, pieces, timer: window.setTimeout(end, LONGEST_MS) };
      setSpeaking(true);
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  return (
    <>
      <Button
        variant="outlined"
        size="large"
        disabled={send.isPending}
        onClick={() => (speaking ? end() : void begin())}
      >
        {speaking ? "That was it: send" : send.isPending ? "Sending …" : "Say it aloud"}
      </Button>
      {(problem ?? send.error?.message) && <Note>{problem ?? send.error?.message}</Note>}
    </>
  );
}
