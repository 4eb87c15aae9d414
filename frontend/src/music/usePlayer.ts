import { useCallback, useEffect, useRef, useState } from "react";

/** One sound: playing, place, speed; and which note sounds now, by the onsets given. */
export interface Player {
  /** Goes to the audio element as its ref. */
  attach: (element: HTMLAudioElement | null) => void;
  playing: boolean;
  time: number;
  duration: number;
  rate: number;
  current: number | null;
  failed: boolean;
  toggle: () => void;
  seek: (to: number) => void;
  setRate: (rate: number) => void;
  /** Plays from..to and stops. */
  playSpan: (from: number, to: number) => void;
  /** Plays several spans, one after the other. */
  playSpans: (spans: readonly Span[]) => void;
}

export interface Span {
  from: number;
  to: number;
}

export interface Onset {
  index: number;
  at: number;
}

export function usePlayer(src: string | undefined, onsets: Onset[]): Player {
  const audio = useRef<HTMLAudioElement | null>(null);
  const [element, setElement] = useState<HTMLAudioElement | null>(null);
  const until = useRef<number | null>(null);
  const ahead = useRef<readonly Span[]>([]);
  const [playing, setPlaying] = useState(false);
  const [time, setTime] = useState(0);
  const [duration, setDuration] = useState(0);
  const [rate, setRateState] = useState(1);
  const [failed, setFailed] = useState(false);

  useEffect(() => {
    if (!element || !src) return;
    const start = () => setPlaying(true);
    const stop = () => setPlaying(false);
    const length = () => Number.isFinite(element.duration) && setDuration(element.duration);
    const trouble = () => setFailed(true);
    element.addEventListener("play", start);
    element.addEventListener("pause", stop);
    element.addEventListener("ended", stop);
    element.addEventListener("loadedmetadata", length);
    element.addEventListener("durationchange", length);
    element.addEventListener("error", trouble);
    if (element.readyState > 0) length();
    return () => {
      element.removeEventListener("play", start);
      element.removeEventListener("pause", stop);
      element.removeEventListener("ended", stop);
      element.removeEventListener("loadedmetadata", length);
      element.removeEventListener("durationchange", length);
      element.removeEventListener("error", trouble);
    };
  }, [element, src]);

  const attach = useCallback((fresh: HTMLAudioElement | null) => {
    audio.current = fresh;
    setElement(fresh);
  }, []);

  // The browser's own time events come four times a second: too few for a cursor.
  useEffect(() => {
    if (!playing) return;
    let frame = 0;
    const follow = () => {
      const element = audio.current;
      if (element) {
        setTime(element.currentTime);
        if (until.current !== null && element.currentTime >= until.current) {
          const [next, ...later] = ahead.current;
          until.current = next?.to ?? null;
          ahead.current = later;
          if (next) element.currentTime = Math.max(0, next.from);
          else element.pause();
        }
      }
      frame = requestAnimationFrame(follow);
    };
    frame = requestAnimationFrame(follow);
    return () => cancelAnimationFrame(frame);
  }, [playing]);

  const toggle = useCallback(() => {
    const element = audio.current;
    if (!element) return;
    until.current = null;
    ahead.current = [];
    if (element.paused) void element.play().catch(() => setFailed(true));
    else element.pause();
  }, []);
  const seek = useCallback((to: number) => {
    if (audio.current) audio.current.currentTime = to;
    setTime(to);
  }, []);
  const setRate = useCallback((next: number) => {
    if (audio.current) {
      audio.current.preservesPitch = true;
      audio.current.playbackRate = next;
    }
    setRateState(next);
  }, []);
  const playSpans = useCallback((spans: readonly Span[]) => {
    const element = audio.current;
    const [first, ...later] = spans;
    if (!element || !first) return;
    element.currentTime = Math.max(0, first.from);
    until.current = first.to;
    ahead.current = later;
    void element.play().catch(() => setFailed(true));
  }, []);
  const playSpan = useCallback((from: number, to: number) => playSpans([{ from, to }]), [playSpans]);

  let current: number | null = null;
  if (playing || time > 0) {
    for (const onset of onsets) {
      if (onset.at > time + 0.02) break;
      current = onset.index;
    }
  }
  return { attach, playing, time, duration, rate, current, failed, toggle, seek, setRate, playSpan, playSpans };
}
