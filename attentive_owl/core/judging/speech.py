"""How the report speaks: one sentence for each reader, in the studio's vocabulary."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from attentive_owl.core.exercises import Score
from attentive_owl.core.instruments import Mark
from attentive_owl.core.theory import NoteNames, NoteValues, measure_name, say, value_name

_FINGERS = {0: "open string", 1: "first finger", 2: "second finger", 3: "third finger", 4: "fourth finger"}
_NUMBERS = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")


@dataclass(frozen=True)
class Words:
    """The same said to the child who played, to an adult at home who may not read music, and to the teacher."""

    child: str
    parent: str
    teacher: str


@dataclass(frozen=True)
class Speaker:
    """What has to be known to speak of a line."""

    score: Score
    names: NoteNames = NoteNames.LETTERS
    values: NoteValues = NoteValues.QUARTER
    tapes: tuple[Mark, ...] = ()

    def note(self, index: int) -> str:
        return say(self.score.notes[index].pitch, self.names, self.score.key)

    def notes(self, indices: Iterable[int]) -> str:
        """Different notes by name, in the order in which they come."""
        return together(dict.fromkeys(self.note(index) for index in indices))

    def place(self, index: int) -> str:
        """A note with its measure: "F sharp in measure 2"."""
        return f"{self.note(index)} in {self.measure(self.score.notes[index].measure)}"

    def measure(self, number: int) -> str:
        return "the upbeat" if number < 1 else f"{measure_name(self.values)} {number}"

    def measures(self, indices: Iterable[int]) -> str:
        """The measures in which notes stand: "measure 2", "measures 1 and 3", "measures 2 to 5"."""
        numbers = sorted({max(self.score.notes[index].measure, 1) for index in indices})
        if len(numbers) == 1:
            return self.measure(numbers[0])
        name = measure_name(self.values, several=True)
        if numbers == list(range(numbers[0], numbers[-1] + 1)) and len(numbers) > 2:
            return f"{name} {numbers[0]} to {numbers[-1]}"
        return f"{name} {together(map(str, numbers))}"

    def value(self, beats: float, *, several: bool = True) -> str:
        return value_name(beats, self.values, several=several)

    def tape(self, indices: Sequence[int]) -> Mark | None:
        """The tape on which all of these notes belong, where they belong on one."""
        places = {note.placement.semitones for i in indices if (note := self.score.notes[i]).placement}
        return next((tape for tape in self.tapes if places == {tape.semitones}), None)

    @property
    def stands(self) -> bool:
        """Whether the instrument stands on the floor."""
        return self.score.instrument.stands


def finger(number: int | None) -> str:
    """ "first finger" for 1, as it is said; "finger" where it is not known or the string is open."""
    return _FINGERS.get(number or 0, "finger") if number else "finger"


def together(words: Iterable[str]) -> str:
    """ "D", "D and A", "D, A and E"."""
    every = list(words)
    return every[0] if len(every) == 1 else f"{', '.join(every[:-1])} and {every[-1]}"


def number(count: int) -> str:
    """Small numbers as words."""
    return _NUMBERS[count] if count < len(_NUMBERS) else str(count)


def counted(count: int, one: str, several: str | None = None) -> str:
    """ "1 note", "3 notes"."""
    return f"{count} {one if count == 1 else several or one + 's'}"


def capital(text: str) -> str:
    """The sentence with its first letter raised, the rest as it is."""
    return text[:1].upper() + text[1:]
