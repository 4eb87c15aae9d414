"""What was played of the line: where it ended or turned, what was passed over, and what was played beside it.

Notes that the pupil never came to are told as that, and not as missed one by one.
"""

from __future__ import annotations

from dataclasses import dataclass

from attentive_owl.core.exercises import Score
from attentive_owl.core.judging.cause import Cause
from attentive_owl.core.judging.findings.finding import Evidence, Finding, Layer
from attentive_owl.core.judging.speech import Speaker, Words, capital, counted, together
from attentive_owl.core.listening.performance import HeardPass, NoteStatus, StrayNote

_LEAST_LEFT = 2
"""So many notes at an end that were not played are a part that was not come to; one is a note left out."""
_LEAST_TURN = 4
"""So many notes around the top that were left out are a turn; fewer are notes left out."""
_LEAST_STRAY_S = 0.08
"""A shorter sound is no note to anybody."""
_A_PASSAGE = 4
"""So many notes in a row that were left out are told as a passage."""
_MOST_NAMED = 3
"""More notes than these are counted and not named."""


@dataclass(frozen=True)
class Reach:
    """Which part of a line was played."""

    not_come_to: tuple[int, ...]
    left_out: tuple[int, ...]
    ended_after: int | None = None
    one_way: bool = False
    turned_after: int | None = None
    joined_at: int | None = None


def reach_of(score: Score, heard_pass: HeardPass) -> Reach:
    """From where to where a pass was played, and what was left out in between."""
    missing = [note.index for note in heard_pass.notes if note.status == NoteStatus.MISSED]
    heard = [note.index for note in heard_pass.notes if note.status != NoteStatus.MISSED]
    if not missing or not heard:
        return Reach((), tuple(missing))
    first, last, count = heard[0], heard[-1], len(score.notes)
    before, after = range(first), range(last + 1, count)
    joined = first if len(before) >= _LEAST_LEFT else None
    ended = last if len(after) >= _LEAST_LEFT else None
    outside = [*(before if joined is not None else ()), *(after if ended is not None else ())]
    gone = set(missing)
    turn = _turn(score, gone, first, last)
    if turn is not None:
        outside += turn
    top = _top(score)
    one_way = ended is not None and top is not None and joined is None and last in top
    left_out = tuple(index for index in missing if index not in set(outside))
    return Reach(tuple(sorted(outside)), left_out, ended, one_way, turn.start - 1 if turn is not None else None, joined)


def _top(score: Score) -> range | None:
    """Where a line that goes up and down again turns round: its highest notes, if they lie together in its middle."""
    highest = max(note.midi for note in score.notes)
    tops = [note.index for note in score.notes if note.midi == highest]
    whole = tops == list(range(tops[0], tops[-1] + 1))
    middle = tops[0] > 0.3 * len(score.notes) and tops[-1] < 0.7 * len(score.notes)
    return range(tops[0], tops[-1] + 1) if whole and middle else None


def _turn(score: Score, gone: set[int], first: int, last: int) -> range | None:
    """The notes around the top that were not played because the pupil turned round before them."""
    top = _top(score)
    if top is None or not all(index in gone for index in top):
        return None
    low, high = top.start, top.stop
    while low - 1 in gone:
        low -= 1
    while high in gone:
        high += 1
    inside = low > first and high <= last
    return range(low, high) if inside and high - low >= _LEAST_TURN else None


def _ended(evidence: Evidence, *, one_way: bool) -> list[Cause]:
    reach = reach_of(evidence.score, evidence.heard_pass)
    if reach.ended_after is None or reach.one_way is not one_way:
        return []
    return [Cause("one_way" if one_way else "ended_early", (reach.ended_after,), 0.9)]


def _turned(evidence: Evidence) -> list[Cause]:
    reach = reach_of(evidence.score, evidence.heard_pass)
    return [] if reach.turned_after is None else [Cause("turned_early", (reach.turned_after,), 0.9)]


def _joined(evidence: Evidence) -> list[Cause]:
    reach = reach_of(evidence.score, evidence.heard_pass)
    return [] if reach.joined_at is None else [Cause("joined_late", (reach.joined_at,), 0.9)]


def _skipped(evidence: Evidence) -> list[Cause]:
    left_out = reach_of(evidence.score, evidence.heard_pass).left_out
    return [Cause("skipped", left_out, 0.9)] if left_out else []


def stray_notes(evidence: Evidence) -> list[StrayNote]:
    """Notes that stand between those of the line. What sounds before the first one, or after the last, is nobody's business."""
    played = [note for note in evidence.heard_pass.notes if note.onset_s is not None]
    if not played:
        return []
    begin, end = min(n.onset_s or 0.0 for n in played), max(n.onset_s or 0.0 for n in played)
    count = len(evidence.score.notes)
    return [
        stray
        for stray in evidence.performance.strays
        if begin < stray.onset_s < end and stray.offset_s - stray.onset_s >= _LEAST_STRAY_S and stray.before < count
    ]


def _stray(evidence: Evidence) -> list[Cause]:
    own = stray_notes(evidence)
    if not own:
        return []
    return [Cause("stray", tuple(stray.before for stray in own), 0.8, detail={"count": float(len(own))})]


def _ended_words(causes: tuple[Cause, ...], speaker: Speaker) -> Words:
    last = causes[0].notes[0]
    place = speaker.place(last)
    note = speaker.score.notes[last]
    following = speaker.score.notes[last + 1]
    whole = following.measure != note.measure and note.measure > 0
    after = speaker.measure(note.measure) if whole else place
    return Words(
        f"You stopped after {after}. What you played is heard; next time go on from there.",
        f"The take ends after {after}. What there is of it was checked; the rest comes next.",
        f"Ended after {place}; judged on what was played.",
    )


def _one_way_words(causes: tuple[Cause, ...], speaker: Speaker) -> Words:
    top = speaker.note(causes[0].notes[0])
    return Words(
        f"You played the way up. The way down is missing: from {top} back again.",
        f"Only the way up was played. The line goes down again from {top}.",
        "Only the way up was played; judged on that.",
    )


def _turned_words(causes: tuple[Cause, ...], speaker: Speaker) -> Words:
    last = causes[0].notes[0]
    top = speaker.score.notes[last + 1 :]
    highest = max(top, key=lambda note: note.midi)
    return Words(
        f"You turned round after {speaker.note(last)}. The line goes on up to {speaker.note(highest.index)}.",
        f"The line was turned round too soon, after {speaker.place(last)}. It goes on up before it comes down.",
        f"Turned round after {speaker.place(last)}, below the top of the line; judged on what was played.",
    )


def _joined_words(causes: tuple[Cause, ...], speaker: Speaker) -> Words:
    place = speaker.place(causes[0].notes[0])
    first = speaker.note(0)
    return Words(
        f"You joined in at {place}. The line begins in {speaker.measure(speaker.score.notes[0].measure)}, on {first}: start there next time.",
        f"The take begins at {place}. The beginning of the line is missing.",
        f"Begins at {place}; judged on what was played.",
    )


def _skipped_words(causes: tuple[Cause, ...], speaker: Speaker) -> Words:
    left_out = causes[0].notes
    first, last, there = left_out[0], left_out[-1], speaker.measures(left_out)
    whole = left_out == tuple(range(first, last + 1)) and len(left_out) >= _A_PASSAGE
    if len(left_out) == 1:
        what, was = speaker.place(first), "was"
    elif whole and speaker.score.notes[first].measure == speaker.score.notes[last].measure:
        what, was = f"the passage from {speaker.note(first)} to {speaker.place(last)}", "was"
    elif whole:
        what, was = f"the passage from {speaker.place(first)} to {speaker.place(last)}", "was"
    elif len(left_out) <= _MOST_NAMED:
        what, was = together(speaker.place(index) for index in left_out), "were"
    else:
        what, was = f"{len(left_out)} notes in {there}", "were"
    many = not whole and len(left_out) > _MOST_NAMED
    child = (
        "Say all the notes aloud first, then play the line slowly."
        if many
        else f"Play {there} alone once, then the line."
    )
    return Words(
        f"{capital(what)} {was} left out. {child}",
        f"{capital(what)} {was} left out. Play {there} slowly together once, saying each note.",
        f"Left out: {what}.",
    )


def _stray_words(causes: tuple[Cause, ...], speaker: Speaker) -> Words:
    before, count = causes[0].notes, len(causes[0].notes)
    if count == 1:
        return Words(
            f"A note too many slipped in before {speaker.place(before[0])}. Play that place alone, slowly, once.",
            f"There was one note too many before {speaker.place(before[0])}. That place alone, slowly, puts it right.",
            f"A note that is not written, before {speaker.place(before[0])}.",
        )
    where = speaker.measures(before)
    return Words(
        f"{count} notes too many slipped in, in {where}. Point at each note while you say it, then play.",
        f"There were {count} notes too many, in {where}. Let the notes be said aloud before they are played.",
        f"{counted(count, 'note')} that are not written, in {where}.",
    )


FINDINGS = (
    Finding("ended_early", Layer.PLAYED, 60, lambda c, s: "Ended before the end", _ended_words, lambda e: _ended(e, one_way=False)),
    Finding("one_way", Layer.PLAYED, 61, lambda c, s: "Only the way up", _one_way_words, lambda e: _ended(e, one_way=True)),
    Finding("turned_early", Layer.PLAYED, 62, lambda c, s: "Turned round too soon", _turned_words, _turned),
    Finding("joined_late", Layer.PLAYED, 63, lambda c, s: "Began in the middle", _joined_words, _joined),
    Finding(
        "skipped",
        Layer.PLAYED,
        64,
        lambda c, s: f"{capital(counted(len(c.notes), 'note'))} left out",
        _skipped_words,
        _skipped,
    ),
    Finding(
        "stray",
        Layer.PLAYED,
        65,
        lambda c, s: f"{capital(counted(len(c.notes), 'note'))} too many",
        _stray_words,
        _stray,
    ),
)  # fmt: skip
