import { useCallback, useEffect, useRef, useState } from "react";

import { microphone } from "./microphone";

const MOMENT_S = 0.45;
const EVERY_MS = 350;
const LEAST_PEAK = 0.008;

/** Listens, and hands on the last half second whenever something sounds; nothing is kept. */
export function useMoments(onMoment: (samples: Float32Array, sampleRate: number) => Promise<void>) {
  const [listening, setListening] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  const ended = useRef<(() => void) | null>(null);

  const stop = useCallback(() => {
    ended.current?.();
    ended.current = null;
    setListening(false);
  }, []);
  useEffect(() => () => ended.current?.(), []);

  const start = useCallback(async () => {
    setProblem(null);
    try {
      const open = await microphone();
      const wanted = Math.round(MOMENT_S * open.context.sampleRate);
      let last = new Float32Array(0);
      let busy = false;
      open.node.port.onmessage = ({ data }: MessageEvent<{ samples?: Float32Array }>) => {
        if (!data.samples) return;
        const joined = new Float32Array(last.length + data.samples.length);
        joined.set(last);
        joined.set(data.samples, last.length);
        last = joined.slice(-wanted);
      };
      const timer = window.setInterval(() => {
        if (busy || last.length < wanted || !last.some((sample) => Math.abs(sample) > LEAST_PEAK)) return;
        busy = true;
        void onMoment(last, open.context.sampleRate).finally(() => (busy = false));
      }, EVERY_MS);
      ended.current = () => {
        window.clearInterval(timer);
        open.close();
      };
      setListening(true);
    } catch (error) {
      setProblem((error as Error).message);
    }
  }, [onMoment]);

  return { listening, problem, start, stop };
}
