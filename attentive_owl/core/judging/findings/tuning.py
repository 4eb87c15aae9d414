"""The instrument or single strings out of tune, known from open strings alone."""

from __future__ import annotations

from attentive_owl.core.judging.cause import Cause
from attentive_owl.core.judging.findings.finding import Evidence, Finding, Layer
from attentive_owl.core.judging.speech import Speaker, Words, together


def _instrument(evidence: Evidence) -> list[Cause]:
    tuning = evidence.tuning
    if not tuning.instrument_out or tuning.instrument_cents is None:
        return []
    # Where the own strings are what is asked for, they are still told against A = 440.
    asked = 0.0 if evidence.expectations.a4_hz is None else tuning.reference_cents
    every = tuple(d.note.index for d in evidence.notes if d.judged)
    return [Cause("instrument", every, 0.9, cents=round(tuning.instrument_cents - asked, 1))]


def _string(evidence: Evidence) -> list[Cause]:
    causes = []
    for name, cents in evidence.tuning.strings_out.items():
        own = tuple(d.note.index for d in evidence.notes if d.string == name and d.judged)
        causes.append(Cause("string", own, 0.9, name, cents=round(cents, 1)))
    return sorted(causes, key=lambda cause: -abs(cause.cents or 0.0))


def _words(what: str, are: str, level: str, figures: str, speaker: Speaker) -> Words:
    instrument = speaker.score.instrument
    if instrument.fine_tuners:
        own = "Ask an adult to help; you turn the fine tuners only."
        how = (
            "The fine tuners are enough for a little. Pegs only if you know how, slowly, with the face turned away: a string "
            "can snap."
        )
    else:
        own = "Ask your teacher or an adult who knows how to tune it."
        how = (
            "A double bass has no fine tuners: turn its machine a little at a time, coming up from below, and loosen what is "
            "too tight. Leave it to the teacher if you are not sure."
        )
    return Words(
        f"{what} {are} a little {level}. {own} I listen to your fingers apart from that.",
        f"{what} {are} {level}. {how}",
        f"{figures}; the figures are shown with that taken off.",
    )


def _instrument_words(causes: tuple[Cause, ...], speaker: Speaker) -> Words:
    cause = causes[0]
    level = "low" if cause.low else "high"
    figures = f"The open strings stand {abs(cause.cents or 0.0):.0f} cents {level}"
    return _words("The whole instrument", "is", level, figures, speaker)


def _string_words(causes: tuple[Cause, ...], speaker: Speaker) -> Words:
    order = [string.name for string in speaker.score.instrument.strings]
    own = sorted(causes, key=lambda cause: order.index(cause.string or order[0]))
    levels = {cause.low for cause in own}
    figures = together(f"{c.string} {abs(c.cents or 0.0):.0f} cents {'low' if c.low else 'high'}" for c in own)
    names = together(str(cause.string) for cause in own)
    said = f"Open strings: {figures}"
    if len(own) == 1:
        return _words(f"The {names} string", "is", "low" if own[0].low else "high", said, speaker)
    mixed = "one low and one high" if len(own) == 2 else "some low and some high"
    level = ("low" if own[0].low else "high") if len(levels) == 1 else f"out of tune, {mixed}"
    return _words(f"The {names} strings", "are", level, said, speaker)


FINDINGS = (
    Finding(
        "instrument",
        Layer.TUNING,
        20,
        lambda cause, speaker: f"The instrument is {'low' if cause.low else 'high'}",
        _instrument_words,
        _instrument,
    ),
    Finding(
        "string",
        Layer.TUNING,
        21,
        lambda cause, speaker: f"The {cause.string} string is {'low' if cause.low else 'high'}",
        _string_words,
        _string,
    ),
)
