"""From segments to exact ends and pitches (onsets stand in their own module)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from attentive_owl.core.listening.alignment.path import Segment
from attentive_owl.core.listening.features.frames import HOP_S, Array
from attentive_owl.core.listening.features.levels import CORE, FINE_HOP_S, sustained_db
from attentive_owl.core.listening.features.ordered import between_percentiles, middle, percentile
from attentive_owl.core.listening.features.pitch_candidates import Candidates
from attentive_owl.core.listening.notes.onsets import ONSET_DROP_DB

_NEAR_SEMITONES = 0.75
"""So far from its segment's key number the pitch of a note is looked for: up to its neighbours."""
_VIBRATO_CENTS = 8.0
"""Half the way from the tenth to the ninetieth percentile of the pitch: from here on it may swing, and whole swings are counted."""
_PARTIALS = tuple(12.0 * float(np.log2(number)) for number in (2, 3))
"""Semitones of the second and third partial above the first."""


LEAST_SLIDE_NOTE_S, _SLIDE_FROM_S = 0.3, 0.045
"""A shorter note has no time to slide; the first moments are the stroke's own."""
_SLIDE_SEMITONES = 0.8
"""From further away a finger does not slide but falls on another note."""
_EARLY_FRAMES, _LEAST_SETTLED_FRAMES = 8, 12
"""Frames of 5 ms: so many at the beginning show where the slide began; fewer than the second at the end show nothing."""
_SETTLED_FROM = 0.55
"""Share of the note after which it has settled."""
_LEAST_SLIDE_CENTS = 15.0
"""A slide into a note: looked for from 45 ms after its onset, over 40 ms, against its second half."""
RINGING_DROP_DB, _DRIVEN_SHARE = 8.0, 0.6
"""A level so far under that of a note's first part is no bow's any more (by hand: a held bow swells by less, and a room of 0.4 s takes
it down in 50 ms)."""
LEAST_SUPPORT = 0.3
"""Under it a note's pitch is not known."""


@dataclass(frozen=True)
class Refined:
    """A segment with its own onset, end and pitch."""

    segment: Segment
    onset_s: float
    offset_s: float
    midi: float | None
    """Median over the middle 60 %, over whole vibrato cycles; None where no pitch was found."""
    scatter_cents: float
    support: float
    """Share of the middle's frames in which the pitch was heard."""
    approach_cents: float | None = None
    """Where it begins, over where it settles, for a note that slides into its place; its pitch is then the settled one."""
    bowed_until_s: float = 0.0
    """Until when it was driven; what follows rings on."""


def refine(
    segments: list[Segment],
    ends_s: list[float],
    onsets_s: list[float],
    candidates: Candidates,
    fine: Array,
    tuning_semitones: float,
) -> list[Refined]:
    """Ends and pitches of segments that follow one another in time; fine: dB every millisecond, shape (milliseconds,)."""
    refined = []
    for number, (segment, end, onset) in enumerate(zip(segments, ends_s, onsets_s, strict=True)):
        limit = end
        if number + 1 < len(segments) and onsets_s[number + 1] < end + 0.05:
            limit = onsets_s[number + 1]
        offset = _offset(onset, max(limit, onset + 0.02), fine)
        midi, scatter, support = _pitch(segment.midi + tuning_semitones, onset, offset, candidates)
        slide = _slide(segment.midi + tuning_semitones, onset, offset, candidates) if midi is not None else None
        settled, approach = (midi, None) if slide is None else slide
        refined.append(
            Refined(segment, onset, offset, settled, scatter, support, approach, bowed_until(onset, offset, fine))
        )
    return refined


def _offset(onset: float, limit: float, fine: Array) -> float:
    wanted = sustained_db(onset, limit, fine) - ONSET_DROP_DB
    low, high = int(onset / FINE_HOP_S), min(int(limit / FINE_HOP_S) + 1, len(fine))
    above = np.flatnonzero(fine[low:high] >= wanted)
    return min(limit, float((low + above[-1] + 1) * FINE_HOP_S)) if len(above) else limit


def bowed_until(onset: float, offset: float, fine: Array) -> float:
    """When the level (`fine_level_db`, shape (milliseconds,)) falls for good from that of the bowed note: a string, and the room, ring on when the bow has left."""
    low, high = int(onset / FINE_HOP_S), max(int(offset / FINE_HOP_S), int(onset / FINE_HOP_S) + 1)
    level = fine[low:high]
    if not len(level):
        return offset
    driven = percentile(level[: max(int(_DRIVEN_SHARE * len(level)), 1)], 75)
    above = np.flatnonzero(level >= driven - RINGING_DROP_DB)
    return min(offset, onset + float((above[-1] + 1) * FINE_HOP_S))


def _pitch(target: float, onset: float, offset: float, candidates: Candidates) -> tuple[float | None, float, float]:
    for low, high in (CORE, (0.1, 0.9)):
        first, last = (round((onset + share * (offset - onset)) / HOP_S) for share in (low, high))
        _, midi = candidates.nearest(target, first, max(last, first + 1), _NEAR_SEMITONES)
        if len(midi) < 0.3 * (last - first):
            # Where the fundamental is too weak a partial is heard, and tells as much.
            for exact in _PARTIALS:
                _, partial = candidates.nearest(target + exact, first, max(last, first + 1), _NEAR_SEMITONES)
                midi = partial - exact if len(partial) > len(midi) else midi
        if len(midi) >= 3:
            break
    if not len(midi):
        return None, 0.0, 0.0
    support = len(midi) / max(last - first, 1)
    return _over_whole_cycles(midi), 50.0 * between_percentiles(midi, 16, 84), min(support, 1.0)


def _slide(target: float, onset: float, offset: float, candidates: Candidates) -> tuple[float, float] | None:
    """(settled pitch, cents by which it begins away from it) of a note that is long enough, begins away from its second half,
    and stays there; None for any other."""
    length = offset - onset
    if length < LEAST_SLIDE_NOTE_S:
        return None
    first, last = round((onset + _SLIDE_FROM_S) / HOP_S), round((onset + 0.92 * length) / HOP_S)
    frames, midi = candidates.nearest(target, first, last, _SLIDE_SEMITONES)
    if len(midi) < 0.6 * (last - first):
        return None
    late = midi[frames > round((onset + _SETTLED_FROM * length) / HOP_S)]
    early = midi[frames < first + _EARLY_FRAMES]
    if len(late) < _LEAST_SETTLED_FRAMES or len(early) < _EARLY_FRAMES // 2:
        return None
    settled = middle(late)
    approach = 100.0 * (middle(early) - settled)
    spread = 50.0 * between_percentiles(late, 16, 84)
    if abs(approach) < max(_LEAST_SLIDE_CENTS, 3.0 * spread):
        return None
    # It comes nearer all the while, and does not swing over.
    half = midi[(frames >= first) & (frames < first + len(midi) // 2)]
    beyond = np.mean(np.sign(half - settled) * np.sign(approach) * np.abs(half - settled) < -0.08)
    return None if beyond > 0.2 else (settled, approach)


def _over_whole_cycles(midi: Array) -> float:
    """Median; where the pitch swings (vibrato, 4 to 9 Hz), over a whole number of swings, so that half a swing at
    the end does not pull it."""
    centre = middle(midi)
    swing = 50.0 * between_percentiles(midi, 10, 90)
    if swing < _VIBRATO_CENTS or len(midi) < 40:
        return centre
    moving = midi - midi.mean()
    correlation = np.correlate(moving, moving, "full")[len(midi) - 1 :]
    shortest, longest = int(1 / 9 / HOP_S), min(int(1 / 4 / HOP_S), len(midi) - 2)
    if longest <= shortest or correlation[0] <= 0:
        return centre
    cycle = shortest + int(np.argmax(correlation[shortest : longest + 1]))
    if correlation[cycle] < 0.3 * correlation[0]:
        return centre
    whole = len(midi) // cycle * cycle
    spare = (len(midi) - whole) // 2
    return middle(midi[spare : spare + whole])
