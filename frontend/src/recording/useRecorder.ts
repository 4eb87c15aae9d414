import { useCallback, useEffect, useReducer, useRef } from "react";

import { keepPiece, keepTake, type KeptTake, lockOf } from "./keep";
import { hush } from "./hush";
import { endingOf, type EndingRule, peakOf } from "./ending";
import { type Microphone, microphone, MicrophoneError } from "./microphone";
import { IDLE, recordingAfter } from "./recording";

interface Count {
  /** Quarter notes a minute. */
  bpm: number;
  /** What is said, and when, in quarter notes; what is a beat is struck too. */
  words: { at_beats: number; beat: boolean }[];
  /** Until the music begins, in quarter notes. */
  beats: number;
}

export interface Calls {
  /** The sound, with its count. */
  url: string;
  /** From its beginning to that of the line. */
  leadS: number;
  /** Seconds of the line in which it sounds. */
  spans: [number, number][];
}

interface While {
  /** Its beats are struck on, softly: in headphones, and only when asked for. */
  pulseBeats: number | null;
  /** What is played to the pupil in the rests of the line; while it sounds nothing is listened to. */
  calls: Calls | null;
  /** None: it is ended by hand. */
  ending: EndingRule | null;
  /** It ended by itself, or its microphone went away. */
  onEnd: () => void;
}

const TICK_S = 0.04;
const LEAD_S = 0.25;
/** Only where the sound's own thread has died; what came until then is kept. */
const GIVE_UP_MS = 60_000;

/**
 * Counts in (heard and seen), then records raw samples. Everything is written to this device as it comes, so that
 * closing the page in the middle loses nothing. What is heard during the count-in is not kept, but for the last half beat.
 */
export function useRecorder(make: () => Omit<KeptTake, "state" | "sampleRate">, count: Count, during: While) {
  const [recording, go] = useReducer(recordingAfter, IDLE);
  const parts = useRef<{
    node: AudioWorkletNode;
    close: () => void;
    take: KeptTake;
    unlock: () => void;
  } | null>(null);
  const writing = useRef<Promise<void>>(Promise.resolve());
  const now = useRef(during);
  useEffect(() => {
    now.current = during;
  });
  const timers = useRef<number[]>([]);
  /** The page has been left; what opens after that is closed again. */
  const left = useRef(false);

  const release = useCallback(() => {
    // Timeouts and intervals are ended alike (HTML standard, timers).
    timers.current.forEach((timer) => window.clearTimeout(timer));
    timers.current = [];
    parts.current?.close();
    parts.current?.unlock();
    parts.current = null;
  }, []);
  useEffect(() => {
    left.current = false;
    return () => {
      left.current = true;
      release();
    };
  }, [release]);

  const start = useCallback(async () => {
    go({ type: "ask" });
    let opened: Microphone | null = null;
    try {
      const { ending, pulseBeats, calls } = now.current;
      // What takes its time comes first: from the microphone on, all goes by the clock.
      const fetched = calls && (await soundFrom(calls.url));
      opened = await microphone();
      const { context, node, close, narrow, onLost } = opened;
      const spoken = fetched && (await context.decodeAudioData(fetched));
      const take: KeptTake = { ...make(), state: "recording", sampleRate: context.sampleRate };
      const unlock = await holdLock(lockOf(take.key));
      if (!(await keepTake(take))) go({ type: "not kept" });
      parts.current = { node, close, take, unlock };
      if (left.current) return release();

      const quarter = 60 / count.bpm;
      // The count of the calls is heard: they begin no earlier than now.
      const late = calls ? Math.max(calls.leadS - count.beats * quarter, 0) : 0;
      const first = context.currentTime + LEAD_S + late;
      const begin = first + count.beats * quarter;
      const lastBeat = count.words.findLast((word) => word.beat)?.at_beats ?? 0;
      const keepFrom = Math.round((begin - ((count.beats - lastBeat) * quarter) / 2) * context.sampleRate);
      const ends = ending && endingOf(ending, context.sampleRate);
      let ended = false;
      const endOnce = () => {
        if (!ended) now.current.onEnd();
        ended = true;
      };
      onLost(() => {
        go({ type: "lost", problem: new MicrophoneError("unplugged") });
        endOnce();
      });
      let number = 0;
      node.port.onmessage = ({ data }: MessageEvent<{ samples?: Float32Array; begins?: number; done?: boolean }>) => {
        if (data.done || !data.samples || data.begins === undefined) return;
        const since = (data.begins + data.samples.length) / context.sampleRate - begin;
        const early = keepFrom - data.begins;
        if (calls) hush(data.samples, since, calls.spans, context.sampleRate);
        go({ type: "heard", level: peakOf(data.samples), seconds: early < data.samples.length ? since : null });
        if (early >= data.samples.length) return;
        const kept = early > 0 ? data.samples.slice(early) : data.samples;
        const own = number++;
        writing.current = writing.current.then(async () => {
          if (!(await keepPiece(take.key, own, kept))) go({ type: "not kept" });
        });
        if (ends?.(data.samples, since)) endOnce();
      };
      count.words.forEach((word, at) => {
        const when = first + word.at_beats * quarter;
        if (word.beat && !spoken) tick(context, when, at === 0 ? "first" : "count");
        timers.current.push(
          window.setTimeout(() => go({ type: "beat", beat: at + 1 }), (when - context.currentTime) * 1000),
        );
      });
      const untilBegin = (begin - context.currentTime) * 1000;
      timers.current.push(window.setTimeout(() => go({ type: "begin" }), untilBegin));
      if (spoken) startAt(context, spoken, begin - calls.leadS);
      if (pulseBeats) timers.current.push(...strikeOn(context, begin, pulseBeats * quarter));
      go({ type: "count", beganAt: performance.now() + untilBegin, narrow });
    } catch (error) {
      if (!parts.current) opened?.close();
      release();
      go({ type: "refuse", problem: error instanceof MicrophoneError ? error : new MicrophoneError("failed", error) });
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

async function soundFrom(url: string): Promise<ArrayBuffer> {
  try {
    const answer = await fetch(url);
    if (!answer.ok) throw new Error(`answered with ${answer.status}`);
    return await answer.arrayBuffer();
  } catch (error) {
    throw new MicrophoneError("calls", error);
  }
}

function startAt(context: AudioContext, sound: AudioBuffer, when: number): void {
  const source = context.createBufferSource();
  source.buffer = sound;
  source.connect(context.destination);
  source.start(Math.max(when, context.currentTime));
}

const STRIKES = { first: [2600, 0.35], count: [2100, 0.35], pulse: [2100, 0.05] } as const;

/** One tick of wood, well above the pitch of every string. */
function tick(context: AudioContext, at: number, kind: keyof typeof STRIKES): void {
  const [hz, loudness] = STRIKES[kind];
  const oscillator = context.createOscillator();
  const gain = context.createGain();
  oscillator.frequency.value = hz;
  gain.gain.setValueAtTime(loudness, at);
  gain.gain.exponentialRampToValueAtTime(0.001, at + TICK_S);
  oscillator.connect(gain).connect(context.destination);
  oscillator.start(at);
  oscillator.stop(at + TICK_S);
}

const AHEAD_S = 1.5;
const EVERY_MS = 500;

/** Goes on striking every beat, a little ahead of time, until its timer is ended. */
function strikeOn(context: AudioContext, begin: number, beatS: number): number[] {
  let next = begin;
  const timer = window.setInterval(() => {
    for (; next < context.currentTime + AHEAD_S; next += beatS) tick(context, next, "pulse");
  }, EVERY_MS);
  return [timer];
}
