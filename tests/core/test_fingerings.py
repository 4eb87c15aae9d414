"""Fingerings against tables typed in by hand (common practice of first-position teaching, from memory), and against rules that
every scale of every key has to keep.

String and finger going up; x for a stretched hand; (position) where it is not the first.
"""

from __future__ import annotations

from itertools import pairwise, product

import pytest

from attentive_owl.core.exercises import Ease, LineNote, Pin, Recipe, Register, Score, build, look_at
from attentive_owl.core.exercises.moves import shifts
from attentive_owl.core.exercises.signs import fingers_that_stay, half_steps, low_or_high
from attentive_owl.core.instruments import INSTRUMENTS, Extension, FourthFinger, UnplayableError, extension_of
from attentive_owl.core.theory import ScaleForm

TABLES = {
    ("violin", 1): {
        "G": "G0 G1 G2 G3 D0 D1 D2 D3", "D": "D0 D1 D2 D3 A0 A1 A2 A3", "A": "A0 A1 A2 A3 E0 E1 E2 E3",
        "C": "G3 D0 D1 D2 D3 A0 A1 A2", "F": "D2 D3 A0 A1 A2 A3 E0 E1", "Bb": "G2 G3 D0 D1 D2 D3 A0 A1",
        "Eb": "D1 D2 D3 D4 A1 A2 A3 A4",
    },
    ("violin", 2): {
        "G": "G0 G1 G2 G3 D0 D1 D2 D3 A0 A1 A2 A3 E0 E1 E2", "A": "G1 G2 G3 D0 D1 D2 D3 A0 A1 A2 A3 E0 E1 E2 E3",
        "Bb": "G2 G3 D0 D1 D2 D3 A0 A1 A2 A3 A4 E1 E2 E3 E4",
        "D": "D0 D1 D2 D3 A0 A1 A2 A3 E0 E1 E2 E3 E4 E3(3) E4(3)",
    },
    ("viola", 1): {
        "C": "C0 C1 C2 C3 G0 G1 G2 G3", "G": "G0 G1 G2 G3 D0 D1 D2 D3", "D": "D0 D1 D2 D3 A0 A1 A2 A3",
        "A": "G1 G2 G3 D0 D1 D2 D3 A0", "F": "C3 G0 G1 G2 G3 D0 D1 D2", "Bb": "G2 G3 D0 D1 D2 D3 A0 A1",
        "Eb": "C2 C3 G0 G1 G2 G3 D0 D1",
    },
    ("viola", 2): {
        "C": "C0 C1 C2 C3 G0 G1 G2 G3 D0 D1 D2 D3 A0 A1 A2", "D": "C1 C2 C3 G0 G1 G2 G3 D0 D1 D2 D3 A0 A1 A2 A3",
        "Eb": "C2 C3 G0 G1 G2 G3 D0 D1 D2 D3 D4 A1 A2 A3 A4",
    },
    ("cello", 1): {
        "C": "C0 C1 C3 C4 G0 G1 G3 G4", "G": "G0 G1 G3 G4 D0 D1 D3 D4", "D": "D0 D1 D3 D4 A0 A1 A3 A4",
        "A": "G1 Gx2 Gx4 D0 D1 Dx2 Dx4 A0", "F": "C4 G0 G1 G2 G4 D0 D1 D2", "Bb": "G2 G4 D0 Dx1 D2 D4 A0 Ax1",
        "Eb": "C2 C4 G0 Gx1 G2 G4 D0 Dx1",
    },
    ("cello", 2): {
        "C": "C0 C1 C3 C4 G0 G1 G3 G4 D0 D1 D2 D4 A0 A1 A2",
        "D": "C1 Cx2 Cx4 G0 G1 Gx2 Gx4 D0 D1 D3 D4 A0 A1 A3 A4",
        "G": "G0 G1 G3 G4 D0 D1 D3 D4 A0 A1 A2 A4 A1(4) A3(4) A4(4)",
    },
    ("bass", 1): {
        "G": "E2 A0 A1 A2 D0 D1 D4 G0", "D": "D0 D1 D4 G0 G1 G4 G2(3) G4(3)",
        "A": "A0 A1 A4 D0 D1 D4 G1(1/2) G2(1/2)", "C": "A2 D0 D1 D2 G0 G1 G2(2) G4(2)",
        "F": "E1(1/2) E4(1/2) A0 A1(1/2) A4(1/2) D0 D2(1/2) D4(1/2)",
        "Bb": "A1(1/2) A4(1/2) D0 D1(1/2) D4(1/2) G0 G2(1/2) G4(1/2)",
        "Eb": "D1(1/2) D4(1/2) G0 G1(1/2) G4(1/2) A4(1/2) D0 D1(1/2)",
    },
}  # fmt: skip
CASES = [(key, octaves, tonic, wanted) for (key, octaves), rows in TABLES.items() for tonic, wanted in rows.items()]
MAJORS = ("C", "G", "D", "A", "E", "B", "F#", "F", "Bb", "Eb", "Ab", "Db")
MINORS = ("A", "E", "B", "F#", "C#", "G#", "D", "G", "C", "F", "Bb", "Eb")


def said(score: Score, notes: int) -> str:
    out = []
    for note in score.notes[:notes]:
        place = note.placement
        assert place is not None
        stretched = "x" if extension_of(score.instrument, place) is not Extension.NONE else ""
        position = f"({place.position})" if place.finger and place.position != "1" else ""
        out.append(f"{place.string}{stretched}{place.finger}{position}")
    return " ".join(out)


@pytest.mark.parametrize(("key", "octaves", "tonic", "wanted"), CASES)
def test_scales_have_the_fingers_that_a_colleague_would_write(key: str, octaves: int, tonic: str, wanted: str) -> None:
    assert said(build(Recipe(tonic, octaves=octaves), key), 7 * octaves + 1) == wanted


def every_scale(octaves: int) -> list[tuple[str, str, ScaleForm, Score]]:
    scores = []
    for key in INSTRUMENTS:
        for form, tonics in ((ScaleForm.MAJOR, MAJORS), (ScaleForm.NATURAL_MINOR, MINORS)):
            for tonic in tonics:
                try:
                    scores.append((key, tonic, form, build(Recipe(tonic, form=form, octaves=octaves), key)))
                except UnplayableError:
                    continue
    return scores


@pytest.mark.parametrize("octaves", [1, 2])
def test_what_every_scale_keeps_to(octaves: int) -> None:
    scores = every_scale(octaves)
    assert len(scores) > 90
    for key, tonic, form, score in scores:
        case = (key, tonic, form, octaves)
        for note in score.notes:
            place = note.placement
            assert place is not None
            assert score.instrument.string(place.string).pitch.midi + place.semitones == note.midi, case
            # No open string outside of the key, and each finger within the reach of its hand.
            assert place.finger > 0 or score.key.contains(note.midi), case
            frame = score.instrument.frame(place.position)
            assert frame is not None
            assert place.finger == 0 or frame.extension(place.finger, place.semitones) is not None, case
        for a, b in pairwise(score.notes):
            one, two = a.placement, b.placement
            assert one is not None
            assert two is not None
            if (
                key == "cello"
                and one.string == two.string
                and one.position == two.position
                and one.finger
                and two.finger
            ):
                # A closed hand has a half step from finger to finger; a whole step is a stretch between first and second.
                fingers, steps = sorted((one.finger, two.finger)), abs(one.semitones - two.semitones)
                spread = steps - (fingers[1] - fingers[0])
                assert spread == 0 or (spread == 1 and fingers[0] == 1), case
            if key in ("cello", "bass") and one.string == two.string and one.finger == two.finger > 1:
                assert one.semitones == two.semitones, case


def test_the_cello_opens_its_hand_for_two_whole_steps() -> None:
    """A B C sharp on G and E F sharp G sharp on D are 1 2 x4, never 1 3 4 (common practice)."""
    for tonic, family in (("A", "scale"), ("D", "scale"), ("A", "arpeggio")):
        score = build(Recipe(tonic, family=family, octaves=2 if tonic == "D" else 1), "cello")
        wide = [n.placement for n in score.notes if n.placement and n.placement.semitones == 6]
        assert {place.finger for place in wide} == {4}
    assert "a first step" not in look_at(build(Recipe("A", tempo_bpm=60), "cello")).difficulty


def test_the_bass_stays_drops_and_shifts_as_it_is_taught() -> None:
    """Half position where B flat is; no shift in F, B flat and E flat, which drops; C and D shift once (common practice)."""
    moved = {tonic: len(shifts(build(Recipe(tonic), "bass"))) for tonic in ("F", "Bb", "Eb", "G", "C", "D")}
    assert moved == {"F": 0, "Bb": 0, "Eb": 0, "G": 0, "C": 2, "D": 2}
    eb = [n.pitch.name for n in build(Recipe("Eb"), "bass").notes[:8]]
    assert eb == ["Eb2", "F2", "G2", "Ab2", "Bb2", "C2", "D2", "Eb2"]
    # The same exercise for two pupils: one drops rather than shift, one climbs.
    easier, harder = (build(Recipe("D"), "bass", ease) for ease in (Ease.EASIER, Ease.HARDER))
    assert (len(shifts(easier)), easier.notes[6].pitch.name) == (0, "C#2")
    assert (len(shifts(harder)), harder.notes[6].pitch.name) == (2, "C#3")
    assert len(shifts(build(Recipe("Eb"), "bass", Ease.HARDER))) >= 4
    # Whoever has the harder line has a line, also where the top is out of reach.
    for ease in Ease:
        assert build(Recipe("G", octaves=2), "bass", ease).notes
    assert build(Recipe("G", octaves=2), "bass", Ease.HARDER) == build(Recipe("G", octaves=2), "bass")


def test_a_register_is_kept() -> None:
    upper = build(Recipe("G", registers=(Register("violin", "G4"),)), "violin")
    assert said(upper, 8) == "D3 A0 A1 A2 A3 E0 E1 E2"
    dropped = build(Recipe("G", octaves=2, registers=(Register("bass", drop_after="A2"),)), "bass")
    assert [n.pitch.name for n in dropped.notes[7:11]] == ["G2", "A2", "B1", "C2"]
    with pytest.raises(UnplayableError, match="does not start on C4"):
        build(Recipe("G", registers=(Register("violin", "C4"),)), "violin")
    with pytest.raises(UnplayableError):
        build(Recipe("G", octaves=2, registers=(Register("bass", drop_after="never"),)), "bass")


def test_two_octaves_of_a_violin_do_not_plunge() -> None:
    for tonic in ("F", "Eb"):
        for key in ("violin", "viola"):
            rising = build(Recipe(tonic, octaves=2), key).notes[:15]
            assert all(b.midi > a.midi for a, b in pairwise(rising)), (tonic, key)


def test_frames_are_called_by_what_the_hand_does() -> None:
    def frames(tonic: str, key: str, octaves: int = 1) -> dict[str, str]:
        return {f.string: f.words for f in look_at(build(Recipe(tonic, octaves=octaves), key)).frames}

    assert frames("F", "violin") == {
        "D": "1-2 close", "A": "first finger close to the nut", "E": "first finger close to the nut"}  # fmt: skip
    assert frames("Eb", "violin", 2)["E"] == "first finger close to the nut, 2-3 close, low third finger"
    assert frames("Bb", "violin")["G"] == "1-2 close"
    assert frames("A", "cello") == {"G": "1-2-4, stretched forward", "D": "1-2-4, stretched forward"}
    assert frames("D", "cello") == {"D": "1-3-4", "A": "1-3-4"}
    assert frames("Bb", "bass")["A"] == "1-4, half position"


@pytest.mark.parametrize("key", INSTRUMENTS)
def test_fingers_touch_where_hands_are_small(key: str) -> None:
    told = [h.words for h in look_at(build(Recipe("D"), key)).half_steps]
    assert any("touch" in words for words in told) == (key in ("violin", "viola"))
    # Never across a shift, and no first step where a finger stands low.
    assert not any(
        "touch" in h.words for h in look_at(build(Recipe("D", octaves=2), key)).half_steps if "shift" in h.words
    )
    assert not look_at(build(Recipe("Eb", tempo_bpm=60), key)).difficulty.startswith("a first step")


@pytest.mark.parametrize("family", ["half-steps", "grow", "long-tones", "between-open"])
@pytest.mark.parametrize("key", INSTRUMENTS)
def test_a_drill_fingers_a_note_one_way(family: str, key: str) -> None:
    flats, forms = ("F", "Eb", "Ab"), (ScaleForm.MAJOR, ScaleForm.NATURAL_MINOR)
    if family == "between-open":
        # Not every key has an open string.
        flats, forms = (), (ScaleForm.MAJOR,)
    for tonic, form in product(("D", "G", "C", "A", *flats), forms):
        score = build(Recipe(tonic, family=family, form=form), key)
        places: dict[int, set[tuple[str, int]]] = {}
        for note in score.notes:
            if note.placement and not (family == "between-open" and note.placement.finger == 0):
                places.setdefault(note.midi, set()).add((note.placement.string, note.placement.finger))
        assert all(len(own) == 1 for own in places.values()), (tonic, form, places)


@pytest.mark.parametrize("policy", FourthFinger)
@pytest.mark.parametrize("key", INSTRUMENTS)
def test_a_note_that_is_repeated_keeps_the_place_that_it_has_alone(key: str, policy: FourthFinger) -> None:
    """A rhythm on each note of a scale is played with the fingers of the scale, however many strokes a note has."""

    def one_of_each(tonic: str, pattern: str) -> list[tuple[int, str, int, str]]:
        score = build(Recipe(tonic, pattern, octaves=2, fourth_finger=policy), key)
        notes = [
            (n.midi, n.placement.string, n.placement.finger, n.placement.position) for n in score.notes if n.placement
        ]
        # The top is played twice in any pattern.
        return [note for before, note in pairwise([None, *notes]) if note != before]

    for tonic in ("C", "G", "D", "A", "F", "Bb", "Eb"):
        try:
            alone = one_of_each(tonic, "quarters")
        except UnplayableError:
            continue
        for pattern in ("eighths", "quarter-eighths", "sixteenths-eighths"):
            assert one_of_each(tonic, pattern) == alone, (tonic, pattern)


def test_a_hand_moves_while_an_open_string_sounds() -> None:
    """A drill with the open string between its notes goes on from first position to third, where without it a hand would rather stay."""
    notes = [note.placement for note in build(Recipe("E", family="between-open"), "cello").notes if note.placement]
    assert {place.position for place in notes[:12] if place.finger} == {"1"}
    moved = [at for at, (one, two) in enumerate(pairwise(notes)) if one.position != two.position]
    assert moved
    assert all(0 in (notes[at].finger, notes[at + 1].finger) for at in moved)


def test_signs_over_and_under_the_notes() -> None:
    c = build(Recipe("C"), "violin")
    assert [low_or_high(c, n) for n in c.notes[:8]] == ["", "", "", "low", "", "", "", "low"]
    # On one string, by half steps over it: each finger has its usual place, one under it is low, one over it high (common practice).
    places = {
        ("Bb4", 1): "low",
        ("B4", 1): "",
        ("C5", 2): "low",
        ("C#5", 2): "high",
        ("D5", 3): "",
        ("D#5", 3): "high",
        ("Eb5", 4): "low",
        ("E5", 4): "",
    }
    line = tuple(LineNote(name, "1") for name, _ in places)
    pins = tuple(Pin("violin", at, "A", finger) for at, (_, finger) in enumerate(places))
    touched = build(Recipe("A", family="own", line=line, pins=pins), "violin")
    assert [low_or_high(touched, n) for n in touched.notes] == list(places.values())
    assert [(s.first, s.last) for s in half_steps(c)] == [(2, 3), (6, 7), (8, 9), (12, 13)]
    stays = fingers_that_stay(build(Recipe("D", fourth_finger=FourthFinger.OPEN), "violin"))
    assert (5, 10) in [(s.first, s.last) for s in stays]


def test_an_own_line_stays_where_it_was_put_in() -> None:
    """On an instrument that has it there; the others play it in an octave of theirs."""
    line = tuple(LineNote(name, "1") for name in ("A4", "F#4", "G#4"))
    recipe = Recipe("G", family="own", line=line, pins=(Pin("violin", 0, "D", 4),))
    assert [build(recipe, key).notes[0].pitch.name for key in INSTRUMENTS] == ["A4", "A4", "A3", "A1"]
    place = build(recipe, "violin").notes[0].placement
    assert place is not None
    assert (place.string, place.finger) == ("D", 4)
