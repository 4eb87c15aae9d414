"""The report: one plain dictionary, the format that files, database and screens share."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from attentive_owl.core.exercises import Score
from attentive_owl.core.judging.advice import Advice, advise, refusal_words
from attentive_owl.core.judging.cause import Cause
from attentive_owl.core.judging.causes import find_causes
from attentive_owl.core.judging.deviations import Deviation, StringTuning, deviations, instrument_cents, string_tuning
from attentive_owl.core.judging.expectations import Expectations
from attentive_owl.core.judging.landings import Landing, find_landings
from attentive_owl.core.judging.pulse import Pulse, find_pulse, tempo_curve
from attentive_owl.core.listening import ENGINE
from attentive_owl.core.listening.performance import Go, Performance, Refusal
from attentive_owl.core.theory import cents_between

REPORT_FORMAT = "attentive-owl-report"
REPORT_VERSION = 1
_CLEAN_SHARE = 0.9


def judge(performance: Performance | Refusal, score: Score, expectations: Expectations) -> dict[str, Any]:
    """The report of a take. A refusal gives a report that judges nothing."""
    if isinstance(performance, Refusal):
        return refuse(performance, expectations)
    goes = tuple(_judge_go(performance, place, score, expectations) for place in range(len(performance.goes)))
    if expectations.mode == "repeats":
        performance = replace(performance, picked=_best(goes))
    go = performance.chosen
    pulse = find_pulse(score, go, performance.strays)
    found = deviations(performance, score, expectations, pulse)
    own_cents = instrument_cents(performance, score, expectations)
    off_cents = own_cents if expectations.a4_hz is None else own_cents - cents_between(440.0, expectations.a4_hz)
    causes = find_causes(performance, score, expectations, found, pulse, off_cents)
    words = advise(score, expectations, found, causes, pulse)
    return {
        **_head(expectations),
        "accepted": True,
        "refusal": None,
        "recording": _recording(performance),
        "tempo": {**_tempo(score, pulse, expectations), "curve": _curve(score, go, pulse)},
        "first_note": _first_note(found),
        "landings": [_landing(own) for own in find_landings(found)],
        "tuning": _tuning(own_cents, string_tuning(performance, score, expectations)),
        "passes": [_pass(own, own is go, judged) for own, judged in zip(performance.goes, goes, strict=True)],
        "clean_in_a_row": _longest_run(goes),
        "notes": [_note(d) for d in found],
        "extras": [
            {
                "onset_s": round(s.onset_s, 4),
                "offset_s": round(s.offset_s, 4),
                "heard_midi": round(s.heard_midi, 3),
                "before": s.before,
            }
            for s in performance.strays
            if go.start_s - 0.5 <= s.onset_s <= go.end_s + 0.5
        ],
        "rests": [{"index": i, "quiet": quiet} for i, quiet in enumerate(go.rests_quiet)],
        "judgement": _judgement(found, go, pulse, expectations),
        "causes": [_cause(cause) for cause in causes],
        "advice": [_advice(own) for own in words],
    }


def refuse(refusal: Refusal, expectations: Expectations) -> dict[str, Any]:
    return {
        **_head(expectations),
        "accepted": False,
        "refusal": {"code": refusal.code, "words": refusal_words(refusal.code, refusal.sounds_like)},
        "recording": _recording(refusal),
        "tempo": {
            "target_bpm": expectations.target_bpm,
            "played_bpm": None,
            "drift_percent": None,
            "stops": [],
            "curve": [],
        },
        "first_note": None,
        "landings": [],
        "tuning": {"a4_hz": None, "strings": {}, "certainty": {}},
        "passes": [],
        "clean_in_a_row": 0,
        "notes": [],
        "extras": [],
        "rests": [],
        "judgement": {},
        "causes": [],
        "advice": [],
    }


def _head(expectations: Expectations) -> dict[str, Any]:
    return {
        "format": REPORT_FORMAT,
        "version": REPORT_VERSION,
        "engine": ENGINE,
        "expectations": {
            "level": expectations.level.key,
            "pitch_cents": expectations.level.pitch_cents,
            "timing_ms": expectations.level.timing_ms,
            "tempo_percent": expectations.level.tempo_percent,
            "temperament": expectations.temperament.value,
            "a4_hz": expectations.a4_hz,
            "mode": expectations.mode,
        },
    }


def _recording(source: Performance | Refusal) -> dict[str, Any]:
    click = source.click if isinstance(source, Performance) else None
    return {
        "duration_s": source.duration_s,
        "snr_db": source.snr_db,
        "clipped_share": round(source.clipped_share, 6),
        "problems": list(source.problems),
        "click": {"bpm": click.bpm, "first_s": click.first_s, "clicks": click.clicks} if click else None,
    }


def _tempo(score: Score, pulse: Pulse | None, expectations: Expectations) -> dict[str, Any]:
    if pulse is None:
        return {"target_bpm": expectations.target_bpm, "played_bpm": None, "drift_percent": None, "stops": []}
    return {
        "target_bpm": expectations.target_bpm,
        "played_bpm": round(pulse.played_bpm, 2),
        "drift_percent": round(pulse.drift_percent, 2),
        "stops": [
            {
                "index": stop.index,
                "measure": score.notes[stop.index].measure,
                "beat": float(score.notes[stop.index].beat),
                "seconds": round(stop.seconds, 2),
                "restart": stop.restart,
            }
            for stop in pulse.stops
        ],
    }


def _curve(score: Score, go: Go, pulse: Pulse | None) -> list[dict[str, Any]]:
    if pulse is None:
        return []
    return [{"index": index, "bpm": round(bpm, 1)} for index, bpm in tempo_curve(score, go, pulse)]


def _first_note(found: tuple[Deviation, ...]) -> dict[str, Any] | None:
    """The first note that was heard surely: what a pupil tests before starting."""
    first = next((d for d in found if d.judged), None)
    if first is None or first.note.index > 0:
        return None
    return {"cents": _rounded(first.cents, 1), "home": first.in_tune}


def _landing(own: Landing) -> dict[str, Any]:
    return {
        "string": own.string,
        "finger": own.finger,
        "name": own.name,
        "notes": list(own.notes),
        "mean_cents": round(own.mean_cents, 1),
        "spread_cents": round(own.spread_cents, 1),
    }


def _tuning(own_cents: float, strings: dict[str, StringTuning]) -> dict[str, Any]:
    return {
        "a4_hz": round(440.0 * 2 ** (own_cents / 1200.0), 2),
        "strings": {name: round(string.cents, 1) for name, string in strings.items()},
        "certainty": {
            name: {"plus_minus_cents": round(string.uncertainty_cents, 1), "source": string.source}
            for name, string in strings.items()
        },
    }


@dataclass(frozen=True)
class _JudgedGo:
    """One time through, judged by itself."""

    complete: bool
    pitch_home: int
    time_home: int
    notes: int
    clean: bool
    """Whole, no stop, every note heard, nine in ten home in pitch and in time."""


def _judge_go(performance: Performance, place: int, score: Score, expectations: Expectations) -> _JudgedGo:
    own = replace(performance, picked=place)
    pulse = find_pulse(score, own.chosen, own.strays)
    found = deviations(own, score, expectations, pulse)
    judged = [d for d in found if d.judged]
    timed = [d for d in found if d.timing_ms is not None]
    pitch, time = sum(d.in_tune for d in judged), sum(d.on_time for d in timed)
    whole = own.chosen.complete and all(d.heard.status != "missed" for d in found)
    clean = (
        whole
        and pitch >= _CLEAN_SHARE * len(judged)
        and time >= _CLEAN_SHARE * len(timed)
        and not (pulse and pulse.stops)
        and not own.chosen.restarts
    )
    return _JudgedGo(own.chosen.complete, pitch, time, len(found), clean)


def _best(goes: tuple[_JudgedGo, ...]) -> int:
    """The whole go with most at home, the later of equals; a broken one only where none is whole."""
    return max(
        range(len(goes)),
        key=lambda place: (goes[place].complete, goes[place].pitch_home + goes[place].time_home, place),
    )


def _longest_run(goes: tuple[_JudgedGo, ...]) -> int:
    longest = run = 0
    for go in goes:
        run = run + 1 if go.clean else 0
        longest = max(longest, run)
    return longest


def _pass(go: Go, chosen: bool, judged: _JudgedGo) -> dict[str, Any]:
    return {
        "pitch_home": judged.pitch_home,
        "time_home": judged.time_home,
        "clean": judged.clean,
        "start_s": round(go.start_s, 3),
        "end_s": round(go.end_s, 3),
        "complete": go.complete,
        "notes_played": len(go.played),
        "restarts": [{"reached": reached, "back_to": target} for reached, target in go.restarts],
        "chosen": chosen,
    }


def _rounded(value: float | None, digits: int) -> float | None:
    return None if value is None else round(value, digits)


def _note(d: Deviation) -> dict[str, Any]:
    return {
        "index": d.note.index,
        "measure": d.note.measure,
        "beat": float(d.note.beat),
        "midi": d.note.midi,
        "name": d.note.pitch.name,
        "string": d.string,
        "finger": d.finger,
        "status": d.heard.status,
        "reason": d.heard.reason,
        "heard_midi": _rounded(d.heard.heard_midi, 3),
        "cents": _rounded(d.cents, 1),
        "onset_s": d.heard.onset_s,
        "offset_s": d.heard.offset_s,
        "timing_ms": _rounded(d.timing_ms, 1),
        "duration_ratio": _rounded(d.duration_ratio, 3),
        "confidence": d.heard.confidence,
        "pitch_tolerance_cents": d.pitch_tolerance_cents,
        "timing_tolerance_ms": d.timing_tolerance_ms,
    }


def _word(share: float | None) -> str:
    if share is None:
        return "not judged"
    return "home" if share >= 0.9 else "nearly home" if share >= 0.7 else "on the way"


def _judgement(found: tuple[Deviation, ...], go: Go, pulse: Pulse | None, expectations: Expectations) -> dict[str, Any]:
    judged = [d for d in found if d.judged]
    cents = [d.cents for d in judged if d.heard.status == "played" and d.cents is not None]
    timed = [d for d in found if d.timing_ms is not None]
    played = sum(1 for d in found if d.heard.status != "missed")
    in_tune = sum(1 for d in judged if d.in_tune)
    on_time = sum(1 for d in timed if d.on_time)
    no_time = expectations.mode == "pauses" or not timed
    tempo_off = None if pulse is None else 100.0 * (pulse.played_bpm / expectations.target_bpm - 1.0)
    tempo_home = (
        None
        if tempo_off is None or expectations.mode == "pauses"
        else abs(tempo_off) <= expectations.level.tempo_percent
    )
    return {
        "pitch": {
            "word": _word(in_tune / len(judged) if judged else None),
            "home": in_tune,
            "of": len(judged),
            "median_cents": _rounded(float(np.median(cents)) if cents else None, 1),
            "spread_cents": _rounded(
                float(np.median(np.abs(np.array(cents) - np.median(cents)))) if cents else None, 1
            ),
        },
        "rhythm": {
            "word": "not judged" if no_time else _word(on_time / len(timed)),
            "home": on_time,
            "of": len(timed),
            "spread_ms": _rounded(float(np.median([abs(d.timing_ms or 0.0) for d in timed])) if timed else None, 1),
        },
        "tempo": {
            "word": "not judged" if tempo_home is None else "home" if tempo_home else "on the way",
            "percent": _rounded(tempo_off, 1),
        },
        "completeness": {
            "word": _word(played / len(found)),
            "played": played,
            "of": len(found),
            "missed": len(found) - played,
            "stops": len(pulse.stops) if pulse else 0,
            "rests_kept": sum(go.rests_quiet),
            "rests": len(go.rests_quiet),
        },
    }


def _advice(own: Advice) -> dict[str, Any]:
    return {
        "kind": own.kind,
        "text": own.text,
        "cause": own.cause,
        "parent": own.parent or own.text,
        "teacher": own.teacher or own.text,
    }


def _cause(cause: Cause) -> dict[str, Any]:
    return {
        "kind": cause.kind,
        "string": cause.string,
        "finger": cause.finger,
        "cents": cause.cents,
        "mm": cause.mm,
        "towards": cause.towards,
        "notes": list(cause.notes),
        "confidence": cause.confidence,
        "detail": cause.detail or {},
    }
