"""Words from figures, by rule: first what went well, then one thing to change, then what comes next. The same figures give the
same words."""

from __future__ import annotations

import numpy as np

from attentive_owl.core.judging.cause import Cause
from attentive_owl.core.judging.expectations import Expectations
from attentive_owl.core.judging.findings import FINDINGS, Evidence, Layer, ranked
from attentive_owl.core.judging.findings.played import reach_of
from attentive_owl.core.judging.good import MOST_UNCLEAR, GoodGo
from attentive_owl.core.judging.report import AdviceKind, ReportAdvice
from attentive_owl.core.judging.speech import Speaker, Words, capital, together
from attentive_owl.core.listening.performance import Doubt, NoteStatus

_SLOWER = 0.8
"""Share of the tempo that was set at which a line is tried again, to the next five beats (common practice)."""
_RUNG_BPM = 4.0
"""How much faster the next rung of a tempo ladder is (common practice)."""
_MOST_NAMED = 3
"""More notes than these are counted and not named: a child remembers no longer list."""


def speaker_of(evidence: Evidence) -> Speaker:
    """Who speaks of this take: note names, note values and tapes as the studio has them."""
    by = evidence.expectations
    return Speaker(evidence.score, by.names, by.values, by.tapes)


def advise(evidence: Evidence, causes: tuple[Cause, ...], good: GoodGo) -> list[ReportAdvice]:
    """One praise that is true, then one change (beside the tuning of the strings at most one more), and what comes after it."""
    speaker = speaker_of(evidence)
    order = [own for own in ranked(causes) if _in_focus(FINDINGS[causes[own[0]].kind].layer, evidence.expectations)]
    first = FINDINGS[causes[order[0][0]].kind] if order else None
    said = [_advice("praise", _praise(evidence, causes, good, speaker))]
    if first is None:
        return [*said, _without_cause(evidence, good, speaker)]
    said.append(_change(order[0], causes, speaker))
    if first.layer is Layer.TUNING and len(order) > 1:
        second = next((own for own in order if FINDINGS[causes[own[0]].kind].layer is not Layer.TUNING), None)
        if second is not None:
            said.append(_change(second, causes, speaker))
    said.append(_advice("next", _afterwards(causes[order[0][0]], evidence.expectations)))
    return said


_NOT_IN_FOCUS: dict[str, set[Layer]] = {
    "tune": {Layer.TIME, Layer.BOW},
    "time": {Layer.TUNING, Layer.HAND, Layer.PLACE},
}


def _in_focus(layer: Layer, expectations: Expectations) -> bool:
    return layer not in _NOT_IN_FOCUS.get(expectations.focus or "", set())


def _advice(kind: AdviceKind, words: Words, cause: int | None = None) -> ReportAdvice:
    return ReportAdvice(kind, capital(words.child), cause, capital(words.parent), capital(words.teacher))


def _alike(text: str) -> Words:
    return Words(text, text, text)


def _change(places: list[int], causes: tuple[Cause, ...], speaker: Speaker) -> ReportAdvice:
    own = tuple(causes[place] for place in places)
    return _advice("change", FINDINGS[own[0].kind].say(own, speaker), places[0])


def _praise(evidence: Evidence, causes: tuple[Cause, ...], good: GoodGo, speaker: Speaker) -> Words:
    notes, pulse, expectations = evidence.notes, evidence.pulse, evidence.expectations
    judged = [d for d in notes if d.judged]
    timed = [d for d in notes if d.timing_ms is not None]
    layers = {FINDINGS[cause.kind].layer for cause in causes}
    if Layer.LINE in layers:
        return _alike("You played it through and sent it: that is how it gets better.")
    if len(judged) == len(notes) and all(d.in_tune for d in notes):
        if Layer.TUNING in layers:
            return _alike("Your fingers stood in the right places, every one.")
        if good.good and evidence.tempo_side == "below":
            return _alike("Slow and clean, every note in tune: that is just right.")
        if not layers & {Layer.HAND, Layer.PLACE}:
            return _alike("Every note was in tune.")
    held = sum(d.heard.reason == Doubt.HELD or d.moment_guessed for d in notes) > MOST_UNCLEAR * len(notes)
    in_time = expectations.mode != "pauses" and pulse is not None and Layer.TIME not in layers and not held
    if good.good and evidence.tempo_side == "below":
        return _alike("Slow and clean: that is just right.")
    if in_time and pulse and not pulse.stops and len(timed) >= 4 and np.mean([d.on_time for d in timed]) >= 0.9:
        whole = not reach_of(evidence.score, evidence.heard_pass).not_come_to
        return _alike(f"Your pulse was steady{' from start to end' if whole else ''}.")
    if in_time and pulse and not pulse.stops and evidence.tempo_side == "home":
        return _alike("You kept to the tempo that was set.")
    tuned = sum(d.in_tune for d in judged)
    for string in evidence.score.instrument.strings:
        own = [d for d in judged if d.string == string.name]
        if len(own) >= 4 and all(d.in_tune for d in own) and string.name not in evidence.tuning.strings_out:
            return _alike(f"All your notes on the {string.name} string were in tune.")
    if judged and 0.5 * len(notes) <= tuned < len(notes):
        return _alike(f"{tuned} of {len(notes)} notes were in tune.")
    if len(judged) == len(notes):
        return _alike("You played the whole line, every note of it.")
    return _alike("You played it and sent it: that is how it gets better.")


_THEN_COUNT = "Then count in aloud, and play the whole line again."
_THEN: dict[Layer, str] = {
    Layer.LINE: "Then play it again from there.",
    Layer.PLAYED: _THEN_COUNT,
    Layer.BOW: _THEN_COUNT,
    Layer.TIME: _THEN_COUNT,
    Layer.TUNING: "Then play it once more. You may go on practising in the meantime.",
}


def _afterwards(cause: Cause, expectations: Expectations) -> Words:
    """What comes when the one thing has been tried alone: the whole line again, slower where a finger has to find its
    place, with the count where it is a matter of time."""
    if "or" in cause.detail:
        return _alike("Then play it once more.")
    layer = FINDINGS[cause.kind].layer
    if layer in _THEN:
        return _alike(_THEN[layer])
    slower = max(5 * round(_SLOWER * expectations.target_bpm / 5), 30)
    return _alike(f"Then the whole line again, slowly, at {slower:.0f}.")


def _without_cause(evidence: Evidence, good: GoodGo, speaker: Speaker) -> ReportAdvice:
    notes, pulse, expectations = evidence.notes, evidence.pulse, evidence.expectations
    of_tune, of_time = (_in_focus(layer, expectations) for layer in (Layer.HAND, Layer.TIME))
    wrong = [d.note.index for d in notes if d.heard.status == NoteStatus.WRONG_PITCH]
    if wrong and of_tune:
        return _advice("change", _slipped(wrong, speaker))
    unclear = [d.heard.reason for d in notes if d.heard.status == NoteStatus.UNCLEAR]
    if expectations.mode != "pauses":
        unclear += [Doubt.HELD for d in notes if d.moment_guessed]
    if len(unclear) > MOST_UNCLEAR * len(notes):
        return _advice("next", _unclear_words(unclear))
    if evidence.tempo_side == "below" and pulse is not None and of_time:
        if good.good:
            rung = min(round(pulse.played_bpm / 2) * 2 + _RUNG_BPM, expectations.target_bpm)
            return _advice("next", _alike(f"The next rung is {rung:.0f}: a little faster, and as clean."))
        return _advice(
            "next", _alike(f"Stay at {pulse.played_bpm:.0f} until it is clean; the faster rungs come by themselves.")
        )
    if pulse is not None and evidence.tempo_side == "above" and of_time:
        played, target = f"{pulse.played_bpm:.0f}", f"{expectations.target_bpm:.0f}"
        return _advice(
            "change",
            Words(
                f"You played at {played}; {target} is set. Listen to the count-in, and play as slowly as it goes.",
                f"It was played faster than is set: {played} instead of {target}. Clap the slower count together first.",
                f"Played at {played}, above the {target} that is set.",
            ),
        )
    loose = [d for d in notes if d.judged and not d.in_tune]
    if loose and of_tune:
        worst = max(loose, key=lambda d: abs(d.tuned_cents or 0.0))
        level = "low" if (worst.tuned_cents or 0.0) < 0 else "high"
        place = speaker.place(worst.note.index)
        return _advice(
            "change",
            Words(
                f"Listen for {place} next time: it was a little {level}.",
                f"One note to listen for: {place}. It was a little {level}.",
                f"{capital(place)} was {abs(worst.tuned_cents or 0.0):.0f} cents {level}; no habit behind it.",
            ),
        )
    if expectations.mode != "pauses" and not good.good and of_time:
        return _advice("next", _alike("Play it once more, with the count in your ear."))
    return _advice("next", _alike("Play it once more just like that."))


def _slipped(wrong: list[int], speaker: Speaker) -> Words:
    if len(wrong) == 1:
        place = speaker.place(wrong[0])
        return Words(
            f"One note slipped: {place}. Hear it once, then play on.",
            f"One note slipped: {place}.",
            f"One note on another pitch: {place}.",
        )
    where = speaker.measures(wrong)
    if len(wrong) <= _MOST_NAMED:
        named = together(speaker.place(index) for index in wrong)
        return Words(
            f"{len(wrong)} notes slipped: {named}. Say those notes aloud, then play the line.",
            f"{len(wrong)} notes were other ones: {named}. Say the names aloud together first.",
            f"{len(wrong)} notes on other pitches: {named}.",
        )
    return Words(
        f"{len(wrong)} notes were other ones, in {where}. Say the names of the notes aloud first, then play slowly.",
        f"{len(wrong)} notes were other ones, in {where}. Say the names aloud together before playing.",
        f"{len(wrong)} notes on other pitches, in {where}; no habit behind them.",
    )


def _unclear_words(reasons: list[Doubt | None]) -> Words:
    if reasons.count(Doubt.JOINED) > len(reasons) / 2:
        return Words(
            "I could not tell your fast notes apart, so your teacher will listen to them. Start each one clearly, and play it once more.",
            "The fast notes could not be told apart; the teacher will listen to them.",
            f"{len(reasons)} notes are left to your ear: fast strokes that could not be told apart.",
        )
    if reasons.count(Doubt.HELD) > len(reasons) / 2:
        return Words(
            "I could not hear a new bow on every note, so your teacher will listen to them. Give each note its own bow, and play it once more.",
            "New bows on one pitch could not be heard; the teacher will listen to them.",
            f"{len(reasons)} notes are left to your ear: repeated notes on which no new stroke could be told.",
        )
    return Words(
        "I was not sure of many notes, so your teacher will listen to them. Play it once more, a little nearer to the microphone.",
        "Many notes could not be heard surely; the teacher will listen to them. A quieter room helps, or a microphone nearer by.",
        f"{len(reasons)} notes are left to your ear.",
    )
