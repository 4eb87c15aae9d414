"""The first note, tried before the line: if it is right, the rest is likelier to be (common practice)."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from attentive_owl.core.exercises import Score
from attentive_owl.core.judging.speech import Speaker, capital
from attentive_owl.core.listening import OneNote
from attentive_owl.core.theory import NoteNames, Pitch, say, scale_pitches

_SHARPS = ("C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B")


@dataclass(frozen=True)
class FirstNoteAnswer:
    """What is said of the first note before the rest is played."""

    word: Literal["home", "low", "high", "another"]
    cents: float | None
    """Over its place, the tuning of its string taken off; None where it is another note."""
    words: str
    """To the child."""


def answer_first_note(
    score: Score,
    heard: OneNote,
    tolerance_cents: float,
    string_cents: float = 0.0,
    names: NoteNames = NoteNames.LETTERS,
) -> FirstNoteAnswer:
    """`string_cents`: how far the note's open string was off in the day's tuning check."""
    note = score.notes[0]
    name = Speaker(score, names).note(0)
    if heard.cents is None:
        other = capital(say(_named(round(heard.midi), score), names, score.key))
        octaves, rest = divmod(round(heard.midi) - note.midi, 12)
        if rest == 0:
            return FirstNoteAnswer(
                "another",
                None,
                f"That is {name}, but {'higher' if octaves > 0 else 'lower'}: the line begins on the other one.",
            )
        return FirstNoteAnswer("another", None, f"I heard {other}. The line begins on {name}.")
    cents = round(heard.cents - string_cents, 1)
    if abs(cents) <= tolerance_cents:
        return FirstNoteAnswer("home", cents, f"{capital(name)}: that is it. Remember how it feels.")
    word: Literal["low", "high"] = "low" if cents < 0 else "high"
    if note.placement is not None and note.placement.finger == 0:
        return FirstNoteAnswer(
            word, cents, f"Your open {note.placement.string} is a little {word}. Tune it first, or ask an adult."
        )
    where = "towards the bridge" if cents < 0 else "towards the scroll"
    return FirstNoteAnswer(word, cents, f"{capital(name)}, a little {word}. Slide the finger a little {where}.")


def walk_to_first_note(score: Score) -> tuple[Pitch, ...]:
    """From the open string up to the first note, by the notes of the key; empty where it is an open string, or where no string is
    known."""
    note = score.notes[0]
    if note.placement is None or note.placement.finger == 0:
        return ()
    string = score.instrument.string(note.placement.string).pitch
    # The open string itself is where the hand begins, in the key or not.
    between = [pitch for pitch in _key_pitches(score) if string.midi < pitch.midi < note.midi]
    return (string, *between, note.pitch)


def _named(midi: int, score: Score) -> Pitch:
    """Spelt as the key spells it, else with a sharp."""
    octave = midi // 12 - 1
    return next((own for own in _key_pitches(score) if own.midi == midi), Pitch.parse(f"{_SHARPS[midi % 12]}{octave}"))


def _key_pitches(score: Score) -> list[Pitch]:
    return sorted(
        {pitch for octave in range(9) for pitch in scale_pitches(score.key, octave)}, key=lambda own: own.midi
    )
