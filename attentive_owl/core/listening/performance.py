"""What the ear hears: the result types of the package."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from attentive_owl.core.exercises import Score
from attentive_owl.core.listening.features.metronome import ClickPulse


class NoteStatus(StrEnum):
    """What became of a written note."""

    PLAYED = "played"
    WRONG_PITCH = "wrong_pitch"
    MISSED = "missed"
    UNCLEAR = "unclear"
    """Left to the teacher's ear; it counts against nobody."""


class Doubt(StrEnum):
    """Why a note is unclear."""

    SHORT = "short"
    NOISE = "noise"
    PITCH = "pitch"
    JOINED = "joined"
    """One of several fast strokes on a pitch."""
    HELD = "held"
    """The note before sounds on through it."""
    FAINT = "faint"
    """So soft that something else may have sounded."""
    WHICH = "which"
    """What was heard may be its own or a neighbour's."""


class RefusalCode(StrEnum):
    """Why a recording is not judged."""

    UNREADABLE = "unreadable"
    SILENCE = "silence"
    TOO_SHORT = "too_short"
    TOO_FAR = "too_far"
    TOO_NOISY = "too_noisy"
    VOICES = "voices"
    NO_CLEAR_NOTES = "no_clear_notes"
    """It sounds, and most of it has no pitch."""
    ANOTHER_KEY = "another_key"
    ANOTHER_OCTAVE = "another_octave"
    ANOTHER_INSTRUMENT = "another_instrument"
    ANOTHER_RHYTHM = "another_rhythm"
    ANOTHER_EXERCISE = "another_exercise"
    """It is known which."""
    NOT_THIS_EXERCISE = "not_this_exercise"


@dataclass(frozen=True)
class HeardNote:
    """One written note as heard. Times in seconds of the recording; pitches as fractional key numbers (A4 = 440 Hz)."""

    index: int
    status: NoteStatus
    heard_midi: float | None
    onset_s: float | None
    offset_s: float | None
    confidence: float
    reason: Doubt | None = None
    scatter_cents: float = 0.0
    """Spread of the pitch within the note (half the 16..84 percentile range)."""
    approach_cents: float | None = None
    """Where a note begins that slides into its place, over the pitch in which it settles."""
    bowed_until_s: float | None = None
    """When the bow left it; up to `offset_s` the string rings on."""
    moment_sure: bool = True
    """Whether its stroke was heard well enough to say when it began; the note may be sure all the same."""


@dataclass(frozen=True)
class StrayNote:
    """A note that was heard and is not written."""

    onset_s: float
    offset_s: float
    heard_midi: float
    before: int
    """Index of the written note before which it stands."""


@dataclass(frozen=True)
class HeardPass:
    """One pass through the exercise, whole or broken off."""

    notes: tuple[HeardNote, ...]
    start_s: float
    end_s: float
    complete: bool
    restarts: tuple[tuple[int, int], ...] = ()
    """(index reached, index gone back to)."""
    rests_quiet: tuple[bool, ...] = ()
    """For each written rest, whether it was silent."""

    @property
    def played(self) -> tuple[HeardNote, ...]:
        return tuple(note for note in self.notes if note.onset_s is not None)


_ALL_BUT_CLEAN, _FULL_OF_FAULTS = 0.1, 0.25
"""Shares of the notes. By hand: the scale a whole step lower, read as this one, has 0.31."""


@dataclass(frozen=True)
class Performance:
    """All that was heard of a line in one take."""

    passes: tuple[HeardPass, ...]
    strays: tuple[StrayNote, ...]
    tuning_cents: float
    """How far everything stands from A4 = 440, as the ear guessed it before judging."""
    shift_semitones: int
    """Everything a fifth, fourth or octave away: the wrong string."""
    snr_db: float = 0.0
    clipped_share: float = 0.0
    problems: tuple[str, ...] = ()
    duration_s: float = 0.0
    click: ClickPulse | None = None
    """A metronome that is heard in the recording."""
    picked: int | None = None
    """Number of the pass that is judged, where the assignment asks for the best one."""

    @property
    def chosen(self) -> HeardPass:
        """The picked pass; else the last complete one, unless that is full of faults and one before it all but clean: then something else was played after
        the line; else the one with most notes played (the later of equals)."""
        if self.picked is not None:
            return self.passes[self.picked]
        complete = [heard_pass for heard_pass in self.passes if heard_pass.complete]
        if complete:
            clean = min(map(self._faults, complete)) <= _ALL_BUT_CLEAN
            return next(own for own in reversed(complete) if not clean or self._faults(own) <= _FULL_OF_FAULTS)
        return max(reversed(self.passes), key=lambda heard_pass: len(heard_pass.played))

    def _faults(self, heard_pass: HeardPass) -> float:
        """Notes on another pitch, left out, and too many, as a share of the written ones."""
        statuses = (NoteStatus.WRONG_PITCH, NoteStatus.MISSED)
        faults = sum(note.status in statuses for note in heard_pass.notes)
        faults += sum(heard_pass.start_s <= stray.onset_s < heard_pass.end_s for stray in self.strays)
        return faults / len(heard_pass.notes)


@dataclass(frozen=True)
class OtherLine:
    """Another line that a pupil may have played instead: one that the studio knows, or another instrument's part."""

    name: str
    """Of the exercise; of the instrument where it is another one's part."""
    score: Score
    known_as: str | None = None
    """A key of the caller's own, given back."""
    of_instrument: bool = False


@dataclass(frozen=True)
class Refusal:
    """The recording is not a try at this exercise, or can not be heard; never scored."""

    code: RefusalCode
    snr_db: float
    clipped_share: float
    problems: tuple[str, ...]
    duration_s: float
    sounds_like: str | None = None
    """Another exercise that it sounds like, by name; for another instrument's line that instrument."""
    known_as: str | None = None
    """The key under which that exercise was given to the ear, where it was."""
    shift_semitones: int | None = None
    """How far away the line was played, where it is this one in another key or octave, or in another rhythm as well."""
    rhythm: str | None = None
    """What was heard instead of the written rhythm: long (one note for several), fewer (not all of them), short (several for one), other (as many,
    elsewhere), dotted or even."""
    pattern: str | None = None
    """Name of the pattern that was heard, where it is known."""
    written_pattern: str | None = None
    """And of the one that is written."""
