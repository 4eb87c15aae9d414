"""What a teacher writes over and under the notes, worked out from the score: half steps, fingers that stay, names."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

from attentive_owl.core.exercises.score import Score, ScoreNote
from attentive_owl.core.instruments import Extension, extension_of
from attentive_owl.core.theory import NoteNames, say


@dataclass(frozen=True)
class Span:
    """From one note to another, by index."""

    first: int
    last: int


def half_steps(score: Score) -> list[Span]:
    """Neighbouring notes a half step apart, each pair of pitches once going up and once coming down."""
    seen: set[tuple[int, int]] = set()
    spans = []
    for a, b in pairwise(score.notes):
        key = (a.midi, b.midi)
        if abs(a.midi - b.midi) == 1 and a.end_beats == b.start_beats and key not in seen:
            seen.add(key)
            spans.append(Span(a.index, b.index))
    return spans


def fingers_that_stay(score: Score) -> list[Span]:
    """Where a finger may stay down until it is wanted again: all that is played in between lies on the same string, above it.
    Of fingers that stay within one another the lowest is told."""
    spans: list[Span] = []
    notes = score.notes
    for note in notes:
        place = note.placement
        if place is None or place.finger == 0 or (spans and note.index < spans[-1].last):
            continue
        for later in notes[note.index + 1 :]:
            over = later.placement
            if over is None or over.string != place.string or over.position != place.position:
                break
            if over == place:
                if later.index - note.index > 1 and any(n.placement != place for n in notes[note.index : later.index]):
                    spans.append(Span(note.index, later.index))
                    break
                continue
            if over.finger <= place.finger:
                break
    return spans


def low_or_high(score: Score, note: ScoreNote) -> str:
    """'low' or 'high' where a finger of violin or viola has two places in its position, empty elsewhere."""
    place = note.placement
    frame = score.instrument.frame(place.position) if place else None
    if place is None or frame is None or place.finger == 0 or not score.instrument.fingers_touch:
        return ""
    usual = {1: 0, 2: 2, 3: 3, 4: 5}[place.finger]
    away = place.semitones - frame.base - usual
    if place.finger == 2:
        return "low" if away < 0 else "high"
    return "low" if away < 0 else "high" if away > 0 else ""


def extension_sign(score: Score, note: ScoreNote) -> str:
    """'x' where the hand is opened for a note, as cellists write it."""
    if note.placement is None or extension_of(score.instrument, note.placement) is Extension.NONE:
        return ""
    return "x"


def note_name(score: Score, note: ScoreNote, names: NoteNames = NoteNames.LETTERS) -> str:
    """A note as it is said in its score's key."""
    return say(note.pitch, names, score.key)
