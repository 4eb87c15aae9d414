"""What the left hand does: all of it, one finger, some places, some ways, and what has no fixed place."""

from __future__ import annotations

import numpy as np

from attentive_owl.core.exercises import Score
from attentive_owl.core.judging.cause import Cause
from attentive_owl.core.judging.deviations import Deviation
from attentive_owl.core.judging.expectations import rings
from attentive_owl.core.judging.findings.finding import Carrier, Evidence, Finding, Layer
from attentive_owl.core.judging.speech import Speaker, Words, capital, counted, finger, together
from attentive_owl.core.listening.notes.pitch import LEAST_SLIDE_NOTE_S
from attentive_owl.core.listening.performance import NoteStatus

_LEAST_SETTLING, _SETTLING_SHARE = 3, 0.5
"""Notes, and share of the stopped ones, that have to start away from where they settle."""
_SLIDE_CENTS = 22.0
"""By hand: less is the stroke and no slide."""


def _whole_hand(stopped: tuple[Deviation, ...], score: Score) -> list[Carrier]:
    return [Carrier(stopped)] if len({d.finger for d in stopped}) > 1 else []


def _fingers(stopped: tuple[Deviation, ...], score: Score) -> list[Carrier]:
    used = sorted({d.finger for d in stopped if d.finger})
    return [Carrier(tuple(d for d in stopped if d.finger == number), number) for number in used]


def _places(stopped: tuple[Deviation, ...], score: Score) -> list[Carrier]:
    """One note of a finger; or the finger at one distance from the nut on several strings, as for C and F."""
    groups: dict[tuple[int | None, int, str | None], list[Deviation]] = {}
    for d in stopped:
        if d.note.placement:
            for string in (None, d.note.placement.string):
                groups.setdefault((d.finger, d.note.placement.semitones, string), []).append(d)
    return [Carrier(tuple(own), number) for (number, _, _), own in groups.items()]


def _falling(stopped: tuple[Deviation, ...], score: Score) -> list[Carrier]:
    return [Carrier(tuple(d for d in stopped if d.note.index and score.notes[d.note.index - 1].midi > d.note.midi))]


def _crossed(stopped: tuple[Deviation, ...], score: Score) -> list[Carrier]:
    own = (d for d in stopped if d.note.index and d.note.crosses_from(score.notes[d.note.index - 1]))
    return [Carrier(tuple(own))]


def _above_half_steps(stopped: tuple[Deviation, ...], score: Score) -> list[Carrier]:
    """The upper of two fingers a half step apart: stopped notes a half step over a stopped note of the same string that the
    line plays too. Where one finger does it all, that finger is the nearer word."""
    reached = {
        (note.placement.string, note.placement.semitones)
        for note in score.notes
        if note.placement and note.placement.finger
    }
    own = tuple(
        d for d in stopped if d.note.placement and (d.note.placement.string, d.note.placement.semitones - 1) in reached
    )
    return [Carrier(own)] if len({d.finger for d in own}) > 1 else []


def _ringing(stopped: tuple[Deviation, ...], score: Score) -> list[Carrier]:
    own = tuple(d for d in stopped if rings(d.note, score))
    return [Carrier(own)] if len({d.finger for d in own}) > 1 else []


def _settling_in(evidence: Evidence) -> list[Cause]:
    """Stopped notes that begin away from where they then stay; the settled pitch is the note's."""
    stopped = [
        d for d in evidence.notes if d.heard.status == NoteStatus.PLAYED and d.finger and _long_enough_to_slide(d)
    ]
    slid = [d for d in stopped if abs(d.heard.approach_cents or 0.0) >= _SLIDE_CENTS]
    if len(slid) < max(_LEAST_SETTLING, _SETTLING_SHARE * len(stopped)):
        return []
    cents = float(np.median([d.heard.approach_cents for d in slid if d.heard.approach_cents is not None]))
    own = tuple(d.note.index for d in slid if np.sign(d.heard.approach_cents or 0.0) == np.sign(cents))
    if len(own) < 0.75 * len(slid):
        return []
    return [Cause("settling_in", own, 0.75, cents=round(cents, 1))]


def _long_enough_to_slide(d: Deviation) -> bool:
    begin, end = d.heard.onset_s, d.heard.offset_s
    return begin is not None and end is not None and end - begin >= LEAST_SLIDE_NOTE_S


def _moved(cause: Cause) -> str:
    return f"{abs(cause.cents or 0.0):.0f} cents {_level(cause)}, to move {cause.mm} mm towards the {cause.towards}"


def _level(cause: Cause) -> str:
    return "low" if cause.low else "high"


def _carried(cause: Cause) -> str:
    return f"in {counted(len(cause.notes), 'note')}"


def _hand_words(causes: tuple[Cause, ...], speaker: Speaker) -> Words:
    cause = causes[0]
    if "or" in cause.detail:
        return Words(
            f"All of it sounds a little {_level(cause)}. Is it the hand or the strings? Let me hear your open strings, then we know.",
            f"Everything lies a little {_level(cause)}, and without an open string nobody can tell whether it is the hand or the tuning. "
            "Please do not turn anything yet: the tuning check tells.",
            f"All stopped notes lie {abs(cause.cents or 0.0):.0f} cents {_level(cause)}: the hand ({cause.mm} mm towards the {cause.towards}) "
            "or the strings. No open string was heard, neither here nor in the day's tuning check.",
        )
    return Words(
        f"All your fingers land a little {_level(cause)}. Move the whole hand a little towards the {cause.towards}.",
        f"All fingers land a little {_level(cause)}, by the same amount: it is the hand, and not the strings. As a whole it moves a little "
        f"towards the {cause.towards}.",
        f"Against the open strings all stopped notes stand {_moved(cause)}, {_carried(cause)}.",
    )


def _at_tape(cause: Cause, speaker: Speaker) -> str:
    tape = speaker.tape(cause.notes)
    return f" It belongs on the {tape.colour} tape." if tape else ""


def _finger_words(causes: tuple[Cause, ...], speaker: Speaker) -> Words:
    cause = causes[0]
    if "or" in cause.detail:
        return _hand_words(causes, speaker)
    own = finger(cause.finger)
    there = _at_tape(cause, speaker)
    return Words(
        f"Your {own} lands a little {_level(cause)}. Move it a little towards the {cause.towards}.{there}",
        f"The {own} lands a little {_level(cause)} wherever it is used. It belongs a little nearer to the {cause.towards}.{there}",
        f"{capital(own)}: {_moved(cause)}, {_carried(cause)}.",
    )


def _at_places(cause: Cause, speaker: Speaker) -> str:
    """The notes of a cause by name, each with its string where the line has another of that name."""
    found = []
    for index in cause.notes:
        note, name = speaker.score.notes[index], speaker.note(index)
        others = (own for own in speaker.score.notes if own.midi != note.midi)
        again = note.placement is not None and any(speaker.note(own.index) == name for own in others)
        found.append(f"{name} on the {note.placement.string} string" if again and note.placement else name)
    return together(dict.fromkeys(found))


def _place_words(causes: tuple[Cause, ...], speaker: Speaker) -> Words:
    cause = causes[0]
    own, names = finger(cause.finger), _at_places(cause, speaker)
    come = "come" if " and " in names else "comes"
    there = _at_tape(cause, speaker)
    return Words(
        f"Your {names} {come} out a little {_level(cause)}. Put the {own} a little nearer the {cause.towards} there.{there}",
        f"{capital(names)} {come} out a little {_level(cause)}; the other notes of that finger are right. "
        f"There the {own} belongs a little nearer to the {cause.towards}.{there}",
        " ".join(
            f"{capital(_at_places(one, speaker))} ({finger(one.finger)}): {_moved(one)}, {_carried(one)}; where else that finger is used it is right."
            for one in causes
        ),
    )


def _place_title(cause: Cause, speaker: Speaker) -> str:
    names = _at_places(cause, speaker)
    return f"{capital(names)} {'stand' if ' and ' in names else 'stands'} {_level(cause)}"


def _half_step_words(causes: tuple[Cause, ...], speaker: Speaker) -> Words:
    cause = causes[0]
    wide = not cause.low
    figures = f"Half steps come out {abs(cause.cents or 0.0):.0f} cents too {'wide' if wide else 'narrow'}, with more than one finger."
    if speaker.score.instrument.fingers_touch:
        return Words(
            "Where the notes are a half step apart, your fingers touch. Bring them together."
            if wide
            else "Where the notes are a half step apart, your fingers are squeezed a little. Let them just touch.",
            f"Two neighbouring notes of the scale lie close together: there the fingers touch. They are a little too {'far apart' if wide else 'close'} now.",
            figures,
        )
    return Words(
        f"The half steps are a little too {'wide' if wide else 'narrow'}. Keep the hand's own spacing, and listen for the close notes.",
        f"Some neighbouring notes lie close together. They come out a little too {'far apart' if wide else 'close'} now.",
        figures,
    )


def _octave_words(causes: tuple[Cause, ...], speaker: Speaker) -> Words:
    cause = causes[0]
    name = speaker.note(cause.notes[0])
    return Words(
        f"Play {name}, then the open string with the same name. Move the finger until they sound alike.",
        "Some notes have an open string of the same name. Play one after the other: they should sound alike, like a child and an adult singing.",
        f"Stopped notes with the name of an open string stand {abs(cause.cents or 0.0):.0f} cents {_level(cause)}, {_carried(cause)}; the others are right.",
    )


def _direction_words(causes: tuple[Cause, ...], speaker: Speaker) -> Words:
    cause = causes[0]
    return Words(
        f"On the way down the notes get a little {_level(cause)}. Come down slowly once, and listen to each one.",
        f"Going up is fine; on the way down the notes come out a little {_level(cause)}. Coming down alone, slowly, is the practice for today.",
        f"Coming down only: {_moved(cause)}; going up the same notes are right.",
    )


def _crossing_words(causes: tuple[Cause, ...], speaker: Speaker) -> Words:
    cause = causes[0]
    return Words(
        "Your hand moves when the bow goes to a new string. Leave one finger touching its string while the bow goes over.",
        f"The first stopped note on each new string comes out a little {_level(cause)}. The left hand stays where it is while the bow changes strings.",
        f"First stopped note after each crossing: {_moved(cause)}.",
    )


def _sinking_words(causes: tuple[Cause, ...], speaker: Speaker) -> Words:
    cause = causes[0]
    return Words(
        "Your notes sink little by little. Stop half way, play an open string, and find your place again.",
        "The notes sink a little from start to end. A short stop to hear an open string, half way, brings the hand back.",
        f"Stopped notes sink by {abs(cause.cents or 0.0):.0f} cents from start to end.",
    )


def _settling_words(causes: tuple[Cause, ...], speaker: Speaker) -> Words:
    cause = causes[0]
    under = "underneath" if cause.low else "above"
    return Words(
        f"Your notes start a little {_level(cause)} and then find their place. Hear the note in your head first, then put the finger down.",
        "The notes are found after they have begun. Singing each one before it is played helps the finger to land at once.",
        f"{capital(counted(len(cause.notes), 'note'))} begin {abs(cause.cents or 0.0):.0f} cents {_level(cause)} and slide in from {under}; they settle in their place.",
    )


def _scatter_words(causes: tuple[Cause, ...], speaker: Speaker) -> Words:
    cause = causes[0]
    name = speaker.note(cause.notes[0])
    spread = f"{cause.cents:.0f} cents (one standard deviation)"
    if cause.finger:
        own = finger(cause.finger)
        return Words(
            f"Your {own} lands somewhere else each time. Play {name}, take the hand off, shake it, come back: five times.",
            f"The {own} does not have a fixed place yet; the others do. A minute of finding {name} again and again helps more than playing through.",
            f"{capital(own)} has no fixed place yet: it scatters by {spread}, the others do not.",
        )
    return Words(
        f"Your fingers land somewhere else each time. Play {name}, take the hand off, shake it, come back: five times.",
        "The fingers do not have a fixed place yet. A minute of finding one note again and again helps more than playing through.",
        f"No fixed place yet: stopped notes scatter by {spread}.",
    )


def _hand_title(cause: Cause, speaker: Speaker) -> str:
    return f"{'The hand or the strings' if 'or' in cause.detail else 'The whole hand'}: {_level(cause)}"


FINDINGS = (
    Finding("hand", Layer.HAND, 40, _hand_title, _hand_words, carriers=_whole_hand),
    Finding(
        "finger",
        Layer.HAND,
        42,
        lambda c, s: f"{capital(finger(c.finger))} stands {_level(c)}",
        _finger_words,
        carriers=_fingers,
    ),
    Finding(
        "one_place",
        Layer.HAND,
        44,
        _place_title,
        _place_words,
        carriers=_places,
        of_some_notes=True,
    ),
    Finding(
        "half_step",
        Layer.HAND,
        41,
        lambda c, s: f"Half steps too {'narrow' if c.low else 'wide'}",
        _half_step_words,
        carriers=_above_half_steps,
        of_some_notes=True,
    ),
    Finding(
        "octave",
        Layer.HAND,
        43,
        lambda c, s: f"Not like the open string: {_level(c)}",
        _octave_words,
        carriers=_ringing,
        of_some_notes=True,
    ),
    Finding(
        "direction",
        Layer.HAND,
        45,
        lambda c, s: f"Coming down, the hand goes {_level(c)}",
        _direction_words,
        carriers=_falling,
        of_some_notes=True,
    ),
    Finding(
        "crossing",
        Layer.HAND,
        46,
        lambda c, s: f"After a crossing the finger is {_level(c)}",
        _crossing_words,
        carriers=_crossed,
        of_some_notes=True,
    ),
    Finding("sinking", Layer.HAND, 47, lambda c, s: "The notes sink", _sinking_words),
    Finding(
        "scatter",
        Layer.HAND,
        48,
        lambda c, s: f"{capital(finger(c.finger))} has no fixed place yet" if c.finger else "No fixed place yet",
        _scatter_words,
    ),
    Finding(
        "settling_in",
        Layer.HAND,
        49,
        lambda c, s: f"Notes start {_level(c)}, then settle",
        _settling_words,
        _settling_in,
    ),
)
