"""Why a note that was not heard may have been played all the same.

Under noise, a note that was not heard where there was time for it may well have been played. So may one in whose time
something was struck, or sounded, that no note explains. Where the note before sounds on, on its pitch, a new stroke may have been made
that left no trace.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from attentive_owl.core.exercises import Score
from attentive_owl.core.listening.alignment.observations import Emission
from attentive_owl.core.listening.alignment.path import Path, Segment
from attentive_owl.core.listening.features.frames import HOP_S, Array
from attentive_owl.core.listening.features.novelty import SURE_STROKE, Boundaries
from attentive_owl.core.listening.notes.pace import T, is_other, like_notes, neighbours, pace_of

_ROOM = 0.7
"""Of the time that the pace gives a note: with less there was none for it."""
_LEAST_ALIKE = 3
"""Fewer notes of a length do not tell for how long they sound."""
_SOUND_FOLLOWS_S = 0.15
"""What is struck sounds on for so long at least; a knock does not."""
_LEAST_QUIET = 0.3
"""Probability of silence under which a frame sounds."""
_SOUNDED_SHARE = 0.5
"""Of the missing note's time."""
_BEGUN_S, _BREAK_S = 0.25, 0.06
"""Sound that no note explains, for so long and with no longer break, up to where a note was heard to begin, may be that note. By hand."""
_AHEAD_S = 0.08
"""So long before a note that was heard, a stroke is its own: onsets are refined later."""


def had_room(missing: int, heard: dict[int, T], score: Score) -> bool:
    """Whether the notes around a missing one left it its time: 70 % at least of what the pace of the pass would give.
    True where nothing was heard on one side of it."""
    before, after = neighbours(heard, missing, missing)
    if not before or not after:
        return True
    beats = float(score.notes[after[0]].start_beats - score.notes[before[0]].start_beats)
    pace = pace_of(heard, score)
    return pace is None or heard[after[0]].onset_s - heard[before[0]].onset_s >= _ROOM * pace * beats


def held_over(missing: int, heard: dict[int, T], score: Score, tuning_semitones: float) -> bool:
    """Whether the note before a missing one sounds on its pitch, and through half of what such notes sound in this take, or more: the bow may
    have changed without a sound. Of a run on one pitch that was played on another one, too."""
    before, _ = neighbours(heard, missing, missing)
    pace, note = pace_of(heard, score), score.notes[missing]
    if not before or pace is None:
        return False
    alike = before[0] in like_notes(missing, score)
    if not alike and is_other(heard[before[0]], note.midi + tuning_semitones):
        return False
    sounds = 0.5 * _sounding_share(float(note.duration_beats), heard, score, pace) * float(note.duration_beats)
    middle = float(note.start_beats - score.notes[before[0]].start_beats) + sounds
    return heard[before[0]].offset_s - heard[before[0]].onset_s >= pace * middle


def _sounding_share(beats: float, heard: dict[int, T], score: Score, pace: float) -> float:
    """Share of their time for which notes of a length sound in a take: pupils who let long notes go cut all of them."""
    shares = [
        (item.offset_s - item.onset_s) / (pace * beats)
        for index, item in heard.items()
        if score.notes[index].duration_beats == beats
    ]
    return min(float(np.median(shares)), 1.0) if len(shares) >= _LEAST_ALIKE else 1.0


def taken_for_both(missing: int, heard: dict[int, T], score: Score) -> bool:
    """Whether the note after a missing one, of a run on its pitch, sounds through the missing one's time and half its own, where there was time
    for both: both may be in it, and the bow changed without a sound."""
    _, after = neighbours(heard, missing, missing)
    pace, note = pace_of(heard, score), score.notes[missing]
    if not after or pace is None or after[0] not in like_notes(missing, score) or not had_room(missing, heard, score):
        return False
    follows, sounds = score.notes[after[0]], heard[after[0]]
    through = float(follows.start_beats + follows.duration_beats / 2 - note.start_beats)
    return sounds.offset_s - sounds.onset_s >= pace * through


def unexplained_strokes(path: Path, boundaries: Boundaries, heard: Emission) -> Array:
    """Moments (s), shape (n,), in the gaps between segments at which a stroke surely begins and sound follows."""
    bare = _between_segments(path, boundaries)[boundaries.frame]
    reach = int(_SOUND_FOLLOWS_S / HOP_S)
    return np.array(
        [
            frame * HOP_S
            for frame, attack in zip(boundaries.frame[bare], boundaries.attack[bare], strict=True)
            if attack > SURE_STROKE and heard.quiet[frame : frame + reach].mean() < _LEAST_QUIET
        ]
    )


def unexplained_sound(path: Path, boundaries: Boundaries, heard: Emission) -> Array:
    """Moments (s), shape (n,), a frame each, in the gaps between segments at which something sounds that has no pitch of its own: two
    strings at once, or a bow that scrapes."""
    bare = _between_segments(path, boundaries)[: len(heard.quiet)]
    moments: Array = np.flatnonzero(bare & (heard.quiet < _LEAST_QUIET)).astype(np.float64) * HOP_S
    return moments


def _between_segments(path: Path, boundaries: Boundaries) -> NDArray[np.bool_]:
    """Which frames no segment fills, shape (frames + 1,): the end of the recording is one more."""
    bare = np.ones(int(boundaries.frame[-1]) + 1, bool)
    for event in path.events:
        if isinstance(event, Segment):
            bare[boundaries.frame[event.start] : boundaries.frame[event.stop]] = False
    return bare


def sounding_near(missing: int, heard: dict[int, T], score: Score, sounding_s: Array) -> bool:
    """Whether something that no note explains (`unexplained_sound`, shape (n,)) sounded for half a missing note's time between the notes around it."""
    before, after = neighbours(heard, missing, missing)
    pace = pace_of(heard, score)
    if not before or not after or pace is None:
        return False
    inside = (sounding_s > heard[before[0]].offset_s) & (sounding_s < heard[after[0]].onset_s)
    return float(inside.sum()) * HOP_S > _SOUNDED_SHARE * pace * float(score.notes[missing].duration_beats)


def begun_before(heard: dict[int, T], score: Score, sounding_s: Array) -> frozenset[int]:
    """Notes that something ran up to which no note explains (`unexplained_sound`, shape (n,)): they may have begun in it. With them the
    others of a run on one pitch: of which of them the strokes are that were heard, nobody knows."""
    found: set[int] = set()
    for index, item in heard.items():
        ahead = sounding_s[sounding_s < item.onset_s]
        ends = np.concatenate((ahead, [item.onset_s]))
        gaps = np.diff(ends)
        gaps[-1:] -= _AHEAD_S - _BREAK_S
        breaks = np.flatnonzero(gaps > _BREAK_S)
        begin = ends[breaks[-1] + 1] if len(breaks) else ends[0]
        if item.onset_s - begin >= _BEGUN_S:
            found.update(like_notes(index, score))
    return frozenset(found)


def stroke_near(missing: int, heard: dict[int, T], score: Score, strokes_s: Array) -> bool:
    """Whether something that no note explains (`unexplained_strokes`, shape (n,)) was struck between the notes around a missing one, or around the run of
    notes on its pitch: which of them is missing is a guess."""
    run = like_notes(missing, score)
    before = max((item.offset_s for index, item in heard.items() if index < run.start), default=-np.inf)
    after = min((item.onset_s for index, item in heard.items() if index >= run.stop), default=np.inf)
    # What is struck just before a note that was heard, or while it sounds, is that note's.
    others = [~((strokes_s > item.onset_s - _AHEAD_S) & (strokes_s < item.offset_s)) for item in heard.values()]
    return bool(np.any((strokes_s > before) & (strokes_s < after) & np.all(others, axis=0)))
