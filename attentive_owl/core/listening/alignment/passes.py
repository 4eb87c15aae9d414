"""The fullest pass of a path: one time through the line, what was played, put between and passed over in it, and what leads into it
and away from it."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise, takewhile

import numpy as np

from attentive_owl.core.listening.alignment.path import Move, Path, Segment
from attentive_owl.core.listening.features.novelty import Boundaries

_PAUSE = 0.5
"""As a share of a note."""


@dataclass(frozen=True)
class Pass:
    """Segments of one time through with their places, and how many written notes were passed over between them."""

    written: list[tuple[int, Segment]]
    strays: list[Segment]
    skipped: int

    @property
    def right(self) -> int:
        return len(self.written) - len(self.wrong)

    @property
    def wrong(self) -> list[tuple[int, Segment]]:
        return [(place, segment) for place, segment in self.written if segment.kind == "wrong"]

    @property
    def between(self) -> list[Segment]:
        """Strays between the written notes."""
        if not self.written:
            return []
        first, last = self.written[0][1], self.written[-1][1]
        return [stray for stray in self.strays if first.stop <= stray.start < last.start]

    @property
    def first(self) -> int:
        """Place of the first written note."""
        return self.written[0][0] if self.written else 0

    @property
    def last(self) -> int:
        return self.written[-1][0] if self.written else -1


def fullest(path: Path) -> Pass:
    """The pass with the most right notes."""
    return max((_counted(events) for events in path.passes()), key=lambda full: full.right)


def _counted(events: list[tuple[int, Segment | Move]]) -> Pass:
    written: list[tuple[int, Segment]] = []
    strays, skipped, expected = [], 0, 0
    for place, event in events:
        if isinstance(event, Move):
            expected = event.target
        elif event.kind == "stray":
            strays.append(event)
        else:
            # What comes before the first note of a pass is not passed over: the recording may begin late.
            skipped += event.index - expected if written else 0
            written.append((place, event))
            expected = event.index + 1
    return Pass(written, strays, skipped)


def usual_frames(path: Path, boundaries: Boundaries) -> float:
    """How long the written notes of a path are: their median."""
    written = [event for event in path.events if isinstance(event, Segment) and event.kind != "stray"]
    return float(np.median([frames_of(segment, boundaries) for segment in written])) if written else 0.0


def frames_of(event: Segment, boundaries: Boundaries) -> int:
    """How many frames a segment lasts."""
    return int(boundaries.frame[event.stop] - boundaries.frame[event.start])


def in_one_breath(
    path: Path, boundaries: Boundaries, full: Pass, usual_frames: float
) -> tuple[list[Segment], list[Segment], list[Segment]]:
    """What leads into a pass with no pause, what sounds in it, and what leads away from it; without strings that were touched
    in passing."""
    segments = [
        (place, event)
        for place, event in enumerate(path.events)
        if isinstance(event, Segment) and (event.kind != "stray" or frames_of(event, boundaries) > 0.5 * usual_frames)
    ]
    before = [segment for place, segment in segments if place < full.first]
    own = [segment for place, segment in segments if full.first <= place <= full.last]
    after = [segment for place, segment in segments if place > full.last]
    if not own:
        return [], [], []

    def joins(one: Segment, two: Segment) -> bool:
        return bool(boundaries.frame[two.start] - boundaries.frame[one.stop] <= _PAUSE * usual_frames)

    leading_in = takewhile(lambda pair: joins(*pair), reversed(list(pairwise([*before, own[0]]))))
    leading_out = takewhile(lambda pair: joins(*pair), pairwise([own[-1], *after]))
    return [one for one, _ in leading_in][::-1], own, [two for _, two in leading_out]


@dataclass(frozen=True)
class Fit:
    """How well a reading of a take goes with a line, wherever it stands."""

    right: int
    faults: float
    """Of what was come to in the fullest pass, and of what leads into it and away from it with no pause, the share that is wrong,
    passed over, or no written note."""
    at_partial: float
    """Of the right notes, the share that was heard in another octave."""
    from_the_start: bool
    """Whether the first thing that sounds is the first written note."""


def fit_of(path: Path, boundaries: Boundaries) -> Fit:
    """How well the fullest pass of a path agrees with what is written."""
    full, usual = fullest(path), usual_frames(path, boundaries)
    before, _, after = in_one_breath(path, boundaries, full, usual)
    between = sum(frames_of(stray, boundaries) > 0.5 * usual for stray in full.between)
    between += sum(segment.kind == "stray" for segment in [*before, *after])
    faults = len(full.wrong) + between + full.skipped
    first = next((event for event in path.events if isinstance(event, Segment)), None)
    starts = first is not None and first.kind == "note" and first.index == 0
    right = [segment for _, segment in full.written if segment.kind == "note"]
    at_partial = sum(segment.at_partial for segment in right) / max(len(right), 1)
    # A reading in which nothing is right explains nothing.
    share = faults / max(len(full.written) + between + full.skipped, 1) if full.right else 1.0
    return Fit(full.right, share, at_partial, starts)
