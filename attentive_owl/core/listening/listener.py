"""The listener: puts the stages together. Deterministic; the same samples give the same performance."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import inf

import numpy as np
from numpy.typing import NDArray

from attentive_owl.core.exercises import Score, ScoreNote
from attentive_owl.core.listening import acceptance
from attentive_owl.core.listening.breaks import period_break
from attentive_owl.core.listening.change import Boundaries, find_marks, level_db, propose_boundaries, spectral_flux
from attentive_owl.core.listening.clicks import ClickPulse, find_click, quieten_clicks
from attentive_owl.core.listening.decoding import Move, Path, Segment
from attentive_owl.core.listening.emission import Emission, emission, quiet_probability
from attentive_owl.core.listening.frames import HOP_S, Array, Samples, to_working_rate, without_rumble
from attentive_owl.core.listening.gate import Gate, gate_recording
from attentive_owl.core.listening.logistic import logistic
from attentive_owl.core.listening.melting import FAST_S, join_runs, strokes_inside
from attentive_owl.core.listening.onsets import Span, find_onsets, fine_level_db, sustained_db
from attentive_owl.core.listening.performance import Go, HeardNote, OtherLine, Performance, Refusal, StrayNote
from attentive_owl.core.listening.periods import Candidates, period_candidates
from attentive_owl.core.listening.reading import elsewhere, line_for, pace_of, read
from attentive_owl.core.listening.reasons import reason_in_the_sound
from attentive_owl.core.listening.refining import LEAST_SUPPORT, RINGING_DROP_DB, Refined, refine
from attentive_owl.core.listening.rhythm import not_struck, other_rhythm
from attentive_owl.core.listening.settling import (
    absorb_octaves,
    absorb_tails,
    had_room,
    held_over,
    last_heard,
    like_notes,
    settle,
    sounding_near,
    stroke_near,
    told_by_neither,
    unexplained_sound,
    unexplained_strokes,
)
from attentive_owl.core.listening.tuning import likely_shifts, met_by, tuning_fraction
from attentive_owl.core.theory import frequency_hz

EAR = "ear-9"
"""Goes up with every change that can change what is heard."""


@dataclass(frozen=True)
class _Confidence:
    """Log-odds of being right are constant + slope * strength. `python -m bench.fit_confidence` fits them on takes that
    are hard to hear; its figures (0.7 and 0.8) lie within their own error of these, which are the more modest."""

    constant: float
    slope: float
    missed: float


CONFIDENCE = _Confidence(0.0, 1.0, 0.9)

_WRONG_SEMITONES = 0.7
"""A note further than this from its place on the tuned grid is another note."""
_LEAST_MARGIN = 1.0
_FAINT_DB, _FAINT_REACH = 12.0, 4
"""A note so far under the level of four notes on each side is left to the teacher's ear. By hand: of 1211 right notes few lay 10 dB
under and none 12; of 47 out of a loudspeaker 12 to 22 dB under the pupil 40 did."""
_LEAST_FAINT_DB = 4.0
"""Where the loudest stands less over the floor there is nothing in it."""
_SHORTEST_JUDGED_S = 0.035
_SILENT_SHARE = 0.6
_LOW_TOP_HZ = 1250.0
_CLICK_LASTS_S = 0.08
_MASKING_SNR_DB = 17.0
"""Under it a soft note can be lost in the noise without having been left out."""


@dataclass(frozen=True)
class _Marked:
    """What is seen in a recording on the grid of a score's pitches."""

    tuning: float
    sounding: NDArray[np.bool_]
    heard: Emission
    boundaries: Boundaries
    click: ClickPulse | None


@dataclass(frozen=True)
class _Sound:
    """Features of the recording, computed once."""

    working: Samples
    candidates: Candidates
    level: Array
    flux: Array
    broken_db: Array
    gate: Gate
    fine: Array
    duration_s: float


def listen(
    samples: NDArray[np.floating], sample_rate: int, score: Score, others: Sequence[OtherLine] = ()
) -> Performance | Refusal:
    """Hear what was played of `score`. Where it is not that, it may be one of `others`, and is refused by its name.

    samples: one channel, shape (n,), full scale +-1. Raises ValueError for an empty score or another shape.
    """
    if not score.notes:
        raise ValueError("the score has no notes")
    as_recorded = to_working_rate(samples, sample_rate)
    working = without_rumble(as_recorded, frequency_hz(score.instrument.lowest.midi))
    gate = gate_recording(working, as_recorded)
    duration_s = len(samples) / sample_rate
    faint = "silent" in gate.problems
    if faint and gate.snr_db < _LEAST_FAINT_DB:
        return _refuse("silence", gate, duration_s)
    if duration_s < 0.5:
        return _refuse("too_short", gate, duration_s)

    written = np.array([note.midi for note in score.notes])
    # An octave below what is written: another instrument's line has to be heard as what it is.
    lowest_hz = frequency_hz(min(score.instrument.lowest.midi - 1.6, float(written.min()) - 12.6))
    highest_hz = min(frequency_hz(_highest_heard(written) + 0.5), 2500.0)
    fine_window_s = max(0.010, 1.0 / frequency_hz(float(written.min()) - 1))
    candidates = period_candidates(working, lowest_hz, highest_hz)
    if faint:
        # Too soft for playing near a microphone; where pitches come through it is playing far from it.
        level = level_db(working, max(0.016, 1.0 / lowest_hz))
        pitched = acceptance.has_pitch(candidates, quiet_probability(level, gate) < 0.5)
        return _refuse("too_far" if pitched else "silence", gate, duration_s)
    sound = _Sound(
        working=working,
        candidates=candidates,
        level=level_db(working, max(0.016, 1.0 / lowest_hz)),
        flux=spectral_flux(working),
        broken_db=period_break(working, candidates),
        gate=gate,
        fine=fine_level_db(working, fine_window_s),
        duration_s=duration_s,
    )
    heard = _hear(sound, score, written)
    if isinstance(heard, Refusal):
        return _named(heard, sound, others) if heard.code in _MAY_BE_ANOTHER else heard
    if heard.shift_semitones:
        # What looks like another string may be a line that is known.
        unnamed = _refuse("another_exercise", gate, duration_s)
        named = _named(unnamed, sound, others)
        return heard if named is unnamed else named
    return heard


_MAY_BE_ANOTHER = (
    "another_key",
    "another_octave",
    "another_instrument",
    "another_rhythm",
    "another_exercise",
    "not_this_exercise",
)
_LEAST_MET, _MOST_OTHERS, _LEAST_PLAYED = 0.6, 3, 0.75


def _named(refusal: Refusal, sound: _Sound, others: Sequence[OtherLine]) -> Refusal:
    """The refusal with the name of the other line that was played, where it is one of those that are known: heard as that line
    most of its notes are there, in its place and rhythm. Only the few whose pitches meet what sounds are listened for."""
    sounding = quiet_probability(sound.level, sound.gate) < 0.5
    met = []
    for other in others:
        written = np.array([note.midi for note in other.score.notes])
        fraction = tuning_fraction(sound.candidates, sounding, written)
        met.append((met_by(sound.candidates, sounding, written, fraction), other, written))
    best: tuple[float, OtherLine] | None = None
    for share, other, written in sorted(met, key=lambda entry: -entry[0])[:_MOST_OTHERS]:
        if share < _LEAST_MET:
            continue
        heard = _hear(sound, other.score, written)
        if isinstance(heard, Refusal) or heard.shift_semitones:
            continue
        played = sum(note.status == "played" for note in heard.chosen.notes) / len(heard.chosen.notes)
        if played >= _LEAST_PLAYED and (best is None or played > best[0]):
            best = played, other
    if best is None:
        return refusal
    code = "another_instrument" if best[1].of_instrument else "another_exercise"
    return replace(refusal, code=code, sounds_like=best[1].name, known_as=best[1].known_as)


def _highest_heard(written: NDArray[np.int64]) -> int:
    """Key number up to which is listened: an octave above what is written, on low strings a twelfth, at which they whistle."""
    highest = int(written.max())
    return highest + (19 if frequency_hz(highest + 19.5) < _LOW_TOP_HZ else 12)


def _refuse(code: str, gate: Gate, duration_s: float) -> Refusal:
    return Refusal(code, round(gate.snr_db, 1), gate.clipped_share, gate.problems, round(duration_s, 3))


def _hear(sound: _Sound, score: Score, written: NDArray[np.int64]) -> Performance | Refusal:
    quiet = quiet_probability(sound.level, sound.gate)
    sounding = quiet < 0.5
    if not acceptance.has_pitch(sound.candidates, sounding):
        if sounding.mean() <= 0.5:
            return _refuse("silence", sound.gate, sound.duration_s)
        return _refuse("too_far" if "quiet" in sound.gate.problems else "too_noisy", sound.gate, sound.duration_s)
    tuning = tuning_fraction(sound.candidates, sounding, written)
    low = min(int(written.min()) - 13, score.instrument.lowest.midi - 1)
    high = _highest_heard(written)
    heard = emission(sound.candidates, sound.level, sound.gate, low, high, tuning)
    marks = find_marks(sound.level, sound.flux, heard.quiet, heard.pitch, sound.candidates.roughness(), sound.broken_db)
    boundaries = propose_boundaries(marks, len(sound.level), float(line_for(score, 0).sounding_s.min()))
    click = find_click(sound.working)
    if click:
        boundaries = quieten_clicks(boundaries, click)

    marked = _Marked(tuning, sounding, heard, boundaries, click)
    result = _explained(sound, marked, score, strokes_told=True)
    if not isinstance(result, Refusal) or result.code not in (
        "not_this_exercise",
        "another_exercise",
        "voices",
        "too_noisy",
    ):
        return result
    if joined := join_runs(score):
        melted = _explained(sound, marked, joined.score, strokes_told=False)
        if isinstance(melted, Performance):
            if not strokes_inside(melted, joined, boundaries):
                return replace(_refuse("another_rhythm", sound.gate, sound.duration_s), rhythm="long")
            return joined.part(melted, score)
    if joined := join_runs(score, fast_s=inf):
        held = _explained(sound, marked, joined.score, strokes_told=False)
        if isinstance(held, Performance) and not strokes_inside(held, joined, boundaries):
            # The pitches are the exercise's, one long note for each run of them.
            return replace(_refuse("another_rhythm", sound.gate, sound.duration_s), rhythm="long")
    return result


def _explained(sound: _Sound, marked: _Marked, score: Score, *, strokes_told: bool) -> Performance | Refusal:
    """What was played of a score, or why it was not. Where single strokes can not be told the rhythm is not asked for."""
    tuning, heard, boundaries, click = marked.tuning, marked.heard, marked.boundaries, marked.click
    written = np.array([note.midi for note in score.notes])
    reading = read(heard, boundaries, score, likely_shifts(sound.candidates, marked.sounding, written, tuning))
    shift, line, path = reading.shift, reading.line, reading.path
    path = absorb_octaves(path, boundaries)
    path = absorb_tails(path, boundaries, sound.fine, line.sounding_s * pace_of(path, boundaries, line))

    refined = _refined(path, boundaries, sound, tuning, score)
    strokes_s, sounding_s = unexplained_strokes(path, boundaries, heard), unexplained_sound(path, boundaries, heard)
    unstruck = not_struck(path, boundaries, score) if strokes_told else frozenset[int]()
    around = _Around(tuning, heard, sound.gate, strokes_s, sounding_s, sound.fine, unstruck)
    goes = _goes(path, refined, score, around)
    strays = tuple(
        StrayNote(r.onset_s, r.offset_s, r.midi, r.segment.index)
        for r in refined.values()
        if r.segment.kind == "stray"
        and r.midi is not None
        and not (click and r.offset_s - r.onset_s < _CLICK_LASTS_S and click.is_near(r.onset_s))
    )
    likeness = acceptance.likeness(path, refined, heard.quiet, boundaries, score, shift)
    if not goes or likeness.probability < acceptance.LEAST_LIKENESS:
        if reason := reason_in_the_sound(sound.candidates, marked.sounding, sound.gate):
            return _refuse(reason, sound.gate, sound.duration_s)
        named = likeness.sounds_like
        code = "another_exercise" if named else "not_this_exercise"
        return replace(_refuse(code, sound.gate, sound.duration_s), sounds_like=named)
    if somewhere := elsewhere(reading, score):
        return replace(_refuse(somewhere.code, sound.gate, sound.duration_s), **somewhere.details)
    if strokes_told and (rhythm := other_rhythm(path, boundaries, score)):
        return replace(_refuse("another_rhythm", sound.gate, sound.duration_s), rhythm=rhythm)
    return Performance(
        goes=goes,
        strays=strays,
        tuning_cents=round(100.0 * tuning, 2),
        shift_semitones=shift,
        snr_db=round(sound.gate.snr_db, 1),
        clipped_share=sound.gate.clipped_share,
        problems=sound.gate.problems,
        duration_s=round(sound.duration_s, 3),
        click=click,
    )


def _refined(path: Path, boundaries: Boundaries, sound: _Sound, tuning: float, score: Score) -> dict[int, Refined]:
    """Refined segments by their place among the path's events."""
    time = boundaries.frame * HOP_S
    places = [place for place, event in enumerate(path.events) if isinstance(event, Segment)]
    segments = [event for event in path.events if isinstance(event, Segment)]
    spans = []
    for segment in segments:
        note = score.notes[segment.index] if segment.kind != "stray" else None
        before = score.notes[segment.index - 1] if note is not None and segment.index else None
        slurred = note is not None and note.slurred_from(before)
        spans.append(Span(float(time[segment.start]), float(time[segment.stop]), segment.midi + tuning, slurred))
    onsets = find_onsets(spans, sound.working, sound.fine, sound.candidates)
    ends = [span.end_s for span in spans]
    out = refine(segments, ends, onsets, sound.candidates, sound.fine, tuning)
    return dict(zip(places, out, strict=True))


@dataclass(frozen=True)
class _Around:
    """What a go is judged by beside its own notes."""

    tuning: float
    heard: Emission
    gate: Gate
    strokes_s: Array
    """Strokes that no note explains."""
    sounding_s: Array
    """Moments at which something sounds that no note explains."""
    fine: Array
    """Level, as `onsets.fine_level_db` has it."""
    not_struck: frozenset[int]
    """Notes of which no stroke was heard on any degree."""


def _goes(path: Path, refined: dict[int, Refined], score: Score, around: _Around) -> tuple[Go, ...]:
    goes: list[Go] = []
    for events in path.goes():
        restarts = [(event.origin, event.target) for _, event in events if isinstance(event, Move) and event.goes_back]
        current = last_heard(events, refined)
        # One or two notes are a try of the string, not a go.
        if len(current) >= min(3, len(score.notes)):
            strays = [refined[place] for place, event in events if isinstance(event, Segment) and event.kind == "stray"]
            goes.append(_go(current, restarts, strays, score, around))
    return tuple(goes)


def _go(
    current: dict[int, Refined],
    restarts: list[tuple[int, int]],
    strays: list[Refined],
    score: Score,
    around: _Around,
) -> Go:
    last = max(current)
    current = settle(current, score, around.tuning, strays)
    unsure = told_by_neither(current, score, around.tuning)
    faint = _faint(current, around.fine)
    notes = []
    for note in score.notes:
        heard = current.get(note.index)
        if note.index in unsure:
            notes.append(_unclear(note, "which"))
        elif heard is not None and (note.index in faint or note.index in around.not_struck):
            why = "faint" if note.index in faint else "held"
            notes.append(replace(_heard_note(heard, note, around.tuning), status="unclear", confidence=0.5, reason=why))
        elif heard is not None:
            notes.append(_heard_note(heard, note, around.tuning))
        elif reason := _why_not_missed(note, current, score, around):
            notes.append(_unclear(note, reason))
        else:
            notes.append(HeardNote(note.index, "missed", None, None, None, CONFIDENCE.missed))
    onsets = [r.onset_s for r in current.values()]
    complete = last >= len(score.notes) - 2 and len(current) >= 0.5 * len(score.notes)
    return Go(
        tuple(notes),
        min(onsets),
        max(r.offset_s for r in current.values()),
        complete,
        tuple(restarts),
        _rests_quiet(notes, score, around),
    )


def _faint(current: dict[int, Refined], fine: Array) -> set[int]:
    """Notes so much softer than those around them that something else in the room may have sounded: a loudspeaker that plays
    along, or a neighbour."""
    order = sorted(current)
    levels = np.array([sustained_db(current[index].onset_s, current[index].offset_s, fine) for index in order])
    found = set()
    for at, index in enumerate(order):
        around = np.concatenate([levels[max(at - _FAINT_REACH, 0) : at], levels[at + 1 : at + 1 + _FAINT_REACH]])
        if len(around) >= _FAINT_REACH and levels[at] < np.median(around) - _FAINT_DB:
            found.add(index)
    return found


def _unclear(note: ScoreNote, reason: str) -> HeardNote:
    return HeardNote(note.index, "unclear", None, None, None, 0.5, reason)


def _why_not_missed(note: ScoreNote, current: dict[int, Refined], score: Score, around: _Around) -> str | None:
    """Why a note that was not heard may have been played all the same."""
    index = note.index
    if held_over(index, current, score, around.tuning):
        return "held"
    if _lost_in_a_run(note, score, current):
        return "joined"
    if stroke_near(index, current, score, around.strokes_s) or sounding_near(index, current, score, around.sounding_s):
        return "pitch"
    if around.gate.snr_db < _MASKING_SNR_DB and had_room(index, current, score):
        return "noise"
    return None


def _lost_in_a_run(note: ScoreNote, score: Score, heard: dict[int, Refined]) -> bool:
    """Whether a note that was not heard stands in a fast run on one pitch of which others were: strokes that follow one
    another so fast can melt together, on a string that speaks slowly, without any being left out."""
    if float(note.duration_beats) * 60.0 / score.tempo_bpm > FAST_S:
        return False
    return any(index in heard for index in like_notes(note.index, score))


def _heard_note(heard: Refined, note: ScoreNote, tuning: float) -> HeardNote:
    length = heard.offset_s - heard.onset_s
    per_frame = heard.segment.margin / max((length / HOP_S) ** 0.5, 1.0)
    strength = -0.6 + 3.2 * heard.support + 0.35 * min(per_frame, 8.0) - (1.0 if length < 0.08 else 0.0)
    confidence = round(float(logistic(CONFIDENCE.constant + CONFIDENCE.slope * strength)), 3)
    reason = None
    if heard.midi is None or heard.support < LEAST_SUPPORT:
        reason = "pitch" if heard.segment.at_partial else "noise"
    elif heard.segment.margin < _LEAST_MARGIN:
        reason = "pitch"
    elif length < _SHORTEST_JUDGED_S:
        reason = "short"
    if reason or heard.midi is None:
        status = "unclear"
        confidence = min(confidence, 0.5)
    else:
        status = "wrong_pitch" if abs(heard.midi - tuning - note.midi) > _WRONG_SEMITONES else "played"
    return HeardNote(
        note.index,
        status,
        None if heard.midi is None else round(heard.midi, 4),
        round(heard.onset_s, 4),
        round(heard.offset_s, 4),
        confidence,
        reason,
        round(heard.scatter_cents, 2),
        None if heard.approach_cents is None else round(heard.approach_cents, 1),
        round(heard.bowed_until_s, 4),
    )


def _rests_quiet(notes: list[HeardNote], score: Score, around: _Around) -> tuple[bool, ...]:
    """Whether each written rest was silent, ends left out: nothing was heard in 60 % of it, or only the note before rang on."""
    quiet = []
    for rest in score.rests:
        before = max((n.index for n in score.notes if n.end_beats <= rest.start_beats), default=None)
        after = None if before is None else before + 1
        if before is None or after is None or after >= len(notes):
            quiet.append(True)
            continue
        begin, end = notes[before].onset_s, notes[after].onset_s
        if begin is None or end is None:
            quiet.append(True)
            continue
        share = float(
            (rest.start_beats - score.notes[before].start_beats)
            / (score.notes[after].start_beats - score.notes[before].start_beats)
        )
        low = begin + (share + 0.3 * (1 - share)) * (end - begin)
        high = max(end - 0.04, low)
        piece = around.heard.quiet[int(low / HOP_S) : int(high / HOP_S)]
        silent = len(piece) == 0 or piece.mean() > _SILENT_SHARE
        until = begin + share * (end - begin)
        rang = sustained_db(low, high, around.fine) < sustained_db(begin, until, around.fine) - RINGING_DROP_DB
        quiet.append(bool(silent or rang))
    return tuple(quiet)
