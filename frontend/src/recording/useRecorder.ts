import { useCallback, useEffect, useReducer, useRef } from "react";

import { keepPiece, keepTake, type KeptTake, lockOf } from "./keep";
import { microphone } from "./microphone";
import { IDLE, recordingAfter } from "./recording";

interface Count {
  /** Quarter notes a minute. */
  bpm: number;
  /** What is said, and when, in quarter notes; what is a beat is struck too. */
  words: { at_beats: number; beat: boolean }[];
  /** Until the music begins, in quarter notes. */
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
  const [recording, go] = useReducer(recordingAfter, IDLE);
  const parts = useRef<{
    node: AudioWorkletNode;
    close: () => void;
    take: KeptTake;
    unlock: () => void;
  } | null>(null);
  const writing = useRef<Promise<void>>(Promise.resolve());
  const timers = useRef<number[]>([]);

  const release = useCallback(() => {
    timers.current.forEach((timer) => window.clearTimeout(timer));
    timers.current = [];
    parts.current?.close();
    parts.current?.unlock();
    parts.current = null;
  }, []);
  useEffect(() => release, [release]);

  const start = useCallback(async () => {
    go({ type: "ask" });
    try {
      const { context, node, close } = await microphone();
      const take: KeptTake = { ...make(), state: "recording", sampleRate: context.sampleRate };
      const unlock = await holdLock(lockOf(take.key));
      if (!(await keepTake(take))) go({ type: "not kept" });
      parts.current = { node, close, take, unlock };

      const quarter = 60 / count.bpm;
      const first = context.currentTime + LEAD_S;
      const begin = first + count.beats * quarter;
      const lastBeat = count.words.findLast((word) => word.beat)?.at_beats ?? 0;
      const keepFrom = Math.round((begin - ((count.beats - lastBeat) * quarter) / 2) * context.sampleRate);
      let number = 0;
      node.port.onmessage = ({ data }: MessageEvent<{ samples?: Float32Array; begins?: number; done?: boolean }>) => {
        if (data.done || !data.samples || data.begins === undefined) return;
        const since = (data.begins + data.samples.length) / context.sampleRate - begin;
        const early = keepFrom - data.begins;
        go({ type: "heard", level: peak(data.samples), seconds: early < data.samples.length ? since : null });
        if (early >= data.samples.length) return;
        const kept = early > 0 ? data.samples.slice(early) : data.samples;
        const own = number++;
        writing.current = writing.current.then(async () => {
          if (!(await keepPiece(take.key, own, kept))) go({ type: "not kept" });
        });
      };
      count.words.forEach((word, at) => {
        const when = first + word.at_beats * quarter;
        if (word.beat) tick(context, when, at === 0);
        timers.current.push(
          window.setTimeout(() => go({ type: "beat", beat: at + 1 }), (when - context.currentTime) * 1000),
        );
      });
      timers.current.push(window.setTimeout(() => go({ type: "begin" }), (begin - context.currentTime) * 1000));
      go({ type: "count" });
    } catch (error) {
      release();
      go({ type: "refuse", problem: (error as Error).message });
    }
  }, [make, count.bpm, count.beats, count.words, release]);

  /** Ends the recording; gives the kept take when its last sample is on this device. */
  const stop = useCallback(async (): Promise<KeptTake | null> => {
    const own = parts.current;
    if (!own) return null;
    go({ type: "end" });
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
    go({ type: "ended" });
    return ready;
  }, [release]);

  const reset = useCallback(() => {
    release();
    go({ type: "reset" });
  }, [release]);

  return { ...recording, start, stop, reset };
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
