"""Causes in time: stops and restarts, waits at certain places, values out of proportion, uneven pairs, a rushed measure, drift."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sized

import numpy as np

from attentive_owl.core.exercises import moves
from attentive_owl.core.judging.cause import LEAST_AGREE, LEAST_NOTES, Cause
from attentive_owl.core.judging.findings.finding import Evidence, Finding, Layer
from attentive_owl.core.judging.pulse import Pulse
from attentive_owl.core.judging.speech import Speaker, Words, capital, counted, together
from attentive_owl.core.judging.steps import Step, pairs_of
from attentive_owl.core.theory import NoteValues, value_name

_LEAST_STEPS = 4
"""So few notes of a value tell no habit."""
_LEAST_KNOWN = 0.4
"""Of all that could show a habit, so much has to be known: what few notes show, where the others could not be timed, may be their place."""
_TOLD = 0.12
"""Share by which a value has to be off before it is told: samples and slow strings speak late by up to a tenth."""
_WAITED = 0.15
"""A wait before a new string, place or bow takes so much of the note before it at least: a low string that speaks late takes up to 13 %."""
_LEAST_RUSHED = 0.08
"""Share by which a measure has to be short before it is told."""
_LEAST_OF_A_REST = 0.2
"""Share of a rest that has to be missing, or too much."""
_NEARER = 0.5
"""Of the distance of one pulse from the set tempo is that of another that is clearly nearer."""
_LEAST_PAIRS = 4
"""So few pairs tell no habit."""
_UNEVEN = 0.06
"""How far the first of two equal notes may be from half of their time."""
_AS_TRIPLET, _NEAR_TRIPLET = 1 / 3, 0.05
"""The short note of a dotted pair that is played as a triplet has a third of the two; so near it counts as that."""
_FASTEST_TOLD_MS = 20.0
"""In fast notes a share is nothing that anybody hears: the first of two has to be off by so much."""


def _timed(evidence: Evidence) -> Pulse | None:
    """The pulse, where time is judged."""
    return None if evidence.expectations.mode == "pauses" else evidence.pulse


def _running(pulse: Pulse) -> list[Step]:
    """Steps in which the pupil simply played on."""
    stopped_at = {stop.index for stop in pulse.stops}
    return [s for s in pulse.steps if s.unbroken and s.after not in stopped_at and s.measure not in pulse.rushed]


def _known_enough(known: Sized, could: Sized) -> bool:
    return len(known) >= _LEAST_KNOWN * len(could)


def _ratio(step: Step, pulse: Pulse) -> float:
    """Time that a step took over what the pupil's own pulse gives it. The pulse bends where the tempo drifts, so that drift
    is not read as a habit of some value."""
    local = pulse.local_beat_s(step.index)
    return step.seconds / (step.beats * local)


def _stops(evidence: Evidence) -> list[Cause]:
    pulse = _timed(evidence)
    if pulse is None:
        return []
    there = moves(evidence.score)
    causes = []
    for stop in pulse.stops:
        if not stop.restart:
            detail: dict[str, float | str] = {"seconds": round(stop.seconds, 2)}
            if stop.index in there:
                detail["place"] = there[stop.index]
            causes.append(Cause("stop", (stop.index,), 0.9, detail=detail))
    return sorted(causes, key=lambda cause: -cause.figure("seconds"))


def _restarts(evidence: Evidence) -> list[Cause]:
    if _timed(evidence) is None:
        return []
    return [
        Cause("restart", (target,), 0.9, detail={"reached": float(min(reached, len(evidence.notes)) - 1)})
        for reached, target in evidence.heard_pass.restarts
    ]


def _drift(evidence: Evidence) -> list[Cause]:
    pulse = _timed(evidence)
    if pulse is None or not pulse.drift_sure:
        return []
    if abs(pulse.drift_percent) <= evidence.expectations.level.tempo_percent:
        return []
    every = tuple(d.note.index for d in evidence.notes if d.timing_ms is not None)
    return [Cause("drift", every, 0.8, detail={"percent": round(pulse.drift_percent, 1)})]


def _rushed(evidence: Evidence) -> list[Cause]:
    pulse = _timed(evidence)
    if pulse is None:
        return []
    causes = []
    for measure in pulse.rushed:
        own = [s for s in pulse.steps if s.measure == measure and s.unbroken]
        share = 1.0 - sum(s.seconds for s in own) / sum(s.beats * pulse.beat_s for s in own)
        if share < _LEAST_RUSHED:
            continue
        notes = tuple(s.index for s in own)
        causes.append(Cause("rushed", notes, 0.8, detail={"percent": round(100 * share, 1), "measure": float(measure)}))
    return causes


def _values(evidence: Evidence) -> list[Cause]:
    """Values that take more or less than their share, against the value that keeps the tempo."""
    pulse = _timed(evidence)
    if pulse is None or pulse.base is None:
        return []
    causes = []
    running, every = _running(pulse), evidence.steps_played
    # What is lost at the turn of a bow is lost there, and not in the value of the note before it.
    waits = any(cause.kind == "bow_late" for cause in _at_places(evidence))
    plain = (None,) if waits else (None, "bow")
    base_beat = [_ratio(s, pulse) for s in running if s.value == pulse.base and s.before in plain]
    if not base_beat:
        return []
    for value in sorted(pulse.values):
        if value == pulse.base:
            continue
        own = [s for s in running if s.value == value and s.before in plain]
        could = [s for s in every if s.value == value and s.before in plain]
        if len(own) < _LEAST_STEPS or not _known_enough(own, could):
            continue
        ratios = np.array([_ratio(s, pulse) for s in own]) / float(np.median(base_beat))
        share = float(np.median(ratios)) - 1.0
        agree = float(np.mean(np.sign(ratios - 1.0) == np.sign(share)))
        if abs(share) > _TOLD and agree >= LEAST_AGREE:
            name = value_name(value, NoteValues.QUARTER, several=False)
            detail: dict[str, float | str] = {"value": name, "beats": value, "percent": round(100 * share, 1)}
            if _as_triplets(value, pulse, share):
                detail["like"] = "triplets"
            causes.append(Cause("note_value", tuple(s.index for s in own), 0.8, detail=detail))
    if any(cause.detail.get("like") == "triplets" for cause in causes):
        # The dotted note is then too short for the same reason.
        causes = [cause for cause in causes if cause.detail.get("like") == "triplets"]
    return sorted(causes, key=lambda cause: -abs(cause.figure("percent")))


def _as_triplets(value: float, pulse: Pulse, share: float) -> bool:
    """Whether the short note of a dotted pair takes a third of the two instead of a quarter."""
    long = 3.0 * value
    if long not in pulse.values or value not in pulse.values:
        return False
    short_s, long_s = value * (1 + pulse.values[value]), long * (1 + pulse.values[long])
    return share > 0 and abs(short_s / (short_s + long_s) - _AS_TRIPLET) < _NEAR_TRIPLET


def _uneven(evidence: Evidence) -> list[Cause]:
    """Equal notes that come long and short, or short and long: of the lengths that do so, the one that is furthest off."""
    pulse = _timed(evidence)
    if pulse is None or evidence.score.meter.compound:
        return []
    starts = {note.index: float(note.start_beats) for note in evidence.score.notes}
    running = _running(pulse)
    between = {s.index: s.before for s in running}
    value_of = {s.index: s.value for s in running}
    pairs, could = pairs_of(running, starts), pairs_of(evidence.steps_played, starts)
    found = []
    for value in sorted({value_of[index] for index, _ in pairs}):
        known = [pair for pair in pairs if value_of[pair[0]] == value]
        own = _unhindered(known, between)
        alike = [index for index, _ in could if evidence.score.notes[index].duration_beats == value]
        if len(own) < _LEAST_PAIRS or not _known_enough(known, alike):
            continue
        shares = np.array([share for _, share in own])
        middle = float(np.median(shares))
        agree = float(np.mean(np.sign(shares - 0.5) == np.sign(middle - 0.5)))
        away_ms = abs(middle - 0.5) * 2e3 * pulse.beat_s * value
        if abs(middle - 0.5) >= _UNEVEN and agree >= LEAST_AGREE and away_ms >= _FASTEST_TOLD_MS:
            detail: dict[str, float | str] = {"first": round(100 * middle, 1), "beats": value}
            found.append(Cause("uneven", tuple(index for index, _ in own), 0.8, detail=detail))
    return sorted(found, key=lambda cause: -abs(cause.figure("first") - 50.0))[:1]


def _unhindered(pairs: list[tuple[int, float]], between: Mapping[int, str | None]) -> list[tuple[int, float]]:
    """What is lost at a new bow or place of the hand is lost there, and in no pair; but a wait after the second of two makes it
    longer, and never shorter: of pairs before which something else is done each time, those that show least of that tell."""
    calm = [p for p in pairs if {between.get(p[0]), between.get(p[0] + 1)} <= {None, "crossing"}]
    whole = [p for p in pairs if between.get(p[0]) is None]
    shortened = len(whole) >= _LEAST_PAIRS and _middle(whole) > 0.5
    own = calm if len(calm) >= _LEAST_PAIRS or not shortened else whole
    followed = [[p for p in whole if between.get(p[0] + 1) == kind] for kind in {between.get(p[0] + 1) for p in whole}]
    least = max((group for group in followed if len(group) >= _LEAST_PAIRS), key=_middle, default=own)
    return least if own and _middle(own) < 0.5 else own


def _middle(pairs: list[tuple[int, float]]) -> float:
    return float(np.median([share for _, share in pairs]))


def _at_places(evidence: Evidence) -> list[Cause]:
    """Whether the pupil waits before each new string, shift or new bow, or cuts rests short or stretches them."""
    pulse = _timed(evidence)
    if pulse is None:
        return []
    steps = [(s, _ratio(s, pulse)) for s in _running(pulse)]
    plain = [(s, ratio) for s, ratio in steps if s.before is None]
    # Uneven pairs are no waits: there what stands at the same place of the beat is compared.
    uneven = bool(_uneven(evidence))
    kind_of = {
        note.index: (float(note.duration_beats), float(note.start_beats % 1) if uneven else 0.0)
        for note in evidence.score.notes
    }
    usual: dict[tuple[float, float], float] = {}
    for own_kind in {kind_of[s.index] for s, _ in plain}:
        own = [ratio for s, ratio in plain if kind_of[s.index] == own_kind]
        if len(own) >= _LEAST_STEPS:
            usual[own_kind] = float(np.median(own))
    causes: list[Cause] = []
    could = evidence.steps_played
    for place, kind in (("crossing", "crossing_late"), ("shift", "shift_late"), ("bow", "bow_late")):
        waits = [
            (s.after, ratio / usual[kind_of[s.index]] - 1.0)
            for s, ratio in steps
            if s.before == place and kind_of[s.index] in usual
        ]
        if _known_enough(waits, [s for s in could if s.before == place and kind_of[s.index] in usual]):
            causes += _if_shared(kind, waits, least=_WAITED)
    rests = [(s, ratio) for s, ratio in steps if s.before == "rest"]
    if len(plain) >= _LEAST_STEPS and _known_enough(rests, [s for s in could if s.before == "rest"]):
        # Of a step with a rest in it only the rest can be cut short: the whole of the gap is laid to it.
        pace = float(np.median([ratio for _, ratio in plain]))
        if _kept_across_rests(pace, pulse.beat_s, evidence.expectations.target_bpm):
            return causes
        shares = [(s.after, (ratio / pace - 1.0) / s.rest_share) for s, ratio in rests]
        if np.median([share for _, share in shares] or [0.0]) < 0:
            causes += _if_shared("rest_short", shares, least=_LEAST_OF_A_REST, sign=-1.0)
        else:
            causes += _if_shared("rest_long", shares, least=_LEAST_OF_A_REST)
    return causes


def _kept_across_rests(pace: float, beat_s: float, target_bpm: float) -> bool:
    """Whether the pulse with the rests in it is nearer to the set tempo than that of the notes alone: then it is these that were long or
    short, or heard late, and whoever comes back in time has counted the rest. `pace`: time that the notes took over what the pulse
    gives them."""
    whole, alone = (abs(np.log(beat * target_bpm / 60.0)) for beat in (beat_s, pace * beat_s))
    return bool(whole < _NEARER * alone)


def _if_shared(kind: str, shares: list[tuple[int, float]], least: float, sign: float = 1.0) -> list[Cause]:
    """The cause, where enough places are off in that direction by enough, and most of them agree."""
    if len(shares) < LEAST_NOTES:
        return []
    share = float(np.median([entry[1] for entry in shares]))
    agree = float(np.mean([sign * entry[1] > 0.5 * abs(share) for entry in shares]))
    if sign * share < least or agree < LEAST_AGREE:
        return []
    notes = tuple(entry[0] for entry in shares)
    return [Cause(kind, notes, round(0.5 + 0.4 * agree, 2), detail={"percent": round(100 * share, 1)})]


def _of_places(kind: str, evidence: Evidence) -> list[Cause]:
    return [cause for cause in _at_places(evidence) if cause.kind == kind]


_AT_A_STOP = {
    "rest": "a rest has to be counted",
    "shift": "the hand moves to another place",
    "crossing": "the bow goes to a new string",
    "bow": "the bow turns round",
}
"""What has to be done where a pupil stopped (see `exercises.moves`)."""
_MOST_STOPS_SAID = 2
"""Of more stops than these only the longest is named."""


def _stop_words(causes: tuple[Cause, ...], speaker: Speaker) -> Words:
    """`causes`: the longest first."""
    if len(causes) > _MOST_STOPS_SAID:
        return _many_stops_words(causes, speaker)
    said = sorted(causes, key=lambda cause: cause.notes[0])
    places = together(speaker.place(cause.notes[0]) for cause in said)
    why = {_AT_A_STOP.get(str(cause.detail.get("place"))) for cause in said}
    only = why.pop() if len(why) == 1 else None
    there = f" There {only}." if only else ""
    figures = together(f"{c.figure('seconds'):.1f} s before {speaker.place(c.notes[0])}" for c in said)
    if len(said) == 1:
        return Words(
            f"You stopped before {places}.{there} Play just those two notes, back and forth, until they join.",
            f"There was a stop in {speaker.measures(said[0].notes)}.{there} Those two notes alone, slowly and often, are the practice for today.",
            f"A stop of {figures}.{there}",
        )
    where = speaker.measures([cause.notes[0] for cause in said])
    return Words(
        f"You stopped before {places}.{there} Take the first of them alone, back and forth, until the two notes join.",
        f"There were {len(said)} stops, in {where}.{there} The notes on both sides of the first, slowly and often, are the practice for today.",
        f"Stops of {figures}.{there}",
    )


def _many_stops_words(causes: tuple[Cause, ...], speaker: Speaker) -> Words:
    longest = speaker.place(causes[0].notes[0])
    where = speaker.measures([cause.notes[0] for cause in causes])
    return Words(
        f"You stopped {len(causes)} times, longest before {longest}. Play the line more slowly, so slowly that you need not stop.",
        f"There were {len(causes)} stops, in {where}. Slow enough to go through without one is the right tempo for today.",
        f"{len(causes)} stops, in {where}; the longest of {causes[0].figure('seconds'):.1f} s before {longest}.",
    )


def _restart_words(causes: tuple[Cause, ...], speaker: Speaker) -> Words:
    cause = causes[0]
    target, reached = cause.notes[0], int(cause.figure("reached"))
    again = f"from {speaker.place(target)}"
    others = f"; {counted(len(causes), 'time')} in all" if len(causes) > 1 else ""
    return Words(
        f"You went back and played again {again}. Next time play on, even if a note slips.",
        "The player went back in the middle of the line and played again. Playing on is a skill of its own, and may be practised with a smile.",
        f"Went back after {speaker.place(reached)} and played again {again}{others}.",
    )


def _drift_words(causes: tuple[Cause, ...], speaker: Speaker) -> Words:
    percent = causes[0].figure("percent")
    faster = percent > 0
    return Words(
        f"You got {'faster' if faster else 'slower'} towards the end. Tap the beat with your foot all the way.",
        f"The tempo {'runs away' if faster else 'sinks'} towards the end. A slow clap beside it helps.",
        f"The tempo {'rises' if faster else 'falls'} by {abs(percent):.0f} % from start to end.",
    )


def _rushed_words(causes: tuple[Cause, ...], speaker: Speaker) -> Words:
    where = speaker.measures([index for cause in causes for index in cause.notes])
    one, most = len(causes) == 1, max(cause.figure("percent") for cause in causes)
    it = "it" if one else "them"
    return Words(
        f"You hurried in {where}. Clap {'that one' if one else 'those'} with the count, then play {it} in the line.",
        f"In {where} the notes come too soon after one another; the rest is steady. Clap {it} together with a slow count.",
        f"{capital(where)} {'is' if one else 'are'} rushed by {'' if one else 'up to '}{most:.0f} %; the others keep the beat.",
    )


def _value_words(causes: tuple[Cause, ...], speaker: Speaker) -> Words:
    cause = causes[0]
    beats, percent = cause.figure("beats"), cause.figure("percent")
    name, slow = speaker.value(beats), percent > 0
    where = speaker.measures(cause.notes)
    if cause.detail.get("like") == "triplets":
        long = speaker.value(3 * beats, several=False)
        return Words(
            f"Hold the {long} longer: the short note after it comes too soon. Say the words while you play.",
            "Long and short notes are shared out two to one; they should be three to one. Saying the words aloud puts them right.",
            f"{capital(long)} and {speaker.value(beats, several=False)} come as triplets, two to one instead of three to one, in {where}.",
        )
    level = ("slow" if slow else "fast") if beats < 1.0 else ("long" if slow else "short")
    return Words(
        f"Your {name} come out too {level}. Say the words while you play them.",
        f"The {name} {'take too long' if slow else 'are too short'} beside the others. Saying the cue words aloud puts them right.",
        f"{capital(name)} take {abs(percent):.0f} % {'more' if slow else 'less'} than their time, in {where}.",
    )


def _uneven_words(causes: tuple[Cause, ...], speaker: Speaker) -> Words:
    cause = causes[0]
    first = cause.figure("first")
    name = speaker.value(cause.figure("beats"))
    long_first = first > 50
    shape = "long and short" if long_first else "short and long"
    return Words(
        f"Your {name} go {shape}. Make them twins: say an even word for each two, then play.",
        f"Two equal notes come out {shape}. Walking on the spot, two notes to a step, makes them even.",
        f"{capital(name)} are uneven, {first:.0f} to {100 - first:.0f}, in {speaker.measures(cause.notes)}.",
    )


def _rest_words(causes: tuple[Cause, ...], speaker: Speaker) -> Words:
    cause = causes[0]
    short, percent = cause.kind == "rest_short", cause.figure("percent")
    return Words(
        f"You come back {'too soon' if short else 'late'} after the rest. Count it aloud, then play.",
        f"The silences are {'cut short' if short else 'too long'}. Clap the beat while the bow waits.",
        f"Rests are {abs(percent):.0f} % too {'short' if short else 'long'}, in {speaker.measures(cause.notes)}.",
    )


def _wait_words(child: str, parent: str, what: str) -> Callable[[tuple[Cause, ...], Speaker], Words]:
    def words(causes: tuple[Cause, ...], speaker: Speaker) -> Words:
        return Words(child, parent, f"{what} takes {causes[0].figure('percent'):.0f} % more than its time.")

    return words


FINDINGS = (
    Finding("restart", Layer.TIME, 69, lambda c, s: "Went back", _restart_words, _restarts),
    Finding("stop", Layer.TIME, 70, lambda c, s: "A stop", _stop_words, _stops),
    Finding(
        "rest_short", Layer.TIME, 73, lambda c, s: "Rests cut short", _rest_words, lambda e: _of_places("rest_short", e)
    ),
    Finding("rest_long", Layer.TIME, 74, lambda c, s: "Rests too long", _rest_words, lambda e: _of_places("rest_long", e)),
    Finding(
        "shift_late",
        Layer.TIME,
        75,
        lambda c, s: "A wait before each shift",
        _wait_words(
            "You wait before the hand moves up or down. Practise just the slide, without the bow, then in time.",
            "There is a small stop wherever the hand moves along the neck. The move alone, many times, makes it easy.",
            "The note before a shift",
        ),
        lambda e: _of_places("shift_late", e),
    ),
    Finding(
        "crossing_late",
        Layer.TIME,
        76,
        lambda c, s: "A wait before each new string",
        _wait_words(
            "You wait before each new string. Let the elbow get there first, then the bow goes in time.",
            "There is a small wait before each change of string. The elbow moves early, the bow follows in time.",
            "The note before a crossing",
        ),
        lambda e: _of_places("crossing_late", e),
    ),
    Finding(
        "bow_late",
        Layer.TIME,
        77,
        lambda c, s: "A wait before each new bow",
        _wait_words(
            "You wait before each new bow. Let the bow turn round without a stop.",
            "There is a small gap whenever the bow changes direction. It should turn like a swing, without stopping.",
            "The last note of a bow",
        ),
        lambda e: _of_places("bow_late", e),
    ),
    Finding("note_value", Layer.TIME, 79, lambda c, s: f"{capital(s.value(c.figure('beats')))} out of proportion", _value_words, _values),
    Finding("uneven", Layer.TIME, 81, lambda c, s: f"{capital(s.value(c.figure('beats')))} are uneven", _uneven_words, _uneven),
    Finding("rushed", Layer.TIME, 82, lambda c, s: f"{capital(s.measure(int(c.figure('measure'))))} is rushed", _rushed_words, _rushed),
    Finding("drift", Layer.TIME, 83, lambda c, s: f"The tempo {'rises' if c.figure('percent') > 0 else 'falls'}", _drift_words, _drift),
)  # fmt: skip
