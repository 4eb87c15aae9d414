"""A class from a list: pasted, typed, or as a CSV file (RFC 4180, and what spreadsheets write)."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from attentive_owl.formats.roster import read_roster


def test_a_table_is_read_whatever_parts_its_columns() -> None:
    plain = "Ada Moor, violin, 3/4\nBo Lund, cello, 1/2, 565\nCy Hale, double bass, 3/4\nDot Fenn, viola, 14 in\n"
    for text in (
        plain,
        plain.replace(", ", "\t"),
        plain.replace(", ", ";").replace("\n", "\r\n"),
        "\ufeffName,Instrument,Size,String length (mm)\n" + plain,
        "size;plays;pupil\n3/4;Violin;Ada Moor\n1/2;CELLO;Bo Lund\n3/4;contrabass;Cy Hale\n14 in;bratsche;Dot Fenn\n",
    ):
        rows, faults = read_roster(text)
        assert faults == []
        assert [(r.name, r.instrument, r.size) for r in rows] == [
            ("Ada Moor", "violin", "3/4"),
            ("Bo Lund", "cello", "1/2"),
            ("Cy Hale", "bass", "3/4"),
            ("Dot Fenn", "viola", "14 in"),
        ]
    rows, _ = read_roster(plain)
    # What was measured is taken, and the usual length of the size otherwise.
    assert [r.string_length_mm for r in rows] == [300, 565, 1050, 337]


def test_a_quoted_name_keeps_its_comma() -> None:
    rows, faults = read_roster('"Moor, Ada",violin,4/4\n\n"Lund ""Bo""",cello,4/4,"690,5 mm"')
    assert faults == []
    assert [(r.line, r.name, r.string_length_mm) for r in rows] == [(1, "Moor, Ada", 328), (3, 'Lund "Bo"', 690.5)]


@pytest.mark.parametrize(
    ("row", "words"),
    [
        (", violin, 4/4", "There is no name."),
        ("Ada", "Which instrument does Ada play? violin, viola, cello or double bass."),
        ("Ada, trumpet, 4/4", "“trumpet” is none of violin, viola, cello or double bass."),
        ("Ada, violin", "The size is not there: a violin comes in 1/8, 1/4, 1/2, 3/4 or 4/4."),
        ("Ada, violin, 7/8", "“7/8” is no size: a violin comes in 1/8, 1/4, 1/2, 3/4 or 4/4."),
        ("Ada, violin, 4/4, long", "“long” is no length in millimetres."),
        ("Ada, violin, 4/4, 32", "A string of 32 mm is none; it lies between 150 and 1300."),
        (f"{'A' * 61}, violin, 4/4", "This name is longer than 60 letters."),
    ],
)
def test_a_row_that_can_not_be_used_is_named(row: str, words: str) -> None:
    rows, faults = read_roster(f"Bo, cello, 4/4\n\n{row}\nCy, viola, 15 in\n")
    assert [r.name for r in rows] == ["Bo", "Cy"]
    assert [(f.line, f.words) for f in faults] == [(3, words)]


def test_nobody_is_put_in_twice() -> None:
    _, faults = read_roster("Ada, violin, 4/4\nBo, cello, 4/4\nada, viola, 15 in", ["BO"])
    assert [(f.line, f.words) for f in faults] == [
        (2, "Bo is in the class already."),
        (3, "ada stands here twice; give one of them another name to show."),
    ]
    _, faults = read_roster("\n".join(f"Pupil {n}, violin, 4/4" for n in range(61)))
    assert [(f.line, f.words) for f in faults] == [(61, "A class has 60 pupils at most.")]


@given(st.text(max_size=200))
def test_whatever_is_pasted_gets_rows_and_sentences(text: str) -> None:
    rows, faults = read_roster(text)
    assert all(fault.words.endswith(".") for fault in faults)
    assert all(row.name and row.string_length_mm > 0 for row in rows)
