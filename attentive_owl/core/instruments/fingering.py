"""Fingering by search: the cheapest path over strings, fingers and positions (a Viterbi walk over a small graph).

The costs say, in one currency, what a teacher of beginners would rather avoid. They are common practice turned into
figures; only their order matters, and the tests pin the fingerings that come out.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from attentive_owl.core.instruments.catalogue import Instrument
from attentive_owl.core.instruments.hands import Extension
from attentive_owl.core.theory.pitch import Pitch

_COST_SHIFT = 4.5
_COST_SHIFT_PER_SEMITONE = 0.5
_COST_SHIFT_OVER_AN_OPEN_STRING = 3.0
"""An open string gives the hand time to move."""
_COST_SHIFT_OFF_THE_FIRST_FINGER = 0.5
"""A hand moves on its first finger, or lands on it, where it can."""
_COST_CROSSING = 0.6
_COST_FAR_CROSSING = 3.0
_COST_FOURTH_AGAINST_POLICY = 3.0
_COST_FOURTH_FOR_ONE_NOTE = 0.4
"""Where the open string would be a crossing for one note and straight back, the fourth finger is the easier one."""
_COST_OPEN_AGAINST_POLICY = 0.5
"""Less than a crossing: the fourth finger is for staying on a string, not for leaving one to avoid an open note."""
_COST_SLIDE = 3.0
"""One finger on two places in turn, within a position: only where there is no other finger."""
_COST_SECOND_FINGER_SLIDE = 1.5
"""Low and high second finger are both its own place on violin and viola, and a slide from one to the other is taught."""
_COST_SLIDE_SHIFT = 1.0
"""A shift on one finger other than the first: it can not be heard where the hand arrives."""
_COST_OPENING = 0.2
_COST_OPENING_AWAY_FROM_THE_FIRST = 6.0
"""A hand opens while its first finger or no finger stands; between two other fingers it would be a shift."""
_COST_FOURTH = 0.2
_COST_OPEN = 0.01
"""Share of what a stopped note costs in a position: a hand that no note calls away is at home."""


class UnplayableError(ValueError):
    """The line has a note that this instrument's beginner positions do not reach."""


class FourthFinger(StrEnum):
    """Which of fourth finger and open string is wanted where both sound the same pitch."""

    OPEN = "open"
    DESCENDING = "descending"
    BOTH_WAYS = "both"


@dataclass(frozen=True)
class FingerPlacement:
    """The string and finger with which a note is played."""

    string: str
    finger: int
    """0 for an open string."""
    position: str
    semitones: int
    """Above the open string."""


@dataclass(frozen=True)
class Wanted:
    """What is fixed of one note: its string, and its finger where that is given too."""

    string: str
    finger: int | None = None

    def allows(self, placement: FingerPlacement) -> bool:
        return placement.string == self.string and self.finger in (None, placement.finger)


@dataclass(frozen=True)
class _Place:
    """A placement as the search for a fingering sees it, with what it costs in itself."""

    placement: FingerPlacement
    string_index: int
    base: int
    extension: Extension
    cost: float


@lru_cache(maxsize=1024)
def _places(instrument: Instrument, midi: int) -> tuple[_Place, ...]:
    found: list[_Place] = []
    for string_index, string in enumerate(instrument.strings):
        semitones = midi - string.pitch.midi
        for frame in instrument.frames:
            for shape in frame.shapes:
                if semitones == 0:
                    # An open string leaves the hand where it is: it may be taken in any shape of it at next to no cost.
                    place = FingerPlacement(string.name, 0, frame.position, 0)
                    found.append(_Place(place, string_index, frame.base, shape.extension, _COST_OPEN * frame.cost))
                for finger, reached in shape.reach.items():
                    if semitones > 0 and semitones in reached:
                        place = FingerPlacement(string.name, finger, frame.position, semitones)
                        cost = frame.cost + reached[semitones] + (_COST_FOURTH if finger == 4 else 0.0)
                        found.append(_Place(place, string_index, frame.base, shape.extension, cost))
    return tuple(found)


def possible_places(instrument: Instrument, pitch: Pitch) -> tuple[FingerPlacement, ...]:
    """Every string and finger that can sound a pitch, the easiest first, each once (in its easiest position)."""
    found: dict[tuple[str, int], FingerPlacement] = {}
    for place in sorted(_places(instrument, pitch.midi), key=lambda place: place.cost):
        found.setdefault((place.placement.string, place.placement.finger), place.placement)
    return tuple(found.values())


def extension_of(instrument: Instrument, placement: FingerPlacement) -> Extension:
    """How the hand is opened for this place; not at all for an open string, or a place that is not the instrument's own."""
    frame = instrument.frame(placement.position)
    if placement.finger == 0 or frame is None:
        return Extension.NONE
    return frame.extension(placement.finger, placement.semitones) or Extension.NONE


def _crosses_for_one_note(instrument: Instrument, sounding: Sequence[Pitch], index: int) -> bool:
    """Whether this note is an open string between two notes of the string below."""
    if not 0 < index < len(sounding) - 1:
        return False
    for below, own in pairwise(string.pitch.midi for string in instrument.strings):
        if sounding[index].midi == own:
            return all(below <= sounding[place].midi < own for place in (index - 1, index + 1))
    return False


def _policy_cost(
    place: _Place, instrument: Instrument, policy: FourthFinger, descending: bool, one_note: bool = False
) -> float:
    index, semitones = place.string_index, place.placement.semitones
    strings = instrument.strings
    gap_above = strings[index + 1].pitch.midi - strings[index].pitch.midi if index + 1 < len(strings) else None
    wants_stopped = policy is FourthFinger.BOTH_WAYS or (policy is FourthFinger.DESCENDING and descending)
    if semitones == 0 and index > 0 and wants_stopped:
        return _COST_OPEN_AGAINST_POLICY
    if gap_above is not None and semitones == gap_above and not wants_stopped:
        return _COST_FOURTH_FOR_ONE_NOTE if one_note else _COST_FOURTH_AGAINST_POLICY
    return 0.0


def _move_cost(before: _Place, after: _Place, upper: bool) -> float:
    cost = 0.0
    a, b = before.placement, after.placement
    over_open = 0 in (a.finger, b.finger)
    same_finger = a.finger == b.finger and a.finger > 0
    if before.base != after.base:
        cost += _COST_SHIFT_OVER_AN_OPEN_STRING if over_open else _COST_SHIFT
        cost += _COST_SHIFT_PER_SEMITONE * abs(after.base - before.base)
        cost += 0.0 if 1 in (a.finger, b.finger) else _COST_SHIFT_OFF_THE_FIRST_FINGER
        cost += _COST_SLIDE_SHIFT if same_finger and a.finger > 1 else 0.0
    elif same_finger and a.semitones != b.semitones:
        cost += _COST_SECOND_FINGER_SLIDE if upper and a.finger == 2 else _COST_SLIDE
    if before.base == after.base and before.extension is not after.extension:
        eased = over_open or (1 in (a.finger, b.finger) and Extension.BACK not in (before.extension, after.extension))
        cost += _COST_OPENING if eased else _COST_OPENING_AWAY_FROM_THE_FIRST
    crossed = abs(after.string_index - before.string_index)
    if crossed:
        cost += _COST_CROSSING + _COST_FAR_CROSSING * (crossed - 1)
    return cost


@lru_cache(maxsize=4096)
def _place_costs(
    instrument: Instrument, midi: int, policy: FourthFinger, descending: bool, one_note: bool
) -> NDArray[np.float64]:
    """(places of the pitch,)"""
    places = _places(instrument, midi)
    return np.array([place.cost + _policy_cost(place, instrument, policy, descending, one_note) for place in places])


@lru_cache(maxsize=4096)
def _move_costs(instrument: Instrument, before_midi: int, after_midi: int) -> NDArray[np.float64]:
    """(places of the second pitch, places of the first): what it costs to go from one to the other."""
    costs = np.array(
        [
            [_move_cost(before, after, instrument.fingers_touch) for before in _places(instrument, before_midi)]
            for after in _places(instrument, after_midi)
        ]
    )
    if before_midi == after_midi:
        places = _places(instrument, after_midi)
        costs += [[_COST_SHIFT * (a.placement != b.placement) for b in places] for a in places]
    return costs


def find_fingering(
    instrument: Instrument,
    sounding: Sequence[Pitch],
    policy: FourthFinger = FourthFinger.OPEN,
    pins: Mapping[int, Wanted] | None = None,
) -> tuple[tuple[FingerPlacement, ...], float]:
    """The cheapest fingering of a line of sounding pitches, and its cost.

    A repeated pitch keeps its place, and is no more to the hand than one note. `pins` fixes the string, or string and finger,
    of single notes (by index). Raises UnplayableError, naming the note, where a pitch is out of reach or a pin can not sound it.
    """
    if not sounding:
        return (), 0.0
    midis = [pitch.midi for pitch in sounding]
    columns = [_places(instrument, midi) for midi in midis]
    barred = {
        index: np.array([not wanted.allows(place.placement) for place in columns[index]])
        for index, wanted in (pins or {}).items()
        if index < len(columns)
    }
    for index, (pitch, places) in enumerate(zip(sounding, columns, strict=True)):
        if not places or (index in barred and barred[index].all()):
            raise UnplayableError(f"note {index + 1} ({pitch.spoken}) is out of reach on the {instrument.name.lower()}")

    best = _place_costs(instrument, midis[0], policy, False, False)
    back: list[NDArray[np.intp]] = []
    for index, midi in enumerate(midis):
        if index > 0:
            interval = midi - midis[index - 1]
            options = best + _move_costs(instrument, midis[index - 1], midi)
            back.append(options.argmin(axis=1))
            best = options.min(axis=1)
            if interval:
                one_note = _crosses_for_one_note(instrument, sounding, index)
                best = best + _place_costs(instrument, midi, policy, interval < 0, one_note)
        if index in barred:
            best = np.where(barred[index], np.inf, best)

    at = int(best.argmin())
    cost = float(best[at])
    path = [columns[-1][at].placement]
    for index in range(len(columns) - 1, 0, -1):
        at = int(back[index - 1][at])
        path.append(columns[index - 1][at].placement)
    return tuple(reversed(path)), cost
