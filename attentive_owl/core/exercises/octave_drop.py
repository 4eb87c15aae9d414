"""Where a line drops an octave in the middle: a double bass's usual answer to a scale that would climb through many shifts."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Protocol

from attentive_owl.core.exercises.families import Step
from attentive_owl.core.exercises.recipe import NEVER, Ease
from attentive_owl.core.instruments import FourthFinger, Instrument, UnplayableError, find_fingering
from attentive_owl.core.theory import Pitch

_COST = {Ease.USUAL: 7.0, Ease.EASIER: -8.0}
"""In the currency of `fingering`, of a line that shifts: usually a drop is worth about two shifts; an easier line takes it
rather than any."""
LAST_RESORT = 1000.0
"""On an instrument that does not usually drop: only where there is no other way."""
_COST_A_NOTE = 0.4
"""The later the drop the better ..."""
_COST_OFF_THE_TONIC, _COST_PAST_A_TONIC = 3.0, 40.0
"""... and best of all where the scale begins again, above all where it begins again in the middle."""
_GROUPS = frozenset({"scales", "rhythm", "phrases"})


class _Sounding(Protocol):
    @property
    def pitch(self) -> Pitch | None: ...


def sounding(line: Sequence[_Sounding]) -> list[Pitch]:
    """The pitches of a line in order, without its rests."""
    return [place.pitch for place in line if place.pitch is not None]


@dataclass(frozen=True)
class Drops:
    """The ways to lay one line on one instrument."""

    player: Instrument
    policy: FourthFinger
    tonic: str
    group: str
    after: str
    """As Register.drop_after."""
    ease: Ease

    def of(self, line: Sequence[Step]) -> Iterator[tuple[float, Sequence[Step]]]:
        """(cost, line) of the line as it is and with a drop after each note where one is thought of; what is out of reach
        is left out."""
        plain, shifts = self._laid(line)
        may_drop = self.group in _GROUPS and self.after != NEVER
        if self.after not in ("", NEVER):
            top = Pitch.parse(self.after).midi
            dropped = _dropped(line, top)
            cost, _ = self._laid(dropped)
            if cost is not None:
                yield cost, dropped
            return
        if plain is not None:
            yield plain, line
        extra = _COST.get(self.ease, 0.0)
        willing = self.ease is Ease.EASIER or (self.player.drops_an_octave and self.ease is not Ease.HARDER)
        if not may_drop or (plain is not None and not (shifts and willing)):
            return
        pitches = {pitch.midi: pitch for pitch in sounding(line)}
        first = sounding(line)[0].midi
        if not self.player.lowest.midi <= first <= self.player.highest.midi:
            return
        tonics = {midi for midi, pitch in pitches.items() if pitch.name.rstrip("0123456789") == self.tonic}
        begins_again = any(first < midi < max(pitches) for midi in tonics)
        off = _COST_PAST_A_TONIC if begins_again else _COST_OFF_THE_TONIC
        for midi in sorted(midi for midi in pitches if first < midi < max(pitches)):
            if midi not in tonics and not willing and self.group != "phrases":
                continue
            dropped = _dropped(line, midi)
            cost, _ = self._laid(dropped)
            if cost is not None:
                moved = sum(a is not b for a, b in zip(line, dropped, strict=True))
                cost += extra + _COST_A_NOTE * moved + (0.0 if midi in tonics else off)
                yield cost + (0.0 if willing else LAST_RESORT), dropped

    def _laid(self, line: Sequence[Step]) -> tuple[float | None, bool]:
        """What it costs to finger, None where it is out of reach; whether the hand has to move."""
        pitches = sounding(line)
        low, high = self.player.lowest.midi, self.player.highest.midi
        if not all(low <= pitch.midi <= high for pitch in pitches):
            return None, False
        # A repeated pitch keeps its place, so it need not be searched twice.
        moving = [pitches[0], *(after for before, after in pairwise(pitches) if after != before)]
        try:
            places, cost = find_fingering(self.player, moving, self.policy)
        except UnplayableError:
            return None, False
        return cost, len({place.position for place in places if place.finger}) > 1


def _dropped(line: Sequence[Step], top_midi: int) -> Sequence[Step]:
    """All that lies over `top_midi` an octave lower; the same object where nothing does."""
    if all(step.pitch is None or step.pitch.midi <= top_midi for step in line):
        return line
    return [
        replace(step, pitch=step.pitch.octaves_up(-1))
        if step.pitch is not None and step.pitch.midi > top_midi
        else step
        for step in line
    ]
