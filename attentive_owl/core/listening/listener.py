"""The listener: puts the stages together. Deterministic; the same samples give the same performance."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from math import inf
from typing import Any

import numpy as np
from numpy.typing import NDArray

from attentive_owl.core.exercises import Score
from attentive_owl.core.listening.acceptance.elsewhere import elsewhere
from attentive_owl.core.listening.acceptance.likeness import LEAST_LIKENESS, Likeness, has_pitch, likeness
from attentive_owl.core.listening.acceptance.merged_repeats import filled, join_runs, runs_of, strokes_inside
from attentive_owl.core.listening.acceptance.other_pattern import another_pattern
from attentive_owl.core.listening.acceptance.reasons import reason_in_the_sound
from attentive_owl.core.listening.acceptance.rhythm_mismatch import not_struck, other_rhythm, places_of
from attentive_owl.core.listening.alignment.observations import Emission, emission, quiet_probability
from attentive_owl.core.listening.alignment.path import Path, Segment
from attentive_owl.core.listening.alignment.readings import line_for, pace_of, read
from attentive_owl.core.listening.alignment.transposition import likely_shifts, met_by, tuning_fraction
from attentive_owl.core.listening.features.extract import (
    Features,
    extract,
    highest_heard,
    level_in,
    pitches_in,
    take_in,
)
from attentive_owl.core.listening.features.frames import HOP_S
from attentive_owl.core.listening.features.metronome import ClickPulse, find_click, quieten_clicks
from attentive_owl.core.listening.features.novelty import (
    Boundaries,
    novelty_peaks,
    propose_boundaries,
)
from attentive_owl.core.listening.features.recording_quality import Gate
from attentive_owl.core.listening.features.stroke_signs import StrokeSigns, stroke_signs
from attentive_owl.core.listening.notes.absorbing import (
    absorb_held,
    absorb_octaves,
    absorb_tails,
    absorb_unstruck,
    settle_octaves,
)
from attentive_owl.core.listening.notes.doubts import unexplained_sound, unexplained_strokes
from attentive_owl.core.listening.notes.guessed import guessed_strokes
from attentive_owl.core.listening.notes.intruders import free_intruders
from attentive_owl.core.listening.notes.onsets import Span, find_onsets
from attentive_owl.core.listening.notes.pitch import Refined, refine
from attentive_owl.core.listening.notes.statuses import Around, passes_of
from attentive_owl.core.listening.notes.strays import strays_of
from attentive_owl.core.listening.performance import (
    Doubt,
    NoteStatus,
    OtherLine,
    Performance,
    Refusal,
    RefusalCode,
)

EAR = "ear-24"
"""Goes up with every change that can change what is heard."""


_LEAST_FAINT_DB = 4.0
"""Where the loudest stands less over the floor there is nothing in it."""


@dataclass(frozen=True)
class _Observed:
    """What is seen in a recording on the grid of a score's pitches."""

    tuning: float
    sounding: NDArray[np.bool_]
    heard: Emission
    boundaries: Boundaries
    signs: StrokeSigns
    click: ClickPulse | None


@dataclass
class Trace:
    """What was found on the way, for whoever fits or draws it: one entry each time that the take was read against a line."""

    likenesses: list[Likeness] = field(default_factory=list)
    alignments: list[tuple[Path, StrokeSigns, Score]] = field(default_factory=list)
    """Those whose rhythm was asked for."""


def listen(
    samples: NDArray[np.floating],
    sample_rate: int,
    score: Score,
    others: Sequence[OtherLine] = (),
    trace: Trace | None = None,
) -> Performance | Refusal:
    """Hear what was played of `score`. Where it is not that, it may be one of `others`, and is refused by its name.

    samples: one channel, shape (n,), full scale +-1. Raises ValueError for an empty score or another shape.
    """
    if not score.notes:
        raise ValueError("the score has no notes")
    recording = take_in(samples, sample_rate, score.instrument)
    gate, duration_s = recording.gate, recording.duration_s
    faint = "silent" in gate.problems
    if faint and gate.snr_db < _LEAST_FAINT_DB:
        return _refuse(RefusalCode.SILENCE, gate, duration_s)
    if duration_s < 0.5:
        return _refuse(RefusalCode.TOO_SHORT, gate, duration_s)

    written = np.array([note.midi for note in score.notes])
    if faint:
        # Too soft for playing near a microphone; where pitches come through it is playing far from it.
        sounding = quiet_probability(level_in(recording, written, score.instrument), gate) < 0.5
        pitched = has_pitch(pitches_in(recording, written, score.instrument), sounding)
        return _refuse(RefusalCode.TOO_FAR if pitched else RefusalCode.SILENCE, gate, duration_s)
    sound = extract(recording, written, score.instrument)
    heard = _hear(sound, score, written, trace or Trace())
    if isinstance(heard, Refusal):
        return _named(heard, sound, others) if heard.code in _MAY_BE_ANOTHER else heard
    if heard.shift_semitones:
        # What looks like another string may be a line that is known.
        unnamed = _refuse(RefusalCode.ANOTHER_EXERCISE, gate, duration_s)
        named = _named(unnamed, sound, others)
        return heard if named is unnamed else named
    return heard


_MAY_BE_ANOTHER = (
    RefusalCode.ANOTHER_KEY,
    RefusalCode.ANOTHER_OCTAVE,
    RefusalCode.ANOTHER_INSTRUMENT,
    RefusalCode.ANOTHER_RHYTHM,
    RefusalCode.ANOTHER_EXERCISE,
    RefusalCode.NOT_THIS_EXERCISE,
)
_LEAST_MET, _MOST_OTHERS, _LEAST_PLAYED = 0.6, 3, 0.75
"""Another line is listened for where so much of what sounds meets its pitches, the best few of them; it is the one where so many of its
notes are played (by hand)."""


def _named(refusal: Refusal, sound: Features, others: Sequence[OtherLine]) -> Refusal:
    """The refusal with the name of the other line that was played, where it is one of those that are known: heard as that line
    most of its notes are there, in its place and rhythm. Only the few whose pitches meet what sounds are listened for."""
    sounding = quiet_probability(sound.level, sound.recording.gate) < 0.5
    met = []
    for other in others:
        written = np.array([note.midi for note in other.score.notes])
        fraction = tuning_fraction(sound.candidates, sounding, written, np.array(other.score.signs()))
        met.append((met_by(sound.candidates, sounding, written, fraction), other, written))
    best: tuple[float, OtherLine] | None = None
    for share, other, written in sorted(met, key=lambda entry: -entry[0])[:_MOST_OTHERS]:
        if share < _LEAST_MET:
            continue
        heard = _hear(sound, other.score, written, Trace())
        if isinstance(heard, Refusal) or heard.shift_semitones:
            continue
        played = sum(note.status == NoteStatus.PLAYED for note in heard.chosen.notes) / len(heard.chosen.notes)
        if played >= _LEAST_PLAYED and (best is None or played > best[0]):
            best = played, other
    if best is None:
        return refusal
    code = RefusalCode.ANOTHER_INSTRUMENT if best[1].of_instrument else RefusalCode.ANOTHER_EXERCISE
    return replace(refusal, code=code, sounds_like=best[1].name, known_as=best[1].known_as)


def _refuse(code: RefusalCode, gate: Gate, duration_s: float, **details: Any) -> Refusal:
    return Refusal(code, round(gate.snr_db, 1), gate.clipped_share, gate.problems, round(duration_s, 3), **details)


def _in_another_rhythm(sound: Features, shift: int, rhythm: str, **patterns: Any) -> Refusal:
    gate, duration_s = sound.recording.gate, sound.recording.duration_s
    return _refuse(
        RefusalCode.ANOTHER_RHYTHM, gate, duration_s, shift_semitones=shift or None, rhythm=rhythm, **patterns
    )


def _hear(sound: Features, score: Score, written: NDArray[np.int64], trace: Trace) -> Performance | Refusal:
    quiet = quiet_probability(sound.level, sound.recording.gate)
    sounding = quiet < 0.5
    if not has_pitch(sound.candidates, sounding):
        gate = sound.recording.gate
        code = RefusalCode.TOO_FAR if "quiet" in gate.problems else RefusalCode.TOO_NOISY
        if sounding.mean() <= 0.5 or (code is RefusalCode.TOO_FAR and gate.snr_db < _LEAST_FAINT_DB):
            code = RefusalCode.SILENCE
        return _refuse(code, gate, sound.recording.duration_s)
    tuning = tuning_fraction(sound.candidates, sounding, written, np.array(score.signs()))
    low = min(int(written.min()) - 13, score.instrument.lowest.midi - 1)
    high = highest_heard(written)
    heard = emission(sound.candidates, sound.level, sound.recording.gate, low, high, tuning)
    peaks = novelty_peaks(
        sound.level, sound.flux, heard.quiet, heard.pitch, sound.candidates.roughness(), sound.broken_db
    )
    boundaries = propose_boundaries(peaks, len(sound.level), float(line_for(score, 0).sounding_s.min()))
    click = find_click(sound.recording.working)
    if click:
        boundaries = quieten_clicks(boundaries, click)

    observed = _Observed(tuning, sounding, heard, boundaries, stroke_signs(boundaries, sound.level), click)
    result = _explained(sound, observed, score, trace, strokes_told=True)
    if not isinstance(result, Refusal) or result.code not in (
        RefusalCode.NOT_THIS_EXERCISE,
        RefusalCode.ANOTHER_EXERCISE,
        RefusalCode.VOICES,
        RefusalCode.TOO_NOISY,
        RefusalCode.NO_CLEAR_NOTES,
    ):
        return result
    if joined := join_runs(score):
        melted = _explained(sound, observed, joined.score, trace, strokes_told=False)
        if isinstance(melted, Performance):
            if strokes_inside(melted, joined, boundaries, score):
                return joined.part(melted, score)
            if filled(melted):
                return _in_another_rhythm(sound, melted.shift_semitones, "long")
    if joined := join_runs(score, fast_s=inf):
        held = _explained(sound, observed, joined.score, trace, strokes_told=False)
        if isinstance(held, Refusal):
            # Another rhythm in another key is told as the other key.
            return held if held.code == RefusalCode.ANOTHER_KEY else result
        if isinstance(held, Performance):
            if not strokes_inside(held, joined, boundaries, score):
                # The pitches are the exercise's, one long note for each run of them.
                return _in_another_rhythm(sound, held.shift_semitones, "long") if filled(held) else result
            if result.code == RefusalCode.NOT_THIS_EXERCISE and joined.is_all_of(held, score):
                # It is this line; with how many strokes, the teacher's ear will tell.
                return joined.part(held, score, Doubt.HELD)
    return result


def _explained(
    sound: Features, observed: _Observed, score: Score, trace: Trace, *, strokes_told: bool
) -> Performance | Refusal:
    """What was played of a score, or why it was not. Where single strokes can not be told the rhythm is not asked for."""
    tuning, heard, boundaries, click = observed.tuning, observed.heard, observed.boundaries, observed.click
    signs = observed.signs
    written = np.array([note.midi for note in score.notes])
    reading = read(heard, boundaries, score, likely_shifts(sound.candidates, observed.sounding, written, tuning))
    shift, line, path = reading.shift, reading.line, reading.path
    path = settle_octaves(absorb_held(absorb_octaves(path, boundaries), boundaries), score)
    path = absorb_tails(path, boundaries, sound.fine, line.sounding_s * pace_of(path, boundaries, line))
    path = absorb_unstruck(path, signs, score) if strokes_told else path
    pace = pace_of(path, boundaries, line)
    path = free_intruders(path, boundaries, score, pace * 60.0 / score.tempo_bpm)

    refined = _refined(path, boundaries, sound, tuning, score)
    heard_midi = {own.segment.start: own.midi for own in refined.values() if own.midi is not None}
    held = absorb_held(path, boundaries, heard_midi)
    if held.events != path.events:
        path, refined = held, _refined(held, boundaries, sound, tuning, score)
    strokes_s, sounding_s = unexplained_strokes(path, boundaries, heard), unexplained_sound(path, boundaries, heard)
    places = places_of(path, signs, score) if strokes_told else []
    around = Around(
        tuning,
        heard,
        sound.recording.gate,
        strokes_s,
        sounding_s,
        sound.fine,
        not_struck(places),
        guessed_strokes(path, signs, score),
    )
    passes = passes_of(path, refined, score, around)
    strays = strays_of(refined.values(), score.instrument.lowest.midi + tuning, click)
    like = likeness(path, refined, heard.quiet, boundaries, score, shift)
    trace.likenesses.append(like)
    other = another_pattern(path, signs, places, score, runs_of(score)) if strokes_told else None
    if (not passes or like.probability < LEAST_LIKENESS) and not (other and other.is_whole):
        if reason := reason_in_the_sound(sound.candidates, observed.sounding, sound.recording.gate):
            return _refuse(reason, sound.recording.gate, sound.recording.duration_s)
        named = like.sounds_like
        code = RefusalCode.ANOTHER_EXERCISE if named else RefusalCode.NOT_THIS_EXERCISE
        return _refuse(code, sound.recording.gate, sound.recording.duration_s, sounds_like=named)
    rhythm = other_rhythm(path, signs, places, score, pace) if strokes_told else None
    rhythm = rhythm or (other.rhythm if other else None)
    # A line in another key is not read there where its rhythm is another one, too.
    place = reading.rival if rhythm and reading.rival else reading
    if somewhere := elsewhere(place, score):
        return _refuse(somewhere.code, sound.recording.gate, sound.recording.duration_s, **somewhere.details)
    trace.alignments += [(path, signs, score)] if strokes_told else []
    if rhythm:
        patterns = {"pattern": other.heard, "written_pattern": other.written} if other else {}
        return _in_another_rhythm(sound, place.shift, rhythm, **patterns)
    return Performance(
        passes=passes,
        strays=strays,
        tuning_cents=round(100.0 * tuning, 2),
        shift_semitones=shift,
        snr_db=round(sound.recording.gate.snr_db, 1),
        clipped_share=sound.recording.gate.clipped_share,
        problems=sound.recording.gate.problems,
        duration_s=round(sound.recording.duration_s, 3),
        click=click,
    )


def _refined(path: Path, boundaries: Boundaries, sound: Features, tuning: float, score: Score) -> dict[int, Refined]:
    """Refined segments by their place among the path's events."""
    time = boundaries.frame * HOP_S
    places = [place for place, event in enumerate(path.events) if isinstance(event, Segment)]
    segments = [event for event in path.events if isinstance(event, Segment)]
    spans = []
    for segment in segments:
        note = score.notes[segment.index] if segment.kind != "stray" else None
        before = score.notes[segment.index - 1] if note is not None and segment.index else None
        slurred = note is not None and note.legato_from(before)
        spans.append(Span(float(time[segment.start]), float(time[segment.stop]), segment.midi + tuning, slurred))
    onsets = find_onsets(spans, sound.recording.working, sound.fine, sound.candidates)
    ends = [span.end_s for span in spans]
    out = refine(segments, ends, onsets, sound.candidates, sound.fine, tuning)
    return dict(zip(places, out, strict=True))
