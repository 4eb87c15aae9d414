import { useCallback, useEffect, useRef, useState } from "react";

import { keepPiece, keepTake, type KeptTake, lockOf } from "./keep";
import { microphone } from "./microphone";

export type RecorderState = "idle" | "asking" | "counting" | "recording" | "ending" | "ended" | "refused";

interface Count {
  bpm: number;
  beats: number;
}

const TICK_S = 0.04;
const LEAD_S = 0.25;
/** Only where the sound's own thread has died; what came until then is kept. */
const GIVE_UP_MS = 60_000;

/**
 * Counts in (heard and seen), then records raw samples. Everything is written to this device as it comes, so that
 * closing the page in the middle loses nothing. What is heard during the count-in is not kept, but for the last half beat.
 */
export function useRecorder(make: () => Omit<KeptTake, "state" | "sampleRate">, count: Count) {
  const [state, setState] = useState<RecorderState>("idle");
  const [beat, setBeat] = useState(0);
  const [level, setLevel] = useState(0);
  const [seconds, setSeconds] = useState(0);
  const [problem, setProblem] = useState<string | null>(null);
  const parts = useRef<{
    node: AudioWorkletNode;
    close: () => void;
    take: KeptTake;
    unlock: () => void;
  } | null>(null);
  const writing = useRef<Promise<void>>(Promise.resolve());
  const timers = useRef<number[]>([]);

  const release = useCallback(() => {
    timers.current.forEach(window.clearTimeout);
    timers.current = [];
    parts.current?.close();
    parts.current?.unlock();
    parts.current = null;
  }, []);
  useEffect(() => release, [release]);

  const start = useCallback(async () => {
    setProblem(null);
    setState("asking");
    setSeconds(0);
    try {
      const { context, node, close } = await microphone();
      const take: KeptTake = { ...make(), state: "recording", sampleRate: context.sampleRate };
      const unlock = await holdLock(lockOf(take.key));
      await keepTake(take);
      parts.current = { node, close, take, unlock };

      const pulse = 60 / count.bpm;
      const first = context.currentTime + LEAD_S;
      const begin = first + count.beats * pulse;
      const keepFrom = Math.round((begin - pulse / 2) * context.sampleRate);
      let number = 0;
      node.port.onmessage = ({ data }: MessageEvent<{ samples?: Float32Array; begins?: number; done?: boolean }>) => {
        if (data.done || !data.samples || data.begins === undefined) return;
        setLevel(peak(data.samples));
        const early = keepFrom - data.begins;
        if (early >= data.samples.length) return;
        const kept = early > 0 ? data.samples.slice(early) : data.samples;
        const own = number++;
        setSeconds((data.begins + data.samples.length) / context.sampleRate - begin);
        writing.current = writing.current.then(() => keepPiece(take.key, own, kept));
      };
      for (let at = 0; at < count.beats; at++) {
        tick(context, first + at * pulse, at === 0);
        timers.current.push(
          window.setTimeout(() => setBeat(at + 1), (first + at * pulse - context.currentTime) * 1000),
        );
      }
      timers.current.push(window.setTimeout(() => setState("recording"), (begin - context.currentTime) * 1000));
      setBeat(0);
      setState("counting");
    } catch (error) {
      release();
      setProblem((error as Error).message);
      setState("refused");
    }
  }, [make, count.bpm, count.beats, release]);

  /** Ends the recording; gives the kept take when its last sample is on this device. */
  const stop = useCallback(async (): Promise<KeptTake | null> => {
    const own = parts.current;
    if (!own) return null;
    setState("ending");
    await new Promise<void>((resolve) => {
      const before = own.node.port.onmessage;
      own.node.port.onmessage = (event) => {
        before?.call(own.node.port, event);
        if ((event.data as { done?: boolean }).done) resolve();
      };
      own.node.port.postMessage("end");
      // The last message comes behind every piece: on a slow device it may be long in coming, and it is waited for.
      window.setTimeout(resolve, GIVE_UP_MS);
    });
    await writing.current;
    const ready: KeptTake = { ...own.take, state: "ready" };
    await keepTake(ready);
    release();
    setState("ended");
    return ready;
  }, [release]);

  const reset = useCallback(() => {
    release();
    setState("idle");
    setProblem(null);
  }, [release]);

  return { state, beat, level, seconds, problem, start, stop, reset };
}

/** Resolves once the lock is held, with what lets it go. A closed page lets go by itself. */
function holdLock(name: string): Promise<() => void> {
  return new Promise((held) => {
    void navigator.locks.request(name, () => new Promise<void>((done) => held(done)));
  });
}

function peak(samples: Float32Array): number {
  let most = 0;
  for (const sample of samples) most = Math.max(most, Math.abs(sample));
  return most;
}

/** One tick of wood, well above the pitch of every string. */
function tick(context: AudioContext, at: number, strong: boolean): void {
  const oscillator = context.createOscillator();
  const gain = context.createGain();
  oscillator.frequency.value = strong ? 2600 : 2100;
  gain.gain.setValueAtTime(0.35, at);
  gain.gain.exponentialRampToValueAtTime(0.001, at + TICK_S);
  oscillator.connect(gain).connect(context.destination);
  oscillator.start(at);
  oscillator.stop(at + TICK_S);
}
