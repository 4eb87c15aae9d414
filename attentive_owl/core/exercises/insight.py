"""What a teacher would say of an exercise before it is played, worked out from the score."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise

from attentive_owl.core.exercises.moves import shifts
from attentive_owl.core.exercises.score import Score, ScoreNote
from attentive_owl.core.instruments import Extension, FingerPlacement, Instrument, extension_of
from attentive_owl.core.theory import STEPS, NoteNames, NoteValues, Pitch, say, value_name

_CLOSE = (
    "2-3 close",
    "1-2 close",
    "3-4 close",
    "all a whole step apart",
    "first finger close to the nut",
    "fourth finger",
)
_CELLO = ("1-3-4", "1-2-4", "stretched forward", "stretched back", "half position")
_BASS = ("1-4", "1-2", "1-2-4", "half position")
FRAMES = tuple(dict.fromkeys((*_CLOSE, *_CELLO, *_BASS, "a shift")))
"""What a hand can know: frames of violin and viola, hands of cello and bass, and what goes beyond them, as
`Insight.features` says them."""
_HARD = {"close to the nut": 1.2, "3-4 close": 0.8, "stretched": 1.5, "low third": 0.8, "half position": 0.4}
"""What a frame adds to the load: none of these is a first step (common practice)."""
_FINGER_WORDS = {0: "open", 1: "first", 2: "second", 3: "third", 4: "fourth"}


@dataclass(frozen=True)
class HalfStep:
    """Two notes a half step apart, and the fingers that touch there."""

    low: str
    high: str
    words: str


@dataclass(frozen=True)
class StringFrame:
    """How the hand stands on one string."""

    string: str
    words: str


@dataclass(frozen=True)
class Insight:
    """What a teacher looks for in a line before it is played."""

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
        _difficulty(score, crossings, len(moved), frames),
        _features(score, frames, moved),
    )


def frames_for(instrument: Instrument) -> tuple[str, ...]:
    """Those of `FRAMES` that a hand on this instrument can know."""
    own = _CLOSE if instrument.fingers_touch else _CELLO if instrument.uses_third_finger else _BASS
    return (*own, "a shift")


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
        found.setdefault(key, HalfStep(*key, _touch(low, high, score)))
    return tuple(found.values())


def _touch(low: ScoreNote, high: ScoreNote, score: Score) -> str:
    """Which fingers make a half step: they touch on violin and viola; larger hands keep their spacing there."""
    if not low.placement or not high.placement:
        return "close together"
    one, two = low.placement, high.placement
    if one.string != two.string:
        return f"{_on(one.finger, one.string)}, then {_on(two.finger, two.string)}"
    if one.finger == 0:
        return f"{_FINGER_WORDS[two.finger]} finger close to the nut on {two.string}"
    if one.position != two.position:
        return f"a shift on {one.string}: {_FINGER_WORDS[one.finger]} finger, then {_FINGER_WORDS[two.finger]}"
    if one.finger == two.finger:
        return f"the {_FINGER_WORDS[one.finger]} finger slides on {one.string}"
    fingers = f"{_FINGER_WORDS[one.finger]} and {_FINGER_WORDS[two.finger]} finger"
    if score.instrument.fingers_touch:
        return f"{fingers} touch on {one.string}"
    return f"{fingers} on {one.string}, with the hand's own spacing"


_WHY = {
    "close to the nut": "a low first finger",
    "3-4 close": "third and fourth finger close",
    "stretched": "a stretch",
    "low third": "a low third finger",
    "half position": "half position",
}


def _on(finger: int, string: str) -> str:
    return f"open {string}" if finger == 0 else f"{_FINGER_WORDS[finger]} finger on {string}"


def _frames(score: Score) -> dict[str, str]:
    """String -> how the hand stands on it, in the order in which the strings come."""
    used: dict[str, list[FingerPlacement]] = {}
    for note in score.notes:
        if note.placement and note.placement.finger:
            used.setdefault(note.placement.string, []).append(note.placement)
    describe = _neighbours_close if score.instrument.fingers_touch else _hand
    return {string: describe(score, string, places) for string, places in used.items()}


def _neighbours_close(score: Score, string: str, places: Sequence[FingerPlacement]) -> str:
    """Violin and viola: which neighbours are a half step apart. A finger below the highest that is not played stands
    where the key puts it."""
    frame = score.instrument.first_position
    first = [place for place in places if place.position == frame.position]
    if not first:
        return f"the hand in position {places[0].position}"
    at: dict[int, int] = {place.semitones: place.finger for place in first}
    open_midi = score.instrument.string(string).pitch.midi
    for finger in range(1, max(at.values())):
        if finger not in at.values():
            own = [s for s in frame.shapes[0].reach[finger] if score.key.contains(open_midi + s) and s not in at]
            if len(own) == 1:
                at[own[0]] = finger
    close = [f"{at[low]}-{at[low + 1]} close" for low in sorted(at) if low + 1 in at and at[low] != at[low + 1]]
    if at.get(1) == 1:
        close.insert(0, "first finger close to the nut")
    if at.get(4) == 3:
        close.append("low third finger")
    if not close:
        return "all a whole step apart" if len(at) > 2 else f"only the {_FINGER_WORDS[first[0].finger]} finger"
    return ", ".join(close)


def _hand(score: Score, string: str, places: Sequence[FingerPlacement]) -> str:
    """Cello and bass: which fingers stand, opened which way, in the position in which the string is first played."""
    position = places[0].position
    here = [place for place in places if place.position == position]
    fingers = sorted({place.finger for place in here})
    parts = []
    if len(fingers) > 1 and score.instrument.uses_third_finger:
        # Whether second or third finger stands in the middle is what a cello hand is called by.
        parts.append("1-2-3-4" if {2, 3} <= set(fingers) else "1-3-4" if 3 in fingers else "1-2-4")
    elif len(fingers) > 1:
        parts.append("-".join(map(str, fingers)))
    ways = {extension_of(score.instrument, place) for place in here}
    parts += [f"stretched {way.value}" for way in (Extension.FORWARD, Extension.BACK) if way in ways]
    parts += ["half position"] if position == "1/2" else []
    return ", ".join(parts) or f"only the {_FINGER_WORDS[fingers[0]]} finger"


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


def _difficulty(score: Score, crossings: int, shifts: int, frames: Mapping[str, str]) -> str:
    """Words from a small sum: every part of it is something that a beginner has to think of (common practice)."""
    # Crossing from one frame to another is what is hard, not a finger alone.
    kinds = len({words for words in frames.values() if not words.startswith("only")})
    hard = [sign for sign in _HARD if any(sign in words for words in frames.values())]
    beats = max(float(score.end_beats - score.start_beats), 1.0)
    a_second = score.tempo_bpm / 60.0 * len(score.notes) / beats
    reach = max(n.midi for n in score.notes) - min(n.midi for n in score.notes)
    load = (
        max(kinds - 1, 0)
        + sum(_HARD[sign] for sign in hard)
        + 2.0 * (shifts > 0)
        + 4.0 * crossings / len(score.notes)
        + max(a_second - 1.0, 0.0) / 1.5
        + max(reach - 12, 0) / 6.0
    )
    word = "a first step" if load < 1.2 else "easy going" if load < 2.5 else "some work" if load < 4.5 else "a climb"
    why = [
        text
        for text, holds in (
            (f"{kinds} hand frames", kinds > 1),
            *((_WHY[sign], True) for sign in hard),
            ("a shift" if shifts == 1 else f"{shifts} shifts", shifts > 0),
            (f"{crossings} string crossings", crossings > 3),
            (f"{a_second:.1f} notes a second", a_second > 2.0),
            ("a range of over an octave", reach > 12),
        )
        if holds
    ]
    return f"{word}: {', '.join(why)}" if why else word


def _features(score: Score, frames: dict[str, str], shifts: Iterable[int]) -> frozenset[str]:
    found = {f"{words} on {string}" for string, words in frames.items() if not words.startswith("only")}
    found |= {f"the {string} string" for string in {n.placement.string for n in score.notes if n.placement}}
    found |= {f"the key of {score.key.tonic.replace('b', ' flat').replace('#', ' sharp')} {score.key.mode.value}"}
    found |= {value_name(float(n.duration_beats), NoteValues.QUARTER) for n in score.notes}
    if score.rests and any(rest.start_beats < score.notes[-1].start_beats for rest in score.rests):
        found.add("rests")
    if any(True for _ in shifts):
        found.add("a shift")
    for kind, holds in (
        ("slurs", any(n.slur is not None for n in score.notes)),
        ("staccato", any(n.staccato for n in score.notes)),
        ("pizzicato", any(n.pizzicato for n in score.notes)),
        ("fourth finger", any(n.placement and n.placement.finger == 4 for n in score.notes)
            and score.instrument.fingers_touch),
    ):  # fmt: skip
        if holds:
            found.add(kind)
    return frozenset(found)


def telling(score: Score, found: Insight, bow: str) -> tuple[tuple[str, str], ...]:
    """What a teacher tells before it is played: (about what, words), what does not matter left out. `bow`: the bow plan's."""
    moves = f"{found.crossings} string {'crossing' if found.crossings == 1 else 'crossings'}"
    where = ", ".join(
        f"{score.notes[at].measure}.{float(score.notes[at].beat):g}" for at in found.shifts if score.notes[at].placement
    )
    rows = (
        ("Key", found.signature + (f"; in it: {', '.join(found.occurring)}" if found.occurring else "")),
        ("Half steps", "; ".join(f"{half.low} to {half.high} ({half.words})" for half in found.half_steps)),
        ("Hand", "; ".join(f"{frame.string}: {frame.words}" for frame in found.frames)),
        ("Moves", f"{moves}, {f'shifts at {where}' if where else 'no shift'}"),
        ("Bow", bow),
    )
    return tuple(row for row in rows if row[1])


def same_fingers(score: Score, other: Score) -> int | None:
    """By how many strings a line lies above another one that has the same fingers in the same order; None where it has not,
    or where the two lie on the same strings."""
    names = [string.name for string in score.instrument.strings]
    if score.instrument_key != other.instrument_key or len(score.notes) != len(other.notes):
        return None
    pairs = [(a.placement, b.placement) for a, b in zip(score.notes, other.notes, strict=True)]
    over = set()
    for own, theirs in pairs:
        if own is None or theirs is None:
            return None
        if (own.finger, own.semitones, own.position) != (theirs.finger, theirs.semitones, theirs.position):
            return None
        over.add(names.index(own.string) - names.index(theirs.string))
    return over.pop() if len(over) == 1 and over != {0} else None


def strings_over(count: int | None) -> str:
    """As a teacher says where the same fingers lie; empty for nowhere."""
    if not count:
        return ""
    return f"{'one string' if abs(count) == 1 else f'{abs(count)} strings'} {'over' if count > 0 else 'lower'}"
