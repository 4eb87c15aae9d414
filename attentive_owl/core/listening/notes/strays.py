"""Notes that were played beside the written ones."""

from __future__ import annotations

from collections.abc import Iterable

from attentive_owl.core.listening.features.metronome import ClickPulse
from attentive_owl.core.listening.notes.pitch import Refined
from attentive_owl.core.listening.performance import StrayNote

_CLICK_LASTS_S = 0.08
"""A stray so short on the beat of a click is the click."""
_UNDER_SEMITONES = 1.5
"""What sounds so far under the lowest string no pupil played on it: a chair, a step, two strings that beat."""


def strays_of(refined: Iterable[Refined], lowest_midi: float, click: ClickPulse | None) -> tuple[StrayNote, ...]:
    """What sounds beside the written notes, in its order; lowest_midi: of the instrument as it is tuned. What seems to lie under its lowest string is
    the beginning of a stray that follows on it at once, or none."""
    found: list[StrayNote] = []
    under: Refined | None = None
    for own in refined:
        if own.segment.kind != "stray" or own.midi is None:
            continue
        if own.midi <= lowest_midi - _UNDER_SEMITONES:
            under = own
            continue
        goes_on = under is not None and under.segment.stop == own.segment.start
        onset_s = under.onset_s if under is not None and goes_on else own.onset_s
        if not (click and own.offset_s - onset_s < _CLICK_LASTS_S and click.is_near(onset_s)):
            found.append(StrayNote(onset_s, own.offset_s, own.midi, own.segment.index))
    return tuple(found)
