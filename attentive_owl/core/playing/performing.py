"""The simulated pupil: a score and habits become a list of notes with exact times and pitches (the truth)."""

from __future__ import annotations

from dataclasses import dataclass, replace
from fractions import Fraction

import numpy as np

from attentive_owl.core.exercises import Score, ScoreNote, moves
from attentive_owl.core.playing.habits import Habits
from attentive_owl.core.theory import NoteValues, value_name

_RESTART_PAUSE_S = 0.8
_PASS_PAUSE_S = 1.2
_MOST_AIR = 0.5


@dataclass(frozen=True)
class PerformedNote:
    """One sounding note. `index` is the written note, or None for a stray one."""

    index: int | None
    start_s: float
    end_s: float
    midi: float
    """Sounding pitch as a fractional key number (A4 = 440 Hz)."""
    written_midi: int | None
    slurred: bool
    vibrato_cents: float
    pizzicato: bool
    go: int
    """Which go through the exercise, counted from 0."""
    open_string: bool = False
    slide_cents: float = 0.0
    """Where it begins, from its own pitch."""
    slide_s: float = 0.0


@dataclass(frozen=True)
class Performed:
    """What a simulated pupil plays, to the last note: the truth of a take."""

    notes: tuple[PerformedNote, ...]
    missed: tuple[int, ...]
    duration_s: float
    tempo_bpm: float
    """Mean tempo of the last go, stops taken out."""

    def last_go(self) -> dict[int, PerformedNote]:
        """Written index -> the note as played in the last go (the latest time where it was played again)."""
        last = max((note.go for note in self.notes), default=0)
        return {note.index: note for note in self.notes if note.go == last and note.index is not None}


def perform_score(score: Score, habits: Habits, seed: int = 0) -> Performed:
    """Play the score with these habits; the same seed plays the same take."""
    rng = np.random.default_rng(seed)
    played: list[PerformedNote] = []
    before = moves(score)
    now = habits.lead_s
    ideal = 60.0 / (score.tempo_bpm * habits.tempo)
    go_start = now
    length = score.end_beats - score.start_beats or Fraction(1)
    stopped_s = skipped_beats = 0.0
    end = len(score.notes) if habits.last is None else min(habits.last + 1, len(score.notes))
    for go in range(habits.passes):
        if go:
            now += _PASS_PAUSE_S
        go_start, stopped_s, skipped_beats = now, 0.0, 0.0
        pending_restarts = dict(habits.restarts)
        position = habits.first
        while position < end:
            note = score.notes[position]
            if position in habits.skipped:
                skipped_beats += float(note.duration_beats)
                position += 1
                continue
            stop = habits.stops.get(position, 0.0)
            now += stop
            stopped_s += stop
            if position in habits.stray:
                played.append(_stray(note, now, habits, go))
                now += habits.stray_s
                stopped_s += habits.stray_s
            share = float((note.start_beats - score.start_beats) / length)
            beat_s = ideal / (1.0 + habits.drift * share)
            following = score.notes[position + 1].start_beats if position + 1 < len(score.notes) else note.end_beats
            held = 1.0 + habits.dragging.get(_value(note), 0.0)
            held += habits.late_before.get(before.get(position + 1, ""), 0.0)
            held *= _evenness(note, score, habits) * (1.0 - habits.rushed.get(note.measure, 0.0))
            sounding_s = float(note.duration_beats) * beat_s * held
            step_s = sounding_s + float(following - note.end_beats) * beat_s * (1.0 - habits.rests_cut)
            if position not in habits.missed:
                bowed_s = step_s if habits.rests_sound else sounding_s
                played.append(_note(note, score, now, bowed_s, habits, rng, go))
            now += step_s
            if position in pending_restarts:
                back = pending_restarts.pop(position)
                now += _RESTART_PAUSE_S
                stopped_s += (
                    _RESTART_PAUSE_S + sum(float(n.duration_beats) for n in score.notes[back : position + 1]) * ideal
                )
                position = back
                continue
            position += 1
    played = _scatter_onsets(played, habits, rng)
    # A rest at the end is not waited for.
    beats = float(score.notes[end - 1].end_beats - score.notes[habits.first].start_beats)
    tempo = 60.0 * (beats - skipped_beats) / max(now - go_start - stopped_s, 1e-9)
    return Performed(tuple(played), tuple(sorted((*habits.missed, *habits.skipped))), now + habits.tail_s, tempo)


def _value(note: ScoreNote) -> str:
    """As habits call it: quarter, half."""
    return value_name(float(note.duration_beats), NoteValues.QUARTER, several=False).removesuffix(" note")


def _evenness(note: ScoreNote, score: Score, habits: Habits) -> float:
    """How much longer than written a note is where two equal notes share a beat."""
    place, count = note.start_beats % 1, len(score.notes)
    neighbour = note.index + 1 if place == 0 else note.index - 1
    if note.duration_beats != Fraction(1, 2) or not 0 <= neighbour < count:
        return 1.0
    if score.notes[neighbour].duration_beats != note.duration_beats or place not in (0, Fraction(1, 2)):
        return 1.0
    return 2.0 * (habits.uneven if place == 0 else 1.0 - habits.uneven)


def _note(
    note: ScoreNote, score: Score, now: float, sounding_s: float, habits: Habits, rng: np.random.Generator, go: int
) -> PerformedNote:
    previous = score.notes[note.index - 1] if note.index else None
    midi = note.midi + habits.shift_semitones + habits.wrong.get(note.index, 0)
    if habits.forgets_key:
        midi -= score.key.alter(note.pitch.step)
    cents = habits.tuning_cents
    place = note.placement
    stopped = place is not None and place.finger > 0
    if place is not None:
        cents += habits.string_cents.get(place.string, 0.0)
    scatter = rng.normal(0.0, 1.0) * habits.scatter_cents
    if place is not None and stopped:
        if place.finger in habits.finger_scatter:
            cents += rng.normal(0.0, 1.0) * habits.finger_scatter[place.finger]
        cents -= habits.sinking_cents * note.index / max(len(score.notes) - 1, 1)
        cents += habits.hand_cents + habits.finger_cents.get(place.finger, 0.0) + scatter
        cents += habits.note_cents.get(note.midi, 0.0)
        if previous is not None and previous.midi > note.midi:
            cents += habits.descending_cents
        if note.crosses_from(previous):
            cents += habits.crossing_cents
        if any(
            (place.string, place.semitones - 1) == (own.placement.string, own.placement.semitones)
            for own in score.notes
            if own.placement and own.placement.finger
        ):
            cents += habits.half_step_cents
        if score.instrument.rings(note.midi):
            cents += habits.octave_cents
    silent = habits.short if habits.short else (0.5 if note.staccato and not habits.staccato_held else 0.0)
    if note.duration_beats >= 2:
        silent = max(silent, habits.long_cut)
    following = score.notes[note.index + 1] if note.index + 1 < len(score.notes) else None
    if following is None or not following.legato_from(note):
        silent = max(silent, min(habits.air_ms / 1000.0 / max(sounding_s, 1e-9), _MOST_AIR))
    return PerformedNote(
        index=note.index,
        start_s=now,
        end_s=now + sounding_s * (1.0 - silent),
        midi=midi + cents / 100.0,
        written_midi=note.midi,
        slurred=note.legato_from(previous) and previous is not None and previous.index not in habits.missed,
        vibrato_cents=habits.vibrato_cents if stopped else 0.0,
        pizzicato=habits.pizzicato or note.pizzicato,
        go=go,
        open_string=place is not None and place.finger == 0,
        slide_cents=habits.slide_cents if stopped else 0.0,
        slide_s=habits.slide_ms / 1000.0 if stopped and habits.slide_cents else 0.0,
    )


def _stray(note: ScoreNote, now: float, habits: Habits, go: int) -> PerformedNote:
    midi = note.midi + habits.stray[note.index] + habits.tuning_cents / 100.0
    return PerformedNote(None, now, now + habits.stray_s, midi, None, False, 0.0, habits.pizzicato, go)


def _scatter_onsets(played: list[PerformedNote], habits: Habits, rng: np.random.Generator) -> list[PerformedNote]:
    if not habits.timing_ms:
        return played
    moves = rng.normal(0.0, habits.timing_ms / 1000.0, len(played))
    out: list[PerformedNote] = []
    for at, note in enumerate(played):
        start = max(note.start_s + moves[at], out[-1].start_s + 0.05 if out else 0.0)
        joined = at + 1 < len(played) and abs(played[at + 1].start_s - note.end_s) < 1e-6
        end = note.end_s + (moves[at + 1] if joined else moves[at])
        out.append(replace(note, start_s=start, end_s=max(end, start + 0.05)))
    return out
