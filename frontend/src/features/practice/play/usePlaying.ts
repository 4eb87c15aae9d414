import { useCallback, useEffect, useMemo, useRef } from "react";

import type { Schemas } from "../../../api/client";
import type { Person } from "../../../app/session";
import { lengthOf, startOf } from "../../../music/following";
import { askToKeep } from "../../../recording/device";
import { type Asked, keepTake, type KeptTake } from "../../../recording/keep";
import { useRecorder } from "../../../recording/useRecorder";
import { useShortcuts } from "../../../ui/shortcuts";
import type { Room } from "../useRoom";
import type { Delivery } from "./useDelivery";

interface Playing {
  person: Person;
  score: Schemas["ScoreOut"];
  turning: boolean;
  assignmentId: string;
  bpm: number;
  mode: Room["mode"];
  asked: Asked;
  beatHeard: boolean;
  stopsItself: boolean;
  delivery: Delivery;
  onAlone: (alone: boolean) => void;
}

/** Counting in, recording and handing over what was recorded; or a file in its place. The space bar begins and ends. */
export function usePlaying(own: Playing) {
  const { person, score, turning, assignmentId, bpm, mode, asked, beatHeard, stopsItself, delivery, onAlone } = own;
  const { bars, focus } = asked;
  const { deliver, sending, setProblem, forget } = delivery;
  const make = useCallback(
    () => ({
      key: crypto.randomUUID(),
      personId: person.id,
      assignmentId,
      title: score.title,
      startedAt: new Date().toISOString(),
      asked: { bpm, mode, ...(bars && { bars }), ...(focus && { focus }) },
    }),
    [person.id, assignmentId, score.title, bpm, mode, bars, focus],
  );
  const finishRef = useRef(() => {});
  const recorder = useRecorder(
    make,
    { bpm: score.tempo_bpm, words: score.count_in, beats: score.count_in_beats },
    {
      pulseBeats: beatHeard ? score.pulse_beats : null,
      calls: score.calls ? callsOf(score) : null,
      ending: stopsItself
        ? {
            expectedS: (lengthOf(score) * 60) / score.tempo_bpm,
            beatS: (score.pulse_beats * 60) / score.tempo_bpm,
            lastMidi: score.notes.at(-1)?.midi ?? 0,
            patient: mode !== "steady",
          }
        : null,
      onEnd: () => finishRef.current(),
    },
  );
  const { stage: state, stop, start } = recorder;
  const finish = useCallback(async () => {
    const take = await stop();
    if (take) await deliver(take);
  }, [stop, deliver]);
  useEffect(() => {
    finishRef.current = () => void finish();
  }, [finish]);
  const recording = state === "counting" || state === "recording" || state === "ending" || sending !== null;
  useEffect(() => {
    onAlone(recording);
    return () => onAlone(false);
  }, [recording, onAlone]);
  const ready = !turning && sending === null && ["idle", "refused", "ended"].includes(state) && person.may_record;
  const begin = useCallback(() => {
    forget();
    void askToKeep();
    void start();
  }, [forget, start]);
  const keys = useMemo(
    () => ({ " ": state === "recording" ? () => void finish() : ready ? begin : undefined }),
    [state, finish, ready, begin],
  );
  useShortcuts(keys);
  const choose = async (file: File | undefined) => {
    if (!file) return;
    if (file.size > person.most_bytes) {
      setProblem(`A recording can be ${Math.round(person.most_bytes / 2 ** 20)} MB at most.`);
      return;
    }
    const take: KeptTake = { ...make(), state: "ready", sampleRate: 0, file, fileName: file.name };
    await keepTake(take);
    await deliver(take);
  };
  return { recorder, recording, ready, begin, finish, choose };
}

/** Of call and response: the calls sound in the rests of the pupil's line. */
function callsOf(score: Schemas["ScoreOut"]) {
  const quarter = 60 / score.tempo_bpm;
  const start = startOf(score);
  const toFirst = ((score.notes[0]?.start_beats ?? start) - start) * quarter;
  return {
    url: `${score.demonstration_url}&company=calls&line=false`,
    leadS: (score.demonstration_onsets[0] ?? 0) - toFirst,
    spans: score.rests.map((rest): [number, number] => [
      (rest.start_beats - start) * quarter,
      (rest.start_beats - start + rest.duration_beats) * quarter,
    ]),
  };
}
