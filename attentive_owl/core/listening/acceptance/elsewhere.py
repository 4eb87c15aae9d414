"""A line that was played somewhere else: in another key, as another instrument's line, or as another line of the key."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import groupby
from typing import Any

import numpy as np

from attentive_owl.core.exercises import Score, lines_in
from attentive_owl.core.listening.acceptance.likeness import NEAR_ITS_LINE
from attentive_owl.core.listening.acceptance.melody_distance import distances
from attentive_owl.core.listening.alignment.passes import fullest, in_one_breath, usual_frames
from attentive_owl.core.listening.alignment.path import Path
from attentive_owl.core.listening.alignment.readings import Reading
from attentive_owl.core.listening.features.novelty import Boundaries
from attentive_owl.core.listening.performance import RefusalCode


@dataclass(frozen=True)
class Elsewhere:
    """Why a line that lies somewhere else is refused, and what the refusal says of it."""

    code: RefusalCode
    details: dict[str, Any]


def elsewhere(reading: Reading, score: Score) -> Elsewhere | None:
    """Why a line that was played somewhere else is not judged; None for one in its place, on the next string, or an octave
    away where the instrument has those notes."""
    shift, instrument = reading.shift, score.instrument
    if not shift:
        return None
    low, high = (pick(note.midi for note in score.notes) + shift for pick in (min, max))
    if shift % 12 == 0:
        playable = instrument.lowest.midi <= low and high <= instrument.highest.midi
        return None if playable else Elsewhere(RefusalCode.ANOTHER_INSTRUMENT, {"shift_semitones": shift})
    if abs(shift) == instrument.string_interval:
        named = _lies_on_another_line(reading.path, reading.boundaries, score)
        return Elsewhere(RefusalCode.ANOTHER_EXERCISE, {"sounds_like": named}) if named else None
    return Elsewhere(RefusalCode.ANOTHER_KEY, {"shift_semitones": shift})


def _lies_on_another_line(path: Path, boundaries: Boundaries, score: Score) -> str | None:
    """The name of another line of the key that was played as it is written, and not somewhere else: the upper half of a scale is its
    lower half a fifth higher."""
    full, usual = fullest(path), usual_frames(path, boundaries)
    before, own, after = in_one_breath(path, boundaries, full, usual)
    melody = np.array([midi for midi, _ in groupby(segment.midi for segment in [*before, *own, *after])])
    others = lines_in(score.key.tonic, score.key.mode, score.instrument_key)
    if not len(melody) or not others:
        return None
    away = distances(melody, list(others))
    nearest = int(np.argmin(away))
    return list(others.values())[nearest] if away[nearest] <= NEAR_ITS_LINE else None
