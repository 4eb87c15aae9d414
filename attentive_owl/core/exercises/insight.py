"""What a teacher would say of an exercise before it is played, worked out from the score."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from itertools import pairwise

from attentive_owl.core.exercises.moves import shifts
from attentive_owl.core.exercises.score import Score, ScoreNote
from attentive_owl.core.theory import STEPS, NoteNames, Pitch, say

FRAMES = (
    "2-3 close",
    "1-2 close",
    "3-4 close",
    "all a whole step apart",
    "first finger close to the nut",
    "fourth finger",
    "a shift",
)
"""What a hand can know: frames, and what goes beyond them, as `Insight.features` says them."""
_FINGER_WORDS = {0: "open", 1: "first", 2: "second", 3: "third", 4: "fourth"}


@dataclass(frozen=True)
class HalfStep:
    low: str
    high: str
    words: str


@dataclass(frozen=True)
class StringFrame:
    string: str
    words: str


@dataclass(frozen=True)
class Insight:
    signature: str
    occurring: tuple[str, ...]
    """Notes of the signature (and raised notes) that really occur."""
    half_steps: tuple[HalfStep, ...]
    frames: tuple[StringFrame, ...]
    frame_changes: tuple[int, ...]
    """Index of each note at which the hand takes another frame than on the string before."""
    crossings: int
    shifts: tuple[int, ...]
    """Index of each note before which the hand moves to another position."""
    difficulty: str
    features: frozenset[str]
    """What is needed to play it, in words; what is new is what no earlier exercise had."""


def look_at(score: Score, names: NoteNames = NoteNames.LETTERS) -> Insight:
    """Raises ValueError for a score without notes."""
    if not score.notes:
        raise ValueError("the score has no notes")
    crossings = sum(b.crosses_from(a) for a, b in pairwise(score.notes))
    moved = shifts(score)
    frames = _frames(score)
    changes = _frame_changes(score, frames)
    return Insight(
        _signature(score),
        _occurring(score, names),
        _half_steps(score, names),
        tuple(StringFrame(string, words) for string, words in frames.items()),
        changes,
        crossings,
        moved,
        _difficulty(score, crossings, len(moved), len(set(frames.values()))),
        _features(score, frames, moved),
    )


def what_is_new(
    features: frozenset[str], earlier: Iterable[frozenset[str]], known: Iterable[str] = ()
) -> tuple[str, ...]:
    """What an exercise asks for that no earlier one did, and that is not among the frames (of `FRAMES`) that a hand
    knows, on whatever string; in alphabetical order."""
    frames = set(known)
    fresh = features.difference(*earlier)
    return tuple(sorted(f for f in fresh if not frames.issuperset(f.rsplit(" on ", 1)[0].split(", "))))


def neighbours(score: Score, index: int, names: NoteNames = NoteNames.LETTERS) -> tuple[str, str]:
    """The notes of the key just below and above a note, spoken. Raises IndexError for a note that is not there."""
    pitch = score.notes[index].pitch
    place = pitch.diatonic
    around = []
    for step in (-1, 1):
        letter, octave = STEPS[(place + step) % 7], (place + step) // 7
        around.append(say(Pitch(letter, score.key.alter(letter), octave), names, score.key))
    return around[0], around[1]


def _signature(score: Score) -> str:
    fifths = score.key.fifths
    if fifths == 0:
        return "no sharps or flats"
    order = "FCGDAEB"[:fifths] if fifths > 0 else "BEADGCF"[:-fifths]
    kind = "sharp" if fifths > 0 else "flat"
    count = {1: "one", 2: "two", 3: "three", 4: "four", 5: "five", 6: "six", 7: "seven"}[abs(fifths)]
    return f"{count} {kind}{'s' if abs(fifths) > 1 else ''}: {', '.join(order)}"


def _occurring(score: Score, names: NoteNames) -> tuple[str, ...]:
    signed = {say(n.pitch, names, score.key): n.pitch.diatonic % 7 for n in score.notes if n.pitch.alter}
    return tuple(sorted(signed, key=lambda spoken: signed[spoken]))


def _half_steps(score: Score, names: NoteNames) -> tuple[HalfStep, ...]:
    found: dict[tuple[str, str], HalfStep] = {}
    for a, b in pairwise(score.notes):
        low, high = sorted((a, b), key=lambda n: n.midi)
        if high.midi - low.midi != 1:
            continue
        key = (say(low.pitch, names, score.key), say(high.pitch, names, score.key))
        found.setdefault(key, HalfStep(*key, _touch(low, high)))
    return tuple(found.values())


def _touch(low: ScoreNote, high: ScoreNote) -> str:
    if not low.placement or not high.placement:
        return "close together"
    one, two = low.placement, high.placement
    if one.string != two.string:
        return f"{_FINGER_WORDS[one.finger]} finger on {one.string}, then {_on(two.finger, two.string)}"
    if one.finger == 0:
        return f"{_FINGER_WORDS[two.finger]} finger close to the nut on {two.string}"
    if one.finger == two.finger:
        return f"the {_FINGER_WORDS[one.finger]} finger slides on {one.string}"
    return f"{_FINGER_WORDS[one.finger]} and {_FINGER_WORDS[two.finger]} finger touch on {one.string}"


def _on(finger: int, string: str) -> str:
    return f"open {string}" if finger == 0 else f"{_FINGER_WORDS[finger]} finger on {string}"


def _frames(score: Score) -> dict[str, str]:
    """String -> which neighbours are close, in the order in which the strings come."""
    used: dict[str, dict[int, int]] = {}
    for note in score.notes:
        if note.placement and note.placement.finger:
            used.setdefault(note.placement.string, {})[note.placement.semitones] = note.placement.finger
    frames = {}
    for string, places in used.items():
        close = [
            f"{places[low]}-{places[low + 1]} close"
            for low in sorted(places)
            if low + 1 in places and places[low] != places[low + 1]
        ]
        if places.get(1) == 1:
            close.insert(0, "first finger close to the nut")
        if not close and len(places) > 1:
            close = ["all a whole step apart"]
        frames[string] = ", ".join(close) if close else f"only the {_FINGER_WORDS[next(iter(places.values()))]} finger"
    return frames


def _frame_changes(score: Score, frames: dict[str, str]) -> tuple[int, ...]:
    changes, last = [], None
    for note in score.notes:
        if not note.placement or not note.placement.finger:
            continue
        frame = frames[note.placement.string]
        if last is not None and frame != last and not frame.startswith("only"):
            changes.append(note.index)
        if not frame.startswith("only"):
            last = frame
    return tuple(changes)


def _difficulty(score: Score, crossings: int, shifts: int, frames: int) -> str:
    """Words from a small sum: every part of it is something that a beginner has to think of (common practice)."""
    beats = max(float(score.end_beats - score.start_beats), 1.0)
    a_second = score.tempo_bpm / 60.0 * len(score.notes) / beats
    reach = max(n.midi for n in score.notes) - min(n.midi for n in score.notes)
    load = (
        max(frames - 1, 0)
        + 2.0 * (shifts > 0)
        + 4.0 * crossings / len(score.notes)
        + max(a_second - 1.0, 0.0) / 1.5
        + max(reach - 12, 0) / 6.0
    )
    word = "a first step" if load < 1.2 else "easy going" if load < 2.5 else "some work" if load < 4.5 else "a climb"
    why = [
        text
        for text, holds in (
            (f"{frames} hand frames", frames > 1),
            ("a shift" if shifts == 1 else f"{shifts} shifts", shifts > 0),
            (f"{crossings} string crossings", crossings > 3),
            (f"{a_second:.1f} notes a second", a_second > 2.0),
            ("a range of over an octave", reach > 12),
        )
        if holds
    ]
    return f"{word}: {', '.join(why)}" if why else word


def _features(score: Score, frames: dict[str, str], shifts: Iterable[int]) -> frozenset[str]:
    found = {f"{words} on {string}" for string, words in frames.items() if "close" in words or "apart" in words}
    found |= {f"the {string} string" for string in {n.placement.string for n in score.notes if n.placement}}
    found |= {f"the key of {score.key.tonic.replace('b', ' flat').replace('#', ' sharp')} {score.key.mode.value}"}
    names = {
        4: "whole",
        2: "half",
        1: "quarter",
        0.5: "eighth",
        0.25: "sixteenth",
        1.5: "dotted quarter",
        0.75: "dotted eighth",
        3: "dotted half",
    }
    found |= {f"{names[value]} notes" for n in score.notes if (value := float(n.duration_beats)) in names}
    if score.rests and any(rest.start_beats < score.notes[-1].start_beats for rest in score.rests):
        found.add("rests")
    if any(True for _ in shifts):
        found.add("a shift")
    for kind, holds in (
        ("slurs", any(n.slur is not None for n in score.notes)),
        ("staccato", any(n.staccato for n in score.notes)),
        ("pizzicato", any(n.pizzicato for n in score.notes)),
        ("fourth finger", any(n.placement and n.placement.finger == 4 for n in score.notes)
            and score.instrument_key in ("violin", "viola")),
    ):  # fmt: skip
        if holds:
            found.add(kind)
    return frozenset(found)
