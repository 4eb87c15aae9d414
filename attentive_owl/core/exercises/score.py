"""The one description of an exercise for one instrument, however it was made."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import cached_property

from attentive_owl.core.instruments import FingerPlacement, Instrument, instrument
from attentive_owl.core.theory import KeySignature, Meter, Pitch


@dataclass(frozen=True)
class ScoreNote:
    """A written note; a tied chain is one note. Beats are quarter notes from the first full measure's start."""

    index: int
    pitch: Pitch
    """Sounding pitch."""
    start_beats: Fraction
    duration_beats: Fraction
    measure: int
    """Counted from 1; a pickup stands in measure 0."""
    beat: Fraction
    """Quarter notes from the start of its measure, counted from 1."""
    placement: FingerPlacement | None = None
    bow: str | None = None
    """'down' or 'up'."""
    slur: int | None = None
    """Notes with the same number are taken in one bow."""
    staccato: bool = False
    pizzicato: bool = False
    cue: str | None = None

    @property
    def midi(self) -> int:
        return self.pitch.midi

    @property
    def end_beats(self) -> Fraction:
        return self.start_beats + self.duration_beats

    def slurred_from(self, previous: ScoreNote | None) -> bool:
        """Whether the bow goes on from the previous note."""
        return self.slur is not None and previous is not None and previous.slur == self.slur

    def legato_from(self, previous: ScoreNote | None) -> bool:
        """Whether nothing but the pitch tells this note from the previous one: a dot under a slur stops the bow."""
        return self.slurred_from(previous) and not self.staccato

    def crosses_from(self, previous: ScoreNote | None) -> bool:
        """Whether the bow changes to another string for this note."""
        return (
            previous is not None
            and previous.placement is not None
            and self.placement is not None
            and previous.placement.string != self.placement.string
        )


@dataclass(frozen=True)
class ScoreRest:
    """A written silence."""

    index: int
    start_beats: Fraction
    duration_beats: Fraction
    measure: int
    beat: Fraction


@dataclass(frozen=True)
class Score:
    """One line for one instrument, ready to be shown, played and listened for."""

    title: str
    instrument_key: str
    key: KeySignature
    meter: Meter
    tempo_bpm: float
    """Quarter notes in a minute."""
    notes: tuple[ScoreNote, ...]
    rests: tuple[ScoreRest, ...] = ()
    pickup_beats: Fraction = Fraction(0)
    slows_from: Fraction | None = None
    """Where a ritardando is written, in beats as notes have them: from there on the tempo is the player's own."""
    dynamic: str = ""
    """As written over the first note: p, mp, mf or f."""
    how: tuple[str, ...] = ()
    """What else stands over the first note: the part of the bow, what the fingers do."""

    @property
    def instrument(self) -> Instrument:
        return instrument(self.instrument_key)

    @property
    def events(self) -> tuple[ScoreNote | ScoreRest, ...]:
        """Notes, then rests."""
        return (*self.notes, *self.rests)

    @cached_property
    def end_beats(self) -> Fraction:
        return max((event.start_beats + event.duration_beats for event in self.events), default=Fraction(0))

    @cached_property
    def start_beats(self) -> Fraction:
        return min((event.start_beats for event in self.events), default=Fraction(0))

    @property
    def tonic(self) -> Pitch:
        """The tonic as a pitch class spelt in octave 4."""
        return Pitch.parse(f"{self.key.tonic}4")

    def at_tempo(self, tempo_bpm: float) -> Score:
        return replace(self, tempo_bpm=tempo_bpm)

    def only_measures(self, first: int, last: int) -> Score:
        """Measures `first` to `last` (a pickup goes with the first) as a score of its own, counted from 1 again.

        Raises ValueError where no note stands in them.
        """
        moved = (first - 1) * self.meter.measure_beats
        notes = [note for note in self.notes if max(note.measure, 1) in range(first, last + 1)]
        rests = [rest for rest in self.rests if max(rest.measure, 1) in range(first, last + 1)]
        if not notes:
            raise ValueError(f"there is nothing to play in bars {first} to {last}")
        return replace(
            self,
            notes=tuple(
                replace(note, index=at, start_beats=note.start_beats - moved, measure=note.measure - first + 1)
                for at, note in enumerate(notes)
            ),
            rests=tuple(
                replace(rest, index=at, start_beats=rest.start_beats - moved, measure=rest.measure - first + 1)
                for at, rest in enumerate(rests)
            ),
            pickup_beats=self.pickup_beats if first == 1 else Fraction(0),
            slows_from=None if self.slows_from is None else self.slows_from - moved,
        )

    def signs(self) -> tuple[int, ...]:
        """Semitones by which the key signature alters each note."""
        return tuple(self.key.alter(note.pitch.step) for note in self.notes)

    def measure_starts(self) -> tuple[int, ...]:
        """Index of the first note of every measure that has one."""
        firsts: dict[int, int] = {}
        for note in self.notes:
            firsts.setdefault(note.measure, note.index)
        return tuple(firsts.values())


def place_in_measure(start_beats: Fraction, meter: Meter) -> tuple[int, Fraction]:
    """Measure number and beat (both as ScoreNote has them) of a position; a pickup has negative positions."""
    length = meter.measure_beats
    number = start_beats // length
    return int(number) + 1, start_beats - number * length + 1


def lay_out(
    line: Sequence[tuple[Pitch | None, Fraction, str | None]],
    *,
    title: str,
    instrument_key: str,
    key: KeySignature,
    meter: Meter,
    tempo_bpm: float,
    placements: Sequence[FingerPlacement] = (),
    pickup_beats: Fraction = Fraction(0),
    joined: Sequence[bool] = (),
) -> Score:
    """Put (pitch or None for a rest, beats, cue word) one after the other, bows alternating from a down-bow.

    An upbeat starts with an up-bow so that the first full measure starts down. `joined`: one entry a line entry, whether
    it is taken in the bow of the note before.
    """
    at = -pickup_beats
    notes: list[ScoreNote] = []
    rests: list[ScoreRest] = []
    bows = ("up", "down") if pickup_beats else ("down", "up")
    strokes = 0
    for place, (pitch, duration, cue) in enumerate(line):
        measure, beat = place_in_measure(at, meter)
        if pitch is None:
            rests.append(ScoreRest(len(rests), at, duration, measure, beat))
        else:
            index = len(notes)
            strokes += not (joined and joined[place] and index > 0)
            goes_on = bool(joined) and place + 1 < len(line) and joined[place + 1]
            slur = strokes if goes_on or (joined and joined[place]) else None
            placement = placements[index] if placements else None
            bow = bows[(strokes - 1) % 2]
            notes.append(ScoreNote(index, pitch, at, duration, measure, beat, placement, bow, slur, cue=cue))
        at += duration
    return Score(title, instrument_key, key, meter, tempo_bpm, tuple(notes), tuple(rests), pickup_beats)
