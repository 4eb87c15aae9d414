"""What is said of every written note: played, on another pitch, left out, or not to be judged and why; and how surely."""

from __future__ import annotations

from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from attentive_owl.core.exercises import Score, ScoreNote
from attentive_owl.core.listening.alignment.observations import Emission
from attentive_owl.core.listening.alignment.path import Move, Path, Segment
from attentive_owl.core.listening.features.frames import HOP_S, Array
from attentive_owl.core.listening.features.levels import sustained_db
from attentive_owl.core.listening.features.recording_quality import Gate
from attentive_owl.core.listening.logistic import logistic
from attentive_owl.core.listening.notes.doubts import (
    begun_before,
    had_room,
    held_over,
    sounding_near,
    stroke_near,
    taken_for_both,
)
from attentive_owl.core.listening.notes.pace import is_other, like_notes, pace_of
from attentive_owl.core.listening.notes.pitch import LEAST_SUPPORT, RINGING_DROP_DB, Refined
from attentive_owl.core.listening.notes.reassignment import last_heard, settle, told_by_neither
from attentive_owl.core.listening.notes.whose import deal_by_plain_strokes
from attentive_owl.core.listening.performance import Doubt, HeardNote, HeardPass, NoteStatus
from attentive_owl.core.listening.weights import CONFIDENCE_WEIGHTS

MISSED_CONFIDENCE = 0.9
"""Of a note that is said to be left out. By hand."""
_WRONG_SEMITONES = 0.7
"""A note further than this from its place on the tuned grid is another note."""
_LEAST_MARGIN = 1.0
"""Log-likelihood: with less another pitch explains the sound as well."""
_FAINT_DB, _FAINT_REACH = 12.0, 4
"""A note so far under the level of four notes on each side is left to the teacher's ear."""
_FAINTER_DB, _LEAST_FAINTER_S = 8.0, 0.3
"""And so is one that lies so far under those and the same note elsewhere in the pass, in the mean of the two: a string may speak softly on
one note, but then each time. Short notes differ by as much. By hand: of the right notes in three takes of each family two did, both of them short; of 120
out of a loudspeaker 12 to 22 dB under the pupil 117 do one or the other."""
FAST_S = 0.2
"""Strokes on one pitch that follow one another so fast can melt together."""
_SHORTEST_JUDGED_S = 0.035
"""A shorter one has no pitch to speak of."""
_SILENT_SHARE = 0.6
"""Of a rest."""
_MASKING_SNR_DB = 17.0
"""Under it a soft note can be lost in the noise without having been left out."""


@dataclass(frozen=True)
class Around:
    """What a pass is judged by beside its own notes."""

    tuning: float
    heard: Emission
    gate: Gate
    strokes_s: Array
    """Strokes that no note explains."""
    sounding_s: Array
    """Moments at which something sounds that no note explains."""
    fine: Array
    """Level, as `features.levels.fine_level_db` has it."""
    not_struck: frozenset[int]
    """Notes of which no stroke was heard on any degree."""
    guessed: frozenset[int] = frozenset()
    """Boundaries at which a stroke was placed and hardly heard (`notes.guessed`)."""


def passes_of(path: Path, refined: dict[int, Refined], score: Score, around: Around) -> tuple[HeardPass, ...]:
    """Every time that the line was played through or begun, with what was heard of each note; a try of one or two notes is none."""
    passes: list[HeardPass] = []
    for events in path.passes():
        moves = [event for _, event in events if isinstance(event, Move) and event.goes_back]
        restarts = [(move.origin, move.target) for move in moves if move.origin < len(score.notes)]
        current = last_heard(events, refined)
        # One or two notes are a try of the string, not a pass.
        if len(current) >= min(3, len(score.notes)):
            strays = [refined[place] for place, event in events if isinstance(event, Segment) and event.kind == "stray"]
            own = _pass(current, restarts, strays, score, around)
            # A measure and what follows it, once more after the end, is no whole pass.
            passes.append(own if len(moves) == len(restarts) else replace(own, complete=False))
    return tuple(passes)


def _pass(
    current: dict[int, Refined],
    restarts: list[tuple[int, int]],
    strays: list[Refined],
    score: Score,
    around: Around,
) -> HeardPass:
    last = max(current)
    current = settle(current, score, around.tuning, strays)
    unsure = told_by_neither(current, score, around.tuning)
    faint = _faint(current, score, around.fine)
    guessed = {index for index, heard in current.items() if heard.segment.start in around.guessed}
    # Around a return the pace tells nothing.
    returned = {index for _, target in restarts for index in like_notes(target, score) if target < len(score.notes)}
    known = unsure | returned
    dealt = deal_by_plain_strokes(current, guessed - known, (faint | around.not_struck) - known, score, around.tuning)
    current = dealt.heard
    faint -= dealt.moved
    begun = begun_before(current, score, around.sounding_s)
    notes = []
    for note in score.notes:
        heard = current.get(note.index)
        if note.index in unsure:
            notes.append(_unclear(note, Doubt.WHICH))
        elif note.index in dealt.lost:
            notes.append(_unclear(note, Doubt.HELD))
        elif heard is not None and (note.index in faint or note.index in around.not_struck):
            why = Doubt.FAINT if note.index in faint else Doubt.HELD
            notes.append(
                replace(_heard_note(heard, note, around.tuning), status=NoteStatus.UNCLEAR, confidence=0.5, reason=why)
            )
        elif heard is not None:
            own = _heard_note(heard, note, around.tuning)
            sure = heard.segment.start not in around.guessed and note.index not in begun | dealt.unsure
            beside = own.status == NoteStatus.WRONG_PITCH and not sure and _is_beside(heard, note, score, around.tuning)
            notes.append(_unclear(note, Doubt.WHICH) if beside else replace(own, moment_sure=sure))
        elif reason := _why_not_missed(note, current, score, around):
            notes.append(_unclear(note, reason))
        else:
            notes.append(HeardNote(note.index, NoteStatus.MISSED, None, None, None, MISSED_CONFIDENCE))
    onsets = [r.onset_s for r in current.values()]
    complete = last >= len(score.notes) - 2 and len(current) >= 0.5 * len(score.notes)
    return HeardPass(
        tuple(notes),
        min(onsets),
        max(r.offset_s for r in current.values()),
        complete,
        tuple(restarts),
        _rests_quiet(notes, score, around),
    )


def _is_beside(heard: Refined, note: ScoreNote, score: Score, tuning: float) -> bool:
    """Whether what was heard for a note has the pitch of the written one before it or after it: with a stroke that is a guess it may be that."""
    return any(
        not is_other(heard, other.midi + tuning)
        for other in score.notes[max(note.index - 1, 0) : note.index + 2]
        if other is not note
    )


def _faint(current: dict[int, Refined], score: Score, fine: Array) -> set[int]:
    """Notes so much softer than those around them, or than those and the same note elsewhere, that something else in the room may have
    sounded: a loudspeaker that plays along, or a neighbour."""
    order = sorted(current)
    levels = np.array([sustained_db(current[index].onset_s, current[index].offset_s, fine) for index in order])
    midi = np.array([score.notes[index].midi for index in order])
    found, softer = set(), set()
    for at, index in enumerate(order):
        around = np.concatenate([levels[max(at - _FAINT_REACH, 0) : at], levels[at + 1 : at + 1 + _FAINT_REACH]])
        if len(around) < _FAINT_REACH:
            continue
        under_db = float(np.median(around) - levels[at])
        same = levels[(midi == midi[at]) & (np.arange(len(order)) != at)]
        long = current[index].offset_s - current[index].onset_s >= _LEAST_FAINTER_S
        under_both_db = (under_db + float(np.median(same) - levels[at])) / 2 if len(same) and long else 0.0
        if under_db > _FAINT_DB or under_both_db > _FAINTER_DB:
            found.add(index)
        elif under_db > _FAINTER_DB and long:
            softer.add(index)
    # Beside a faint note on its pitch a softer one may be of the same sound.
    beside = {index for run in (like_notes(index, score) for index in found) for index in run}
    return found | (softer & beside)


def _unclear(note: ScoreNote, reason: Doubt) -> HeardNote:
    return HeardNote(note.index, NoteStatus.UNCLEAR, None, None, None, 0.5, reason)


def _why_not_missed(note: ScoreNote, current: dict[int, Refined], score: Score, around: Around) -> Doubt | None:
    """Why a note that was not heard may have been played all the same."""
    index = note.index
    if around.not_struck and len(like_notes(index, score)) > 1:
        # Where strokes on one pitch can not be heard, none of them can be missed.
        return Doubt.HELD
    if held_over(index, current, score, around.tuning) or taken_for_both(index, current, score):
        return Doubt.HELD
    if _lost_in_a_run(note, score, current):
        return Doubt.JOINED
    if stroke_near(index, current, score, around.strokes_s) or sounding_near(index, current, score, around.sounding_s):
        return Doubt.PITCH
    if around.gate.snr_db < _MASKING_SNR_DB and had_room(index, current, score):
        return Doubt.NOISE
    return None


def _lost_in_a_run(note: ScoreNote, score: Score, heard: dict[int, Refined]) -> bool:
    """Whether a note that was not heard stands in a fast run on one pitch of which others were: strokes that follow one
    another so fast can melt together, on a string that speaks slowly, without any being left out. Fast as it is written, or as
    the others of the run were played."""
    like = like_notes(note.index, score)
    # Where a short one of them was not heard either, which of them was is a guess.
    beats = min(float(score.notes[index].duration_beats) for index in like if index not in heard)
    run = [index for index in like if index in heard]
    if not run:
        return False
    # Across the missing one itself they follow one another so fast because it is missing.
    paces = [
        pace
        for one, two in pairwise(run)
        if two == one + 1 and (pace := pace_of({one: heard[one], two: heard[two]}, score)) is not None
    ]
    return beats * min([60.0 / score.tempo_bpm, *paces]) <= FAST_S


def _heard_note(heard: Refined, note: ScoreNote, tuning: float) -> HeardNote:
    length = heard.offset_s - heard.onset_s
    per_frame = heard.segment.margin / max((length / HOP_S) ** 0.5, 1.0)
    strength = -0.6 + 3.2 * heard.support + 0.35 * min(per_frame, 8.0) - (1.0 if length < 0.08 else 0.0)
    constant, slope = CONFIDENCE_WEIGHTS
    confidence = round(float(logistic(constant + slope * strength)), 3)
    reason = None
    if heard.midi is None or heard.support < LEAST_SUPPORT:
        reason = Doubt.PITCH if heard.segment.at_partial else Doubt.NOISE
    elif heard.segment.margin < _LEAST_MARGIN:
        reason = Doubt.PITCH
    elif length < _SHORTEST_JUDGED_S:
        reason = Doubt.SHORT
    if reason or heard.midi is None:
        status = NoteStatus.UNCLEAR
        confidence = min(confidence, 0.5)
    else:
        status = (
            NoteStatus.WRONG_PITCH if abs(heard.midi - tuning - note.midi) > _WRONG_SEMITONES else NoteStatus.PLAYED
        )
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


def _rests_quiet(notes: list[HeardNote], score: Score, around: Around) -> tuple[bool, ...]:
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
