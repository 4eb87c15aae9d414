"""What is said: every sentence as it stands in docs/advice.md, in both vocabularies, with its plurals and capitals."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from attentive_owl.core.exercises import PATTERNS
from attentive_owl.core.judging.findings import FINDINGS
from attentive_owl.core.theory import NoteValues, in_vocabulary, measure_name, value_name
from bench.advice import document, missing, said

ADVICE = Path(__file__).resolve().parents[2] / "docs" / "advice.md"
AMERICAN = re.compile(r"\b(whole|half note|quarter|eighth|sixteenth|measure)s?\b", re.IGNORECASE)
BRITISH = re.compile(r"\b(semibreve|minim|crotchet|quaver|semiquaver|bar)s?\b", re.IGNORECASE)


def test_every_sentence_stands_as_it_is_written_down() -> None:
    """Any sign, threshold of words or direction that is turned round changes a sentence: `python -m bench.advice --write docs/advice.md`."""
    assert ADVICE.read_text(encoding="utf-8") == document()


def test_every_cause_and_every_refusal_has_its_example() -> None:
    assert missing() == set()


def test_no_two_kinds_are_spoken_of_at_the_same_rank() -> None:
    ranks = [finding.rank for finding in FINDINGS.values()]
    assert len(set(ranks)) == len(ranks)


@pytest.mark.parametrize(("values", "foreign"), [(NoteValues.QUARTER, BRITISH), (NoteValues.CROTCHET, AMERICAN)])
def test_each_vocabulary_is_kept_throughout(values: NoteValues, foreign: re.Pattern[str]) -> None:
    for _, title, _, words in said(values):
        # "The whole hand" is no note.
        for text in (title, words.child, words.parent, words.teacher):
            own = re.sub(r"[Tt]he whole (instrument|hand|line)|[Tt]he hand as a whole|As a whole", "", text)
            assert not foreign.search(own), text


def test_sentences_are_whole_and_a_child_reads_no_figures_of_sound() -> None:
    for _, title, _, words in said():
        for text in (words.child, words.parent, words.teacher):
            assert text[0].isupper() or text[0].isdigit(), text
            assert text.endswith((".", "?")), text
            assert "  " not in text
            assert not re.search(
                r"\b1 (notes|half steps|octaves|stops|rests)\b|\b(?!1\b)\d+ (note|half step|octave|stop|rest)\b", text
            ), text
        assert not re.search(r"\bcents?\b|\bms\b|\bmm\b|%", words.child + words.parent), words
        assert len(words.child) <= 175, words.child
        assert not title.endswith(".")


def test_note_values_in_both_vocabularies() -> None:
    """Whole to sixteenth and semibreve to semiquaver (common practice), dotted ones after the plain ones."""
    american = [value_name(v, NoteValues.QUARTER) for v in (4, 2, 1, 0.5, 0.25, 3, 1.5, 0.75)]
    assert american == [
        "whole notes", "half notes", "quarters", "eighths", "sixteenths", "dotted half notes", "dotted quarters", "dotted eighths",
    ]  # fmt: skip
    british = [value_name(v, NoteValues.CROTCHET, several=False) for v in (4, 2, 1, 0.5, 0.25, 1.5)]
    assert british == ["semibreve", "minim", "crotchet", "quaver", "semiquaver", "dotted crotchet"]
    assert {
        v: in_vocabulary("Half note, Dotted halves, four sixteenths, bar 2; lower half", v) for v in NoteValues
    } == {
        "quarter": "Half note, Dotted halves, four sixteenths, measure 2; lower half",
        "crotchet": "Minim, Dotted minims, four semiquavers, bar 2; lower half",
    }
    for pattern in PATTERNS.values():
        assert not AMERICAN.search(in_vocabulary(pattern.name, NoteValues.CROTCHET)), pattern.name
        assert "alf" not in in_vocabulary(pattern.name, NoteValues.CROTCHET), pattern.name
    assert value_name(1 / 3, NoteValues.QUARTER) == "notes"
    assert [measure_name(v) for v in NoteValues] == ["measure", "bar"]
