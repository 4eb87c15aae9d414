"""Score + Performance + Expectations -> Report."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from attentive_owl.core.exercises import Score
from attentive_owl.core.judging import report as r
from attentive_owl.core.judging.advice import advise, speaker_of
from attentive_owl.core.judging.cause import Cause, cause_key
from attentive_owl.core.judging.deviations import Deviation, deviations
from attentive_owl.core.judging.expectations import Expectations
from attentive_owl.core.judging.findings import FINDINGS, Evidence, Layer, find_causes
from attentive_owl.core.judging.findings.played import Reach, reach_of, stray_notes
from attentive_owl.core.judging.good import Circumstances, GoodGo, good_go, is_far_above
from attentive_owl.core.judging.landings import Landing, find_landings
from attentive_owl.core.judging.pulse import find_pulse, tempo_curve
from attentive_owl.core.judging.refusals import TITLES, refusal_words
from attentive_owl.core.judging.rhythm import rhythm_heard
from attentive_owl.core.judging.speech import Speaker
from attentive_owl.core.judging.tuning import Tuning, find_tuning
from attentive_owl.core.listening import EAR
from attentive_owl.core.listening.performance import HeardPass, NoteStatus, Performance, Refusal, RefusalCode

JUDGE = "judge-14"
"""Goes up with every change that can change what is judged or said."""
ENGINE = f"{EAR} {JUDGE}"
"""Ear and judge together: reports belong to one engine."""

_HOME, _NEARLY = 0.9, 0.7
"""Shares of the judged notes: home, and nearly home (by judgement)."""
_SURE = 0.85
"""Confidence from which on a cause counts as sure."""


def judge(performance: Performance | Refusal, score: Score, expectations: Expectations) -> r.Report:
    """The report of a take. A refusal gives a report that judges nothing."""
    if isinstance(performance, Refusal):
        return _refused(performance, score, expectations)
    passes = tuple(_judge_pass(performance, place, score, expectations) for place in range(len(performance.passes)))
    if expectations.mode == "repeats":
        performance = replace(performance, picked=_best(passes))
    chosen = passes[performance.passes.index(performance.chosen)]
    evidence, heard_pass = chosen.evidence, performance.chosen
    if heard := rhythm_heard(evidence):
        return _refused(_another_rhythm(performance, heard), score, expectations)
    causes = find_causes(evidence)
    speaker = speaker_of(evidence)
    return replace(
        _nothing_judged(performance, expectations),
        accepted=True,
        tempo=_tempo(evidence),
        tuning=_tuning(evidence.tuning),
        good_go=_good_go(chosen.good, _longest_run(passes), expectations),
        passes=[_pass(own, own is heard_pass, judged) for own, judged in zip(performance.passes, passes, strict=True)],
        notes=chosen.notes,
        extras=[
            r.ReportExtra(round(s.onset_s, 4), round(s.offset_s, 4), round(s.heard_midi, 3), s.before)
            for s in performance.strays
            if heard_pass.start_s - 0.5 <= s.onset_s <= heard_pass.end_s + 0.5
        ],
        rests=[r.ReportRest(i, quiet) for i, quiet in enumerate(heard_pass.rests_quiet)],
        first_note=_first_note(evidence.notes),
        landings=[_landing(own) for own in find_landings(evidence.notes)],
        judgement=_judgement(evidence, causes, chosen.reach),
        causes=[_cause(cause, speaker) for cause in causes],
        advice=advise(evidence, causes, chosen.good),
    )


def _refused(refusal: Refusal, score: Score, expectations: Expectations) -> r.Report:
    said = refusal_words(refusal, Speaker(score, expectations.names, expectations.values))
    return replace(
        _nothing_judged(refusal, expectations),
        refusal=r.ReportRefusal(
            refusal.code,
            TITLES[refusal.code],
            said.child,
            said.parent,
            said.teacher,
            refusal.sounds_like,
            refusal.known_as,
        ),
    )


def not_read(why: str, expectations: Expectations) -> r.Report:
    """Of a file in which no sound could be read. `why`: one sentence for its owner."""
    again = f"{why} Play it again, or choose another file."
    return replace(
        _nothing_judged(Refusal(RefusalCode.UNREADABLE, 0.0, 0.0, (), 0.0), expectations),
        refusal=r.ReportRefusal(
            RefusalCode.UNREADABLE, TITLES[RefusalCode.UNREADABLE], again, again, f"{why} Not judged."
        ),
    )


def _nothing_judged(source: Performance | Refusal, expectations: Expectations) -> r.Report:
    """What every report says, before anything is judged."""
    return r.Report(
        format=r.REPORT_FORMAT,
        version=r.REPORT_VERSION,
        engine=ENGINE,
        ear=EAR,
        judge=JUDGE,
        expectations=_judged_by(expectations),
        accepted=False,
        refusal=None,
        recording=_recording(source),
        tempo=r.TempoReport(expectations.target_bpm, None, None, []),
        tuning=r.TuningReport(None, {}),
        good_go=None,
        passes=[],
        notes=[],
        extras=[],
        rests=[],
        first_note=None,
        landings=[],
        judgement=None,
        causes=[],
        advice=[],
    )


def _another_rhythm(performance: Performance, heard: str) -> Refusal:
    return Refusal(
        RefusalCode.ANOTHER_RHYTHM,
        performance.snr_db,
        performance.clipped_share,
        performance.problems,
        performance.duration_s,
        shift_semitones=performance.shift_semitones or None,
        rhythm=heard,
    )


def _judged_by(expectations: Expectations) -> r.ReportExpectations:
    level = expectations.level
    return r.ReportExpectations(
        level.key,  # type: ignore[arg-type]
        level.pitch_cents,
        level.timing_ms,
        level.tempo_percent,
        expectations.temperament.value,
        expectations.a4_hz,
        expectations.mode,  # type: ignore[arg-type]
    )


def _recording(source: Performance | Refusal) -> r.ReportRecording:
    click = source.click if isinstance(source, Performance) else None
    return r.ReportRecording(
        source.duration_s,
        source.snr_db,
        round(source.clipped_share, 6),
        list(source.problems),
        r.ReportClick(click.bpm, click.first_s, click.clicks) if click else None,
    )


def _tempo(evidence: Evidence) -> r.TempoReport:
    pulse, score, target = evidence.pulse, evidence.score, evidence.expectations.target_bpm
    if pulse is None:
        return r.TempoReport(target, None, None, [])
    stops = [
        r.ReportStop(
            stop.index,
            score.notes[stop.index].measure,
            float(score.notes[stop.index].beat),
            round(stop.seconds, 2),
            stop.restart,
        )
        for stop in pulse.stops
    ]
    curve = [r.TempoPoint(index, round(bpm, 1)) for index, bpm in tempo_curve(score, evidence.heard_pass, pulse)]
    return r.TempoReport(target, round(pulse.played_bpm, 2), round(pulse.drift_percent, 2), stops, curve)


def _first_note(found: tuple[Deviation, ...]) -> r.FirstNote | None:
    """The first note that was heard surely: what a pupil tests before starting."""
    first = next((d for d in found if d.judged), None)
    if first is None or first.note.index > 0:
        return None
    return r.FirstNote(_rounded(first.tuned_cents, 1), first.in_tune)


def _landing(own: Landing) -> r.ReportLanding:
    return r.ReportLanding(
        own.string, own.finger, own.name, list(own.notes), round(own.mean_cents, 1), round(own.spread_cents, 1)
    )


def _tuning(tuning: Tuning) -> r.TuningReport:
    own = tuning.instrument_cents
    return r.TuningReport(
        None if own is None else round(440.0 * 2 ** (own / 1200.0), 2),
        {name: round(string.cents, 1) for name, string in tuning.strings.items()},
        {
            name: r.StringCertainty(round(string.uncertainty_cents, 1), string.source)
            for name, string in tuning.strings.items()
        },
        {name: round(cents, 1) for name, cents in tuning.taken_off.items() if abs(cents) >= 0.05},
    )


@dataclass(frozen=True)
class _JudgedPass:
    """One time through, judged by itself."""

    evidence: Evidence
    reach: Reach
    notes: list[r.ReportNote]
    good: GoodGo
    pitch_home: int
    time_home: int


def _judge_pass(performance: Performance, place: int, score: Score, expectations: Expectations) -> _JudgedPass:
    own = replace(performance, picked=place)
    pulse = find_pulse(score, own.chosen, own.strays, expectations.target_bpm)
    tuning = find_tuning(own, score, expectations)
    found = deviations(own, score, expectations, pulse, tuning)
    evidence = Evidence(own, score, expectations, found, pulse, tuning)
    reach = reach_of(score, own.chosen)
    notes = [_note(d, reach) for d in found]
    good = good_go(notes, _circumstances(evidence), expectations.good_go)
    return _JudgedPass(evidence, reach, notes, good, sum(d.in_tune for d in found), sum(d.on_time for d in found))


def _circumstances(evidence: Evidence) -> Circumstances:
    return Circumstances(
        elsewhere=evidence.performance.shift_semitones != 0,
        strays=len(stray_notes(evidence)),
        stops=len(evidence.pulse.stops) if evidence.pulse else 0,
        restarts=len(evidence.heard_pass.restarts),
        below_tempo=evidence.tempo_side == "below",
        far_above_tempo=is_far_above(evidence.tempo_off_percent),
        timed=evidence.expectations.mode != "pauses",
    )


def _best(passes: tuple[_JudgedPass, ...]) -> int:
    """The whole pass with most at home, the later of equals; a broken one only where none is whole."""
    return max(
        range(len(passes)),
        key=lambda place: (
            passes[place].evidence.heard_pass.complete,
            passes[place].pitch_home + passes[place].time_home,
            place,
        ),
    )


def _longest_run(passes: tuple[_JudgedPass, ...]) -> int:
    longest = run = 0
    for judged in passes:
        run = run + 1 if judged.good.good else 0
        longest = max(longest, run)
    return longest


def _good_go(own: GoodGo, in_a_row: int, expectations: Expectations) -> r.GoodGoReport:
    rule = expectations.good_go
    return r.GoodGoReport(
        own.good, list(own.reasons), rule.pitch_share, rule.time_share, rule.most_stops, rule.at_tempo, in_a_row
    )


def _pass(heard_pass: HeardPass, chosen: bool, judged: _JudgedPass) -> r.ReportPass:
    return r.ReportPass(
        round(heard_pass.start_s, 3),
        round(heard_pass.end_s, 3),
        heard_pass.complete,
        len(heard_pass.played),
        chosen,
        judged.pitch_home,
        judged.time_home,
        judged.good.good,
        list(judged.good.reasons),
        [r.Restart(reached, target) for reached, target in heard_pass.restarts],
    )


def _rounded(value: float | None, digits: int) -> float | None:
    return None if value is None else round(value, digits)


def _note(d: Deviation, reach: Reach) -> r.ReportNote:
    return r.ReportNote(
        index=d.note.index,
        measure=d.note.measure,
        beat=float(d.note.beat),
        midi=d.note.midi,
        name=d.note.pitch.name,
        string=d.string,
        finger=d.finger,
        status=d.heard.status,
        reason="not_come_to" if d.note.index in reach.not_come_to else d.heard.reason,
        heard_midi=_rounded(d.heard.heard_midi, 3),
        cents=_rounded(d.cents, 1),
        tuned_cents=_rounded(d.tuned_cents, 1),
        approach_cents=_rounded(d.heard.approach_cents, 1),
        onset_s=d.heard.onset_s,
        offset_s=d.heard.offset_s,
        timing_ms=_rounded(d.timing_ms, 1),
        duration_ratio=_rounded(d.duration_ratio, 3),
        confidence=d.heard.confidence,
        pitch_tolerance_cents=d.pitch_tolerance_cents,
        timing_tolerance_ms=d.timing_tolerance_ms,
        in_tune=d.in_tune,
        on_time=d.on_time,
        home=d.home,
        home_as_heard=d.home_as_heard,
        moment_guessed=d.moment_guessed,
    )


def _word(share: float | None, *, spoilt: bool = False, doubted: bool = False) -> str:
    """home, nearly home, on the way. What is spoilt by a note that is another one, left out or too many is on the way,
    whatever share is home; what has a cause behind it is nearly home at most."""
    if share is None:
        return "not judged"
    if spoilt or share < _NEARLY:
        return "on the way"
    return "home" if share >= _HOME and not doubted else "nearly home"


def _judgement(evidence: Evidence, causes: tuple[Cause, ...], reach: Reach) -> r.Judgement:
    found, pulse = evidence.notes, evidence.pulse
    layers = {FINDINGS[cause.kind].layer for cause in causes}
    judged = [d for d in found if d.judged]
    cents = [d.tuned_cents for d in judged if d.heard.status == NoteStatus.PLAYED and d.tuned_cents is not None]
    timed = [d for d in found if d.timing_ms is not None]
    wrong = any(d.heard.status == NoteStatus.WRONG_PITCH for d in found)
    in_tune, on_time = sum(d.in_tune for d in judged), sum(d.on_time for d in timed)
    played = sum(d.heard.status != NoteStatus.MISSED for d in found)
    complete = played == len(found) and not stray_notes(evidence)
    return r.Judgement(
        pitch=r.PitchJudgement(
            word=_word(in_tune / len(judged) if judged else None, spoilt=wrong, doubted=Layer.HAND in layers),
            home=in_tune,
            of=len(judged),
            median_cents=_rounded(float(np.median(cents)) if cents else None, 1),
            spread_cents=_rounded(float(np.median(np.abs(np.array(cents) - np.median(cents)))) if cents else None, 1),
        ),
        rhythm=r.RhythmJudgement(
            word=_word(on_time / len(timed) if timed else None, doubted=bool(layers & {Layer.TIME, Layer.BOW})),
            home=on_time,
            of=len(timed),
            spread_ms=_rounded(float(np.median([abs(d.timing_ms or 0.0) for d in timed])) if timed else None, 1),
        ),
        tempo=r.TempoJudgement(_TEMPO_WORDS[evidence.tempo_side], _rounded(evidence.tempo_off_percent, 1)),
        completeness=r.CompletenessJudgement(
            word="home" if complete else "on the way",
            played=played,
            of=len(found),
            missed=len(reach.left_out),
            not_come_to=len(reach.not_come_to),
            stops=len(pulse.stops) if pulse else 0,
            rests_kept=sum(evidence.heard_pass.rests_quiet),
            rests=len(evidence.heard_pass.rests_quiet),
        ),
    )


_TEMPO_WORDS = {None: "not judged", "home": "home", "below": "a rung below", "above": "too fast"}
"""Below the target is a rung and no fault."""


def _cause(cause: Cause, speaker: Speaker) -> r.ReportCause:
    finding = FINDINGS[cause.kind]
    return r.ReportCause(
        key=cause_key(cause.kind, cause.string, cause.finger),
        kind=cause.kind,
        title=finding.title(cause, speaker),
        evidence=finding.say((cause,), speaker).teacher,
        string=cause.string,
        finger=cause.finger,
        cents=cause.cents,
        mm=cause.mm,
        towards=cause.towards,
        notes=list(cause.notes),
        confidence=cause.confidence,
        sure=cause.confidence >= _SURE,
        detail=dict(cause.detail),
    )
