"""Reports that an earlier version wrote are read as they were: what they did not say is left open, and nothing is made up."""

from __future__ import annotations

from typing import Any

import pytest

from attentive_owl.web.schemas.reports import report_from


def note(index: int, cents: float | None, timing_ms: float | None, status: str = "played") -> dict[str, Any]:
    return {
        "index": index, "measure": 1, "beat": index + 1.0, "midi": 62, "name": "D4", "string": "D", "finger": 0, "status": status,
        "reason": None, "heard_midi": 62.0, "cents": cents, "onset_s": 0.5, "offset_s": 0.9, "timing_ms": timing_ms,
        "duration_ratio": 1.0, "confidence": 0.9, "pitch_tolerance_cents": 20.0, "timing_tolerance_ms": 60.0,
    }  # fmt: skip


def document(**changes: Any) -> dict[str, Any]:
    """As version 1 wrote it, with what today's has beside it left out."""
    cause = {
        "kind": "hand", "string": None, "finger": None, "cents": -20.0, "mm": 2.0, "towards": "bridge", "notes": [0], "confidence": 0.8,
    }  # fmt: skip
    return {
        "format": "attentive-owl-report", "version": 1, "engine": "ear-1", "accepted": True, "refusal": None,
        "expectations": {
            "level": "settling", "pitch_cents": 25.0, "timing_ms": 90.0, "tempo_percent": 10.0, "temperament": "equal", "a4_hz": 440.0,
            "mode": "steady",
        },
        "recording": {"duration_s": 9.0, "snr_db": 40.0, "clipped_share": 0.0, "problems": []},
        "tempo": {"target_bpm": 80.0, "played_bpm": 79.0, "drift_percent": 0.0, "stops": []},
        "tuning": {"a4_hz": None, "strings": {}},
        "notes": [note(0, 20.0, 60.0), note(1, 20.1, 0.0), note(2, -3.0, -60.1), note(3, 3.0, None), note(4, None, 0.0), note(5, 0.0, 0.0, "wrong_pitch")],
        "extras": [],
        "passes": [
            {"start_s": 0.5, "end_s": 4.0, "complete": True, "notes_played": 6, "chosen": True, "clean": True},
            {"start_s": 4.5, "end_s": 6.0, "complete": False, "notes_played": 2, "chosen": False},
        ],
        "judgement": {
            "pitch": {"word": "home", "home": 5, "of": 6, "median_cents": 1.0, "spread_cents": 2.0},
            "rhythm": {"word": "home", "home": 5, "of": 6, "spread_ms": 20.0},
            "tempo": {"word": "home", "percent": 1.0},
            "completeness": {"word": "home", "played": 6, "of": 6, "missed": 0, "stops": 0},
        },
        "causes": [cause],
        "advice": [
            {"kind": "praise", "text": "Well played.", "cause": None},
            {"kind": "tuning", "text": "A little higher.", "cause": 0, "parent": "The hand lies low.", "teacher": "20 cents low."},
        ],
        **changes,
    }  # fmt: skip


def test_what_the_notes_were_by_the_rules_of_their_time() -> None:
    notes = report_from(document()).notes
    assert [(n.in_tune, n.on_time, n.home) for n in notes] == [
        (True, True, True), (False, True, False), (True, False, False), (True, False, True), (False, True, False), (False, True, False),
    ]  # fmt: skip
    assert all(n.home_as_heard == n.home and n.tuned_cents == n.cents and not n.moment_guessed for n in notes)


def test_what_was_not_said_is_left_open() -> None:
    read = report_from(document())
    assert (read.ear, read.judge, read.good_go, read.first_note, read.rests, read.landings) == (
        "ear-1",
        "",
        None,
        None,
        [],
        [],
    )
    assert [own.good for own in read.passes] == [True, False]
    assert read.judgement is not None
    whole = read.judgement.completeness
    assert (whole.not_come_to, whole.rests_kept, whole.rests) == (0, 0, 0)
    (cause,) = read.causes
    assert (cause.title, cause.evidence, cause.sure) == ("Hand", "20 cents low.", False)
    assert [(own.kind, own.parent, own.teacher) for own in read.advice] == [
        ("praise", "Well played.", "Well played."),
        ("change", "The hand lies low.", "20 cents low."),
    ]


def test_a_refusal_has_its_words_for_all_three() -> None:
    read = report_from(
        document(
            accepted=False, refusal={"code": "too_noisy", "words": "It was loud."}, notes=[], passes=[], judgement={}, causes=[], advice=[]
        )
    )  # fmt: skip
    assert read.refusal is not None
    assert (read.refusal.title, read.refusal.parent, read.refusal.teacher) == (
        "too noisy",
        "It was loud.",
        "It was loud.",
    )
    assert read.judgement is None


@pytest.mark.parametrize("version", [2, 3])
def test_what_says_that_it_is_newer_is_not_read_by_the_rules_of_then(version: int) -> None:
    with pytest.raises(ValueError, match="validation error"):
        report_from(document(version=version))
