"""Words from figures, by rule: first what went well, then one thing to change. The same figures give the same words."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from attentive_owl.core.exercises import Score
from attentive_owl.core.judging.causes import Cause
from attentive_owl.core.judging.deviations import Deviation
from attentive_owl.core.judging.expectations import Expectations, rings
from attentive_owl.core.judging.pulse import Pulse
from attentive_owl.core.theory import say

_FINGERS = {1: "first finger", 2: "second finger", 3: "third finger", 4: "fourth finger"}
_HALF_STEP_MM_WORDS = (
    (1.0, "less than the thickness of a coin"),
    (2.5, "about as wide as a matchstick"),
    (5.0, "about half a finger's width"),
    (99.0, "about a finger's width"),
)


@dataclass(frozen=True)
class Advice:
    kind: str
    """praise, change or next."""
    text: str
    cause: int | None = None
    """Place among the causes."""


def refusal_words(code: str) -> str:
    return {
        "silence": "I could not hear any playing. Is the microphone near you, and is it switched on?",
        "too_noisy": "It was too noisy to hear your notes. Try again in a quieter room.",
        "too_short": "That was too short to hear. Take your time and play the whole line.",
        "another_rhythm": "Your notes were the right ones, in another rhythm than the one on your page. Say its words, then play it again.",
        "not_this_exercise": "This did not sound like the line on your page. Check which exercise is open, and play it again.",
    }[code]


def advise(
    score: Score,
    expectations: Expectations,
    found: tuple[Deviation, ...],
    causes: tuple[Cause, ...],
    pulse: Pulse | None,
) -> tuple[Advice, ...]:
    """One praise that is true, then one change, at most, and for an instrument out of tune the tuning beside it."""
    words = [Advice("praise", _praise(score, expectations, found, pulse))]
    order = {
        "wrong_string": 0,
        "key_signature": 1,
        "place": 2,
        "hand": 3,
        "finger": 4,
        "direction": 5,
        "crossing": 6,
        "scatter": 7,
        "stop": 8,
        "crossing_late": 9,
        "note_value": 10,
        "drift": 11,
    }
    ranked = sorted(
        (place for place, cause in enumerate(causes) if cause.kind in order),
        key=lambda place: (order[causes[place].kind], -abs(causes[place].cents or 0.0)),
    )
    if ranked:
        words.append(Advice("change", _change(causes[ranked[0]], score, expectations), ranked[0]))
    else:
        words.append(_without_cause(score, expectations, found, pulse))
    for place, cause in enumerate(causes):
        if cause.kind in ("instrument", "string"):
            words.append(Advice("tuning", _tuning(cause), place))
            break
    return tuple(words)


def _praise(score: Score, expectations: Expectations, found: tuple[Deviation, ...], pulse: Pulse | None) -> str:
    tuned = [d for d in found if d.in_tune]
    ringing = [d for d in found if rings(d.note, score) and d.judged]
    stopped_ringing = [d for d in ringing if d.finger]
    timed = [d for d in found if d.timing_ms is not None]
    if len(tuned) == len(found):
        return "Every note was in tune."
    if len(stopped_ringing) >= 2 and all(d.in_tune for d in stopped_ringing):
        letter = say(stopped_ringing[0].note.pitch, expectations.names, score.key)
        return f"Your stopped {letter} rang with the open string."
    if pulse and not pulse.stops and timed and np.mean([d.on_time for d in timed]) >= 0.9:
        return "Your pulse was steady from start to end."
    if pulse and abs(pulse.played_bpm / expectations.target_bpm - 1) * 100 <= expectations.level.tempo_percent:
        return "You kept to the tempo that was set."
    for string in score.instrument.strings:
        own = [d for d in found if d.string == string.name and d.judged]
        if len(own) >= 3 and np.mean([d.in_tune for d in own]) >= 0.8:
            return f"Your {string.name} string sounded well in tune."
    if len(tuned) >= 0.5 * len(found):
        return f"{len(tuned)} of {len(found)} notes were in tune."
    if all(d.heard.status != "missed" for d in found):
        return "You played the whole line, every note of it."
    return "You played it and sent it: that is how it gets better."


def _change(cause: Cause, score: Score, expectations: Expectations) -> str:
    first = score.notes[cause.notes[0]]
    name = say(first.pitch, expectations.names, score.key)
    match cause.kind:
        case "wrong_string":
            up = (cause.cents or 0) > 0
            return f"You began on another string. Start one string {'lower' if up else 'higher'}: the first note is {name}."
        case "key_signature":
            names = sorted({say(score.notes[i].pitch, expectations.names, score.key) for i in cause.notes})
            return f"Look at the key signature: it is {' and '.join(names)} all the way through."
        case "place":
            way = "higher, towards the bridge" if (cause.cents or 0) < 0 else "lower, towards the scroll"
            finger = _FINGERS.get(cause.finger or 0, "finger")
            return f"{name} wants the {finger} a half step {way}."
        case "hand":
            return f"Slide the whole hand a little towards the {cause.towards}: {_width(cause.mm)}."
        case "finger":
            finger = _FINGERS.get(cause.finger or 0, "finger")
            return f"Put the {finger} a little nearer the {cause.towards}: {_width(cause.mm)}."
        case "direction":
            return "On the way down the hand comes loose. Keep the first finger down as an anchor."
        case "crossing":
            return "Your hand moves when the bow goes to a new string. Leave a finger down while you cross."
        case "scatter":
            return f"{name} lands somewhere else each time. Play it, lift the hand, shake it, come back: five times."
        case "crossing_late":
            return "You wait before each new string. Let the elbow get there first, then the bow goes in time."
        case "stop":
            return f"You stopped before {name} in bar {first.measure}. Play just those two notes, back and forth, until they join."
        case "note_value":
            detail = cause.detail or {}
            slow = float(detail.get("percent", 0.0)) > 0
            return f"Your {detail.get('value')}s come out too {'slow' if slow else 'fast'}. Say the words while you play them."
        case _:
            faster = float((cause.detail or {}).get("percent", 0.0)) > 0
            return (
                f"You got {'faster' if faster else 'slower'} towards the end. Tap the beat with your foot all the way."
            )


def _without_cause(
    score: Score, expectations: Expectations, found: tuple[Deviation, ...], pulse: Pulse | None
) -> Advice:
    wrong = [d for d in found if d.heard.status == "wrong_pitch"]
    missed = [d for d in found if d.heard.status == "missed"]
    if missed:
        note = missed[0].note
        return Advice(
            "change",
            f"{say(note.pitch, expectations.names, score.key)} in bar {note.measure} was left out. Play that bar alone once, then the line.",
        )
    if wrong:
        note = wrong[0].note
        return Advice(
            "change",
            f"One note slipped: {say(note.pitch, expectations.names, score.key)} in bar {note.measure}. Hear it once, then play on.",
        )
    if pulse:
        away = pulse.played_bpm / expectations.target_bpm - 1
        if abs(away) * 100 > expectations.level.tempo_percent:
            return Advice(
                "change",
                f"You played at {pulse.played_bpm:.0f}; {expectations.target_bpm:.0f} is set. Listen to the count-in once more.",
            )
    loose = [d for d in found if d.judged and not d.in_tune]
    if loose:
        note = max(loose, key=lambda d: abs(d.cents or 0.0)).note
        return Advice(
            "change", f"Listen for {say(note.pitch, expectations.names, score.key)} in bar {note.measure} next time."
        )
    return Advice("next", "Play it once more just like that.")


def _tuning(cause: Cause) -> str:
    low = (cause.cents or 0.0) < 0
    what = "The whole instrument is" if cause.kind == "instrument" else f"The {cause.string} string is"
    return f"{what} a little {'low' if low else 'high'}. Ask an adult to tune it; you use the fine tuners only."


def _width(mm: float | None) -> str:
    return next(words for limit, words in _HALF_STEP_MM_WORDS if (mm or 0.0) <= limit)
