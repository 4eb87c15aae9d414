"""Words from figures, by rule: first what went well, then one thing to change. The same figures give the same words."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from attentive_owl.core.exercises import Score
from attentive_owl.core.judging.cause import Cause
from attentive_owl.core.judging.deviations import Deviation
from attentive_owl.core.judging.expectations import Expectations, rings
from attentive_owl.core.judging.pulse import Pulse
from attentive_owl.core.judging.words import change_words, tuning_words
from attentive_owl.core.theory import say

_RANK = (
    "wrong_string",
    "key_signature",
    "place",
    "hand",
    "half_step",
    "finger",
    "octave",
    "direction",
    "crossing",
    "scatter",
    "stop",
    "rest",
    "rest_short",
    "rest_long",
    "shift_late",
    "crossing_late",
    "bow_late",
    "note_value",
    "staccato",
    "drift",
)
"""Which cause is spoken of first: what spoils most notes, and what a beginner can change soonest (common practice)."""


_SLOWER = 0.8
_MANY_UNCLEAR = 1 / 3
"""Share of the notes that can not be judged from which on that is said, in place of words about the rest."""


@dataclass(frozen=True)
class Advice:
    kind: str
    """praise, change or next."""
    text: str
    cause: int | None = None
    """Place among the causes."""
    parent: str | None = None
    teacher: str | None = None
    """The same for an adult at home and for the teacher, where it is said otherwise."""


def refusal_words(code: str, sounds_like: str | None) -> str:
    """What is said instead of a judgement. `sounds_like`: the name of an exercise that it was, where that is known."""
    if sounds_like is not None:
        return f"This sounded like “{sounds_like}”, and your page has another line. Check which exercise is open, and play it again."
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
    """One praise that is true, then one change, at most, and what comes after it; for an instrument out of tune the tuning
    beside it."""
    words = [Advice("praise", _praise(score, expectations, found, pulse))]
    ranked = sorted(
        (place for place, cause in enumerate(causes) if cause.kind in _RANK),
        key=lambda place: (_RANK.index(causes[place].kind), -abs(causes[place].cents or 0.0)),
    )
    if ranked:
        said = change_words(causes[ranked[0]], score, expectations)
        words.append(Advice("change", said.child, ranked[0], said.parent, said.teacher))
        words.append(Advice("next", _afterwards(causes[ranked[0]], expectations)))
    else:
        words.append(_without_cause(score, expectations, found, pulse))
    for place, cause in enumerate(causes):
        if cause.kind in ("instrument", "string"):
            said = tuning_words(cause)
            words.append(Advice("tuning", said.child, place, said.parent, said.teacher))
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
    if all(d.heard.status in ("played", "wrong_pitch") for d in found):
        return "You played the whole line, every note of it."
    return "You played it and sent it: that is how it gets better."


_IN_TIME = ("stop", "rest_short", "rest_long", "shift_late", "crossing_late", "bow_late", "note_value", "drift")


def _afterwards(cause: Cause, expectations: Expectations) -> str:
    """What comes when the one thing has been tried alone: the whole line again, slower where a finger has to find its
    place, with the count where it is a matter of time."""
    if cause.kind in _IN_TIME:
        return "Then count in aloud, and play the whole line again."
    slower = 5 * round(_SLOWER * expectations.target_bpm / 5)
    return f"Then the whole line again, slowly, at {slower:.0f}."


def _unclear_words(joined: bool) -> str:
    if joined:
        return (
            "I could not tell your fast notes apart, so your teacher will listen to them. "
            "Start each one clearly, and play it once more."
        )
    return (
        "I was not sure of many notes, so your teacher will listen to them. "
        "Play it once more, a little nearer to the microphone."
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
    unclear = [d.heard.reason for d in found if d.heard.status == "unclear"]
    if len(unclear) > _MANY_UNCLEAR * len(found):
        return Advice("next", _unclear_words(unclear.count("joined") > len(unclear) / 2))
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
