"""What is said of a cause: to the child who played, to an adult at home who may not read music, and to the teacher."""

from __future__ import annotations

from dataclasses import dataclass

from attentive_owl.core.exercises import Score
from attentive_owl.core.instruments import Mark
from attentive_owl.core.judging.cause import Cause
from attentive_owl.core.judging.expectations import Expectations
from attentive_owl.core.theory import say

_FINGERS = {1: "first finger", 2: "second finger", 3: "third finger", 4: "fourth finger"}
_AT_A_STOP = {
    "rest": "a rest has to be counted",
    "shift": "the hand moves to another place",
    "crossing": "the bow goes to a new string",
    "bow": "the bow turns round",
}
"""What has to be done where a pupil stopped (see `exercises.moves`)."""
_WIDTHS = (
    (1.0, "less than the thickness of a coin"),
    (2.5, "about as wide as a matchstick"),
    (5.0, "about half a finger's width"),
    (99.0, "about a finger's width"),
)


@dataclass(frozen=True)
class Words:
    child: str
    parent: str
    teacher: str


def change_words(cause: Cause, score: Score, expectations: Expectations) -> Words:
    """The one thing to change. The same cause always gives the same words."""
    first = score.notes[cause.notes[0]]
    name = say(first.pitch, expectations.names, score.key)
    finger = _FINGERS.get(cause.finger or 0, "finger")
    detail = cause.detail or {}
    percent = float(detail.get("percent", 0.0))
    cents = abs(cause.cents or 0.0)
    wide = _width(cause.mm)
    moved = f"{cents:.0f} cents, {cause.mm} mm towards the {cause.towards}"
    carried = f"{len(cause.notes)} notes"
    match cause.kind:
        case "wrong_string":
            way = "lower" if (cause.cents or 0) > 0 else "higher"
            return Words(
                f"You began on another string. Start one string {way}: the first note is {name}.",
                f"Everything was played on a neighbouring string. Check together which string the first note, {name}, is on.",
                f"The whole line stands {cents / 100:.0f} half steps away: another string from the first note on.",
            )
        case "key_signature":
            names = sorted({say(score.notes[i].pitch, expectations.names, score.key) for i in cause.notes})
            said = " and ".join(names)
            return Words(
                f"Look at the key signature: it is {said} all the way through.",
                f"The signs at the start of the line were forgotten. Ask which notes they change: {said}.",
                f"The key signature was forgotten: {said} played as naturals throughout.",
            )
        case "place":
            way = "higher, towards the bridge" if (cause.cents or 0) < 0 else "lower, towards the scroll"
            return Words(
                f"{name} wants the {finger} a half step {way}.",
                f"One finger goes to its other place: {name} needs the {finger} {way}, a clear step away.",
                f"{name}: the {finger} stands in its other place ({cents:.0f} cents) in {carried}.",
            )
        case "hand":
            return Words(
                f"Slide the whole hand a little towards the {cause.towards}: {wide}.",
                f"All fingers land a little off by the same amount. The hand as a whole moves towards the {cause.towards}, {wide}.",
                f"The whole hand: {moved}.",
            )
        case "finger":
            tape = _tape(cause, score, expectations)
            place = f" It belongs on the {tape.colour} tape." if tape else ""
            return Words(
                f"Put the {finger} a little nearer the {cause.towards}: {wide}.{place}",
                f"Only the {finger} lands off. It moves towards the {cause.towards}, {wide}; the other fingers stay.{place}",
                f"The {finger} only, wherever it is used: {moved}{f' ({tape.colour} tape)' if tape else ''}.",
            )
        case "half_step":
            apart = (cause.cents or 0) > 0
            return Words(
                "Where two fingers make a half step, let them touch."
                if apart
                else "Where two fingers make a half step, leave them a little more room.",
                f"In some places two fingers belong right beside each other; they are too {'far apart' if apart else 'close'} now.",
                f"Half steps come out {cents:.0f} cents too {'wide' if apart else 'narrow'}, with more than one finger.",
            )
        case "octave":
            return Words(
                f"Play {name}, then the open string with the same name. Move the finger until they ring together.",
                "Some notes have an open string of the same name. Play one after the other: they should sound alike, like a child and an adult singing.",
                f"Notes that match an open string stand {cents:.0f} cents {'low' if (cause.cents or 0) < 0 else 'high'}; the others are right.",
            )
        case "direction":
            return Words(
                "On the way down the hand comes loose. Keep the first finger down as an anchor.",
                "Going up is fine; on the way down the notes slip. The first finger may stay down all the time.",
                f"Descending only: {moved}; going up the same notes are right.",
            )
        case "crossing":
            return Words(
                "Your hand moves when the bow goes to a new string. Leave a finger down while you cross.",
                "The first note on each new string is off. The left hand should stay still while the bow changes strings.",
                f"First stopped note after each crossing: {moved}.",
            )
        case "scatter":
            return Words(
                f"{name} lands somewhere else each time. Play it, lift the hand, shake it, come back: five times.",
                "The fingers do not have a fixed place yet. A minute of finding one note again and again helps more than playing through.",
                f"No fixed place yet: stopped notes scatter by {cents:.0f} cents (one standard deviation).",
            )
        case "stop":
            why = _AT_A_STOP.get(str(detail.get("place")))
            there = f" There {why}." if why else ""
            return Words(
                f"You stopped before {name} in bar {first.measure}.{there} Play just those two notes, back and forth, until they join.",
                f"There was a stop in bar {first.measure}.{there} Those two notes alone, slowly and often, are the practice for today.",
                f"A stop of {float(detail.get('seconds', 0.0)):.1f} s before {name} in bar {first.measure}.{there}",
            )
        case "rest":
            return Words(
                "In a rest the bow freezes on the string. Say the rest aloud.",
                "Rests are silent: the bow stops and waits. Count the rest aloud together.",
                f"{detail.get('rests')} of {detail.get('of')} rests sounded on.",
            )
        case "rest_short" | "rest_long":
            short = cause.kind == "rest_short"
            return Words(
                f"You come back {'too soon' if short else 'late'} after the rest. Count it aloud, then play.",
                f"The silences are {'cut short' if short else 'too long'}. Clap the beat while the bow waits.",
                f"Rests are {abs(percent):.0f} % too {'short' if short else 'long'}, in {carried}.",
            )
        case "shift_late":
            return Words(
                "You wait before the hand moves up or down. Practise just the slide, without the bow, then in time.",
                "There is a small stop wherever the hand moves along the neck. The move alone, many times, makes it easy.",
                f"The note before a shift takes {percent:.0f} % more than its time.",
            )
        case "crossing_late":
            return Words(
                "You wait before each new string. Let the elbow get there first, then the bow goes in time.",
                "There is a small wait before each change of string. The elbow moves early, the bow follows in time.",
                f"The note before a crossing takes {percent:.0f} % more than its time.",
            )
        case "bow_late":
            return Words(
                "You wait before each new bow. Let the bow turn round without a stop.",
                "There is a small gap whenever the bow changes direction. It should turn like a swing, without stopping.",
                f"The last note of a bow takes {percent:.0f} % more than its time.",
            )
        case "note_value":
            slow = percent > 0
            return Words(
                f"Your {detail.get('value')}s come out too {'slow' if slow else 'fast'}. Say the words while you play them.",
                f"The {'short notes drag' if slow else 'notes hurry'} against the beat. Saying the cue words aloud puts them right.",
                f"The {detail.get('value')}s take {abs(percent):.0f} % {'more' if slow else 'less'} than their time.",
            )
        case "staccato":
            return Words(
                "The notes with dots are short: stop the bow on the string, and wait for the next one.",
                "Notes with a dot are short, with a little silence after each. They are not faster.",
                f"Staccato is held for {percent:.0f} % of its time, in {carried}.",
            )
        case _:
            faster = percent > 0
            return Words(
                f"You got {'faster' if faster else 'slower'} towards the end. Tap the beat with your foot all the way.",
                f"The tempo {'runs away' if faster else 'sinks'} towards the end. A slow clap beside it helps.",
                f"The tempo drifts by {percent:+.0f} % from start to end.",
            )


def _tape(cause: Cause, score: Score, expectations: Expectations) -> Mark | None:
    """The tape on which all the notes of a cause belong, where they belong on one."""
    places = {note.placement.semitones for i in cause.notes if (note := score.notes[i]).placement}
    return next((tape for tape in expectations.tapes if places == {tape.semitones}), None)


def tuning_words(cause: Cause) -> Words:
    low = (cause.cents or 0.0) < 0
    what = "The whole instrument is" if cause.kind == "instrument" else f"The {cause.string} string is"
    level = "low" if low else "high"
    return Words(
        f"{what} a little {level}. Ask an adult to tune it; you use the fine tuners only.",
        f"{what} {level}. Use the fine tuners. Pegs only if you know how, slowly, with the face turned away: a string can snap.",
        f"{what} {abs(cause.cents or 0.0):.0f} cents {level}; the hand is judged apart from it.",
    )


def _width(mm: float | None) -> str:
    return next(words for limit, words in _WIDTHS if (mm or 0.0) <= limit)
