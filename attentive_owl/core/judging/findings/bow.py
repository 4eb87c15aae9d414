"""What the bow does within and between the notes: rests that sound, staccato that is held, long notes that break off."""

from __future__ import annotations

import numpy as np

from attentive_owl.core.judging.cause import LEAST_AGREE, LEAST_NOTES, Cause
from attentive_owl.core.judging.deviations import Deviation
from attentive_owl.core.judging.findings.finding import Evidence, Finding, Layer
from attentive_owl.core.judging.speech import Speaker, Words, capital, counted

_LEAST_RESTS = 2
"""One rest that sounds is a slip."""
_LEAST_STACCATO = 4
"""So few short notes tell no habit."""
_HELD, _LEAST_STACCATO_S = 0.82, 0.4
"""Share of its time from which a staccato note is not short any more; half is what is played (common practice). In shorter notes the
room fills the silence."""
_LONG_BEATS, _LONG_S = 2.0, 0.9
"""Beats and seconds from which on a note is long."""
_CUT = 0.72
"""Of its written time: who lets go sooner breaks it off (by hand)."""
_NEXT_ON_TIME = 0.2
"""Share of the note by which the next may come too soon and still be on time: else the note was hurried and not cut."""


def _rests(evidence: Evidence) -> list[Cause]:
    """Rests in which the bow went on; the notes are those that stand before them."""
    score = evidence.score
    sounding = [rest for rest, quiet in zip(score.rests, evidence.heard_pass.rests_quiet, strict=False) if not quiet]
    if len(sounding) < _LEAST_RESTS or len(sounding) < 0.5 * len(score.rests):
        return []
    before = [max((n.index for n in score.notes if n.end_beats <= rest.start_beats), default=0) for rest in sounding]
    return [Cause("rest", tuple(before), 0.75, detail={"rests": float(len(sounding)), "of": float(len(score.rests))})]


def _staccato(evidence: Evidence) -> list[Cause]:
    beat_s = evidence.pulse.beat_s if evidence.pulse else 0.0
    short = [
        d
        for d in evidence.notes
        if d.note.staccato
        and d.duration_ratio is not None
        and float(d.note.duration_beats) * beat_s >= _LEAST_STACCATO_S
    ]
    if len(short) < _LEAST_STACCATO:
        return []
    bowed = {d.note.index: _bowed_share(d) for d in short}
    held = [d for d in short if bowed[d.note.index] > _HELD]
    if len(held) < LEAST_AGREE * len(short):
        return []
    share = float(np.median([bowed[d.note.index] for d in held]))
    return [Cause("staccato", tuple(d.note.index for d in held), 0.8, detail={"percent": round(100 * share, 1)})]


def _bowed_share(d: Deviation) -> float:
    """Of its time, how much of a note was bowed; what rings on afterwards is no bow's."""
    begin, end, until = d.heard.onset_s, d.heard.offset_s, d.heard.bowed_until_s
    if d.duration_ratio is None or begin is None or end is None or until is None or end <= begin:
        return d.duration_ratio or 0.0
    return d.duration_ratio * (until - begin) / (end - begin)


def _cut_short(evidence: Evidence) -> list[Cause]:
    """Long notes that stop sounding long before the next one, which comes when it should."""
    pulse = evidence.pulse
    if pulse is None:
        return []
    long = [
        d
        for d in evidence.notes
        if float(d.note.duration_beats) >= _LONG_BEATS
        and float(d.note.duration_beats) * pulse.beat_s >= _LONG_S
        and not d.note.staccato
        and not d.note.pizzicato
        and d.duration_ratio is not None
    ]
    cut = [d for d in long if (d.duration_ratio or 0.0) < _CUT and _next_comes_on_time(d, evidence)]
    if len(long) < LEAST_NOTES or len(cut) < LEAST_AGREE * len(long):
        return []
    share = float(np.median([d.duration_ratio or 0.0 for d in cut]))
    return [Cause("cut_short", tuple(d.note.index for d in cut), 0.8, detail={"percent": round(100 * share, 1)})]


def _next_comes_on_time(d: Deviation, evidence: Evidence) -> bool:
    pulse = evidence.pulse
    following = evidence.notes[d.note.index + 1] if d.note.index + 1 < len(evidence.notes) else None
    if pulse is None or following is None or following.heard.onset_s is None or d.heard.onset_s is None:
        return True
    beats = float(following.note.start_beats - d.note.start_beats)
    return following.heard.onset_s - d.heard.onset_s > (1 - _NEXT_ON_TIME) * beats * pulse.beat_s


def _rest_words(causes: tuple[Cause, ...], speaker: Speaker) -> Words:
    cause = causes[0]
    return Words(
        "In a rest the bow freezes on the string. Say the rest aloud.",
        "Rests are silent: the bow stops and waits. Count the rest aloud together.",
        f"{cause.figure('rests'):.0f} of {counted(int(cause.figure('of')), 'rest')} sounded on, in {speaker.measures(cause.notes)}.",
    )


def _staccato_words(causes: tuple[Cause, ...], speaker: Speaker) -> Words:
    cause = causes[0]
    return Words(
        "The notes with dots are short: stop the bow on the string, and wait for the next one.",
        "Notes with a dot are short, with a little silence after each. They are not faster.",
        f"Staccato is held for {cause.figure('percent'):.0f} % of its time, in {counted(len(cause.notes), 'note')}.",
    )


def _cut_words(causes: tuple[Cause, ...], speaker: Speaker) -> Words:
    cause = causes[0]
    name = speaker.value(float(speaker.score.notes[cause.notes[0]].duration_beats))
    return Words(
        f"Your {name} stop too soon. Save the bow, and let each one sound until the next.",
        f"The {name} break off before their time is over. A slower bow reaches to the end; count aloud together.",
        f"{capital(name)} sound for {cause.figure('percent'):.0f} % of their time, in {speaker.measures(cause.notes)}; the next note comes when it should.",
    )


FINDINGS = (
    Finding("rest", Layer.BOW, 72, lambda c, s: "The rests sound", _rest_words, _rests),
    Finding("staccato", Layer.BOW, 80, lambda c, s: "Staccato is held", _staccato_words, _staccato),
    Finding("cut_short", Layer.BOW, 78, lambda c, s: "Long notes break off", _cut_words, _cut_short),
)
