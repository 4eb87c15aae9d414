"""The families of exercises on every instrument; scales and signatures against music21; the ear hears each family."""

from __future__ import annotations

from fractions import Fraction
from itertools import groupby, pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from music21 import converter
from music21 import key as m21_key
from music21 import scale as m21_scale

from attentive_owl.core.exercises import (
    FAMILIES,
    PATHS,
    PATTERNS,
    Bowing,
    Direction,
    LineNote,
    Pin,
    Recipe,
    RecipeError,
    Register,
    build,
    look_at,
    neighbours,
    pattern,
    title,
)
from attentive_owl.core.instruments import INSTRUMENTS, UnplayableError
from attentive_owl.core.listening import Performance, listen
from attentive_owl.core.playing import Habits, Room, perform_score, place_in_room, render
from attentive_owl.core.theory import KeySignature, NoteNames, ScaleForm, say
from attentive_owl.formats.musicxml import write_musicxml

LINE = tuple(LineNote(name, beats) for name, beats in (("D4", "1"), ("F#4", "1/2"), (None, "1/2"), ("A4", "2")))
TONICS = ("D", "G", "C", "A", "F", "Bb", "Eb")
THEIRS = {
    ScaleForm.MAJOR: m21_scale.MajorScale,
    ScaleForm.NATURAL_MINOR: m21_scale.MinorScale,
    ScaleForm.HARMONIC_MINOR: m21_scale.HarmonicMinorScale,
    ScaleForm.MELODIC_MINOR: m21_scale.MelodicMinorScale,
}


def classes(names: list[str]) -> list[str]:
    return [name.rstrip("0123456789") for name in names]


@pytest.mark.parametrize("form", ScaleForm)
@pytest.mark.parametrize("tonic", TONICS)
def test_every_form_is_spelt_as_music21_spells_it(form: ScaleForm, tonic: str) -> None:
    own = build(Recipe(tonic, form=form, direction=Direction.UP_AND_DOWN), "violin")
    theirs = THEIRS[form](tonic.replace("b", "-"))
    spelt = lambda pitches: [p.name.replace("-", "b") for p in pitches]  # noqa: E731
    up = spelt(
        theirs.getPitches(
            f"{tonic.replace('b', '-')}4", f"{tonic.replace('b', '-')}5", direction=m21_scale.Direction.ASCENDING
        )
    )
    down = spelt(
        theirs.getPitches(
            f"{tonic.replace('b', '-')}4", f"{tonic.replace('b', '-')}5", direction=m21_scale.Direction.DESCENDING
        )
    )
    if down[0] != tonic or len(down) != 8:
        down = down[::-1]
    assert classes([n.pitch.name for n in own.notes[:8]]) == up
    assert classes([n.pitch.name for n in own.notes[8:]]) in (down, down[::-1])


@pytest.mark.parametrize("form", ScaleForm)
def test_a_raised_note_carries_its_sign_in_the_file(form: ScaleForm) -> None:
    """music21 reads the file: sounding pitches, and a printed sign just where the signature says something else."""
    score = build(Recipe("G", form=form), "violin")
    part = converter.parse(write_musicxml(score), format="musicxml").parts[0]
    notes = list(part.flatten().notes)
    assert [n.pitch.midi for n in notes] == [n.midi for n in score.notes]
    signature = m21_key.KeySignature(score.key.fifths)
    for note in notes:
        expected = signature.accidentalByStep(note.pitch.step)
        usual = expected.alter if expected else 0
        if note.pitch.alter != usual:
            assert note.pitch.accidental is not None
            assert note.pitch.accidental.displayStatus is True
    assert "<accidental>" in write_musicxml(score).decode() or form in (ScaleForm.MAJOR, ScaleForm.NATURAL_MINOR)


def test_arpeggio_and_thirds_are_the_degrees_they_say() -> None:
    arpeggio = build(Recipe("D", family="arpeggio", octaves=2, direction=Direction.UP), "violin")
    assert [n.pitch.name for n in arpeggio.notes] == ["D4", "F#4", "A4", "D5", "F#5", "A5", "D6"]
    thirds = build(Recipe("G", family="thirds", direction=Direction.UP), "cello")
    steps = [b.pitch.diatonic - a.pitch.diatonic for a, b in zip(thirds.notes[:-1:2], thirds.notes[1::2], strict=True)]
    assert set(steps) == {2}


@pytest.mark.parametrize(
    ("family", "key"),
    [
        (family, key)
        for place, family in enumerate(FAMILIES)
        for key in (*INSTRUMENTS, *INSTRUMENTS)[place % 4 : place % 4 + 2]
    ],
)
def test_every_family_is_heard_as_it_was_played(family: str, key: str) -> None:
    """A simulated pupil plays it, the ear hears every note and nothing else. On two instruments each, in turn."""
    recipe = Recipe(family=family, line=LINE, tempo_bpm=100)
    score = build(recipe, key)
    performed = perform_score(score, Habits(scatter_cents=5, timing_ms=10), 3)
    sound = place_in_room(render(performed, key, 44100, 3)[0], 44100, Room(40, 0.2), 3)
    heard = listen(sound, 44100, score)
    assert isinstance(heard, Performance)
    assert {note.status for note in heard.chosen.notes} == {"played"}
    assert heard.strays == ()


@pytest.mark.parametrize("key", INSTRUMENTS)
@pytest.mark.parametrize("family", FAMILIES)
def test_every_family_has_its_notes_under_the_fingers(family: str, key: str) -> None:
    score = build(Recipe(family=family, line=LINE), key)
    for note in score.notes:
        assert note.placement is not None
        assert score.instrument.string(note.placement.string).pitch.midi + note.placement.semitones == note.midi


def test_a_double_bass_drops_an_octave_where_its_easy_positions_end() -> None:
    score = build(Recipe("G", octaves=2), "bass")
    assert [n.pitch.name for n in score.notes[:15]] == [
        "G1", "A1", "B1", "C2", "D2", "E2", "F#2", "G2", "A1", "B1", "C2", "D2", "E2", "F#2", "G2"]  # fmt: skip


@pytest.mark.parametrize(
    ("bowing", "groups"),
    [(Bowing.SLUR_2, [2, 2, 2, 2, 2, 2, 2, 2]), (Bowing.SLUR_3, [3, 3, 2, 3, 3, 2]), (Bowing.SLUR_4, [4, 4, 4, 4])],
)
def test_slurs_take_so_many_notes_and_never_a_repeated_one(bowing: Bowing, groups: list[int]) -> None:
    score = build(Recipe("D", bowing=bowing), "violin")
    found: list[list[int]] = []
    for note in score.notes:
        if note.index and note.slurred_from(score.notes[note.index - 1]):
            found[-1].append(note.index)
        else:
            found.append([note.index])
    assert [len(group) for group in found] == groups
    bows = [score.notes[group[0]].bow for group in found]
    assert all(a != b for a, b in pairwise(bows))


def test_a_pickup_stands_before_the_first_measure_and_starts_up() -> None:
    score = build(Recipe("D", "quarter-eighths", pickup=True), "violin")
    assert (score.notes[0].measure, score.notes[0].bow) == (0, "up")
    assert (score.notes[1].measure, score.notes[1].beat, score.notes[1].bow) == (1, 1, "down")


def test_pins_are_kept_and_only_on_their_instrument() -> None:
    recipe = Recipe("D", pins=(Pin("violin", 4, "D", 4),))
    violin, viola = build(recipe, "violin"), build(recipe, "viola")
    places = [score.notes[4].placement for score in (violin, viola)]
    assert [(place.string, place.finger) for place in places if place] == [("D", 4), ("A", 0)]
    with pytest.raises(UnplayableError):
        build(Recipe("D", pins=(Pin("violin", 0, "E", 1),)), "violin")


@settings(deadline=None, max_examples=40)
@given(st.integers(0, 10_000), st.sampled_from(TONICS), st.sampled_from(sorted(INSTRUMENTS)))
def test_echo_phrases_stay_in_the_octave_and_come_home(seed: int, tonic: str, key: str) -> None:
    score = build(Recipe(tonic, family="echo", seed=seed), key)
    assert score == build(Recipe(tonic, family="echo", seed=seed), key)
    assert score.notes[-1].pitch.step == tonic[0]
    assert max(n.midi for n in score.notes) - min(n.midi for n in score.notes) <= 12
    assert score.end_beats == 16
    assert all(abs(b.pitch.diatonic - a.pitch.diatonic) <= 7 for a, b in pairwise(score.notes))


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"octaves": 3}, "one octave or two"),
        ({"family": "polka"}, "none of the exercises"),
        ({"cue": ("a", "b")}, "1 spoken syllables"),
        ({"tonic": "G#"}, "seven"),
        ({"meter": "5/4"}, "none of 4/4"),
    ],
)
def test_what_makes_no_exercise_says_why(change: dict, words: str) -> None:  # type: ignore[type-arg]
    with pytest.raises(RecipeError, match=words):
        build(Recipe(**{"tonic": "D", **change}), "violin")


def test_an_own_line_needs_a_note_and_readable_lengths() -> None:
    with pytest.raises(RecipeError, match="no notes yet"):
        build(Recipe(family="own"), "violin")
    with pytest.raises(RecipeError, match="lasts a fraction of a beat"):
        LineNote("D4", "1/0")
    with pytest.raises(RecipeError, match="is no length that is written"):
        build(Recipe(family="own", line=(LineNote("D4", "1/3"),)), "violin")


def test_the_seven_keys_fit_every_instrument_and_every_path_can_be_played() -> None:
    for key in INSTRUMENTS:
        for tonic in TONICS:
            build(Recipe(tonic), key)
    for path in PATHS:
        for step in path.steps:
            for key in INSTRUMENTS:
                assert build(step, key).notes, (path.name, title(step))


@given(st.sampled_from(sorted(PATTERNS)))
def test_a_pattern_fits_its_meters(key: str) -> None:
    own = pattern(key)
    assert own.meters
    for name in own.meters:
        beats, unit = map(int, name.split("/"))
        length = Fraction(4 * beats, unit)
        assert length % own.beats == 0 or own.beats % length == 0


def test_what_a_teacher_would_tell_of_c_major_on_a_violin() -> None:
    """Half steps of C major are E-F and B-C; on violin second finger low on D and A (common practice)."""
    found = look_at(build(Recipe("C"), "violin"))
    assert found.signature == "no sharps or flats"
    assert [(h.low, h.high) for h in found.half_steps] == [("E", "F"), ("B", "C")]
    assert {f.string: f.words for f in found.frames}["D"] == "1-2 close"
    assert found.shifts == ()
    assert "some work" in look_at(build(Recipe("D"), "bass")).difficulty
    assert neighbours(build(Recipe("D"), "violin"), 2) == ("E", "G")


@pytest.mark.parametrize("tonic", TONICS)
def test_signatures_are_those_of_music21(tonic: str) -> None:
    theirs = [p.name[0] for p in m21_key.Key(tonic.replace("b", "-")).alteredPitches]
    said = look_at(build(Recipe(tonic), "viola")).signature
    assert said.split(": ")[-1].split(", ") == theirs or (not theirs and said == "no sharps or flats")


def test_new_things_are_what_was_not_asked_before() -> None:
    d, g = (look_at(build(Recipe(tonic), "violin")).features for tonic in ("D", "G"))
    assert g - d == {"the key of G major", "the G string", "2-3 close on G"}
    assert "slurs" in look_at(build(Recipe("D", bowing=Bowing.SLUR_2), "violin")).features - d


def test_difficulty_grows_with_what_is_asked() -> None:
    order = ["a first step", "easy going", "some work", "a climb"]
    words = [
        look_at(build(recipe, "violin")).difficulty.split(":")[0]
        for recipe in (Recipe("D", tempo_bpm=60), Recipe("C", "sixteenths", tempo_bpm=60), Recipe("Eb", "sixteenths", 120, octaves=2))
    ]  # fmt: skip
    ranks = [order.index(word) for word in words]
    assert ranks == sorted(ranks)
    assert ranks[0] < ranks[-1]


def test_note_names_fixed_and_movable() -> None:
    """Tonic sol-fa: do is the tonic, a minor scale begins on la (common practice); fixed do is C."""
    d = build(Recipe("D"), "violin").notes
    assert [say(n.pitch, NoteNames.MOVABLE, KeySignature.of("D")) for n in d[:8]] == [
        "do",
        "re",
        "mi",
        "fa",
        "sol",
        "la",
        "ti",
        "do",
    ]
    assert [say(n.pitch, NoteNames.FIXED) for n in d[:4]] == ["re", "mi", "fa sharp", "sol"]
    minor = build(Recipe("A", form=ScaleForm.HARMONIC_MINOR), "violin")
    said = [say(n.pitch, NoteNames.MOVABLE, minor.key) for n in minor.notes[:8]]
    assert said == ["la", "ti", "do", "re", "mi", "fa", "sol sharp", "la"]
    assert [say(n.pitch) for n in d[:3]] == ["D", "E", "F sharp"]
    flat = build(Recipe("Eb"), "cello")
    assert [say(n.pitch, NoteNames.MOVABLE, flat.key) for n in flat.notes[:3]] == ["do", "re", "mi"]


@pytest.mark.parametrize(
    ("rung", "each", "lasts", "slurred"), [(1, 4, 1.0, 0), (3, 2, 0.25, 0), (4, 1, 0.25, 0), (5, 1, 0.25, 4)]
)
def test_a_rung_of_the_ladder_plays_every_degree_so_often_and_so_fast(
    rung: int, each: int, lasts: float, slurred: int
) -> None:
    score = build(Recipe("D", family="ladder", rung=rung), "violin")
    scale = [note.midi for note in build(Recipe("D"), "violin").notes]
    assert [note.midi for note in score.notes] == [midi for midi in scale for _ in range(each)]
    assert {float(note.duration_beats) for note in score.notes} == {lasts}
    assert float(score.end_beats) == len(scale) * each * lasts
    slurs = [[note.index for note in own] for slur, own in groupby(score.notes, lambda n: n.slur) if slur is not None]
    assert slurs == ([[at, at + 1, at + 2, at + 3] for at in range(0, 16, 4)] if slurred else [])


def test_the_second_finger_s_drill_has_its_two_places_after_the_first() -> None:
    score = build(Recipe("D", family="second-finger", string="A"), "violin")
    names = "A4 B4 C5 B4 A4 B4 C#5 B4 C5 C#5 C5 C#5 B4 A4"
    assert " ".join(note.pitch.name for note in score.notes) == names


@pytest.mark.parametrize(("bars", "words"), [((2, 2), "bar 2"), ((1, 3), "bars 1 to 3")])
def test_a_piece_is_called_by_its_bars(bars: tuple[int, int], words: str) -> None:
    assert title(Recipe("D", bars=bars)) == f"D major, one octave, quarters, {words}"


def test_the_chromatic_drill_on_two_strings() -> None:
    """The fourth over an open string of the bass is the next string: its third note there is played on that."""
    violin, bass = (build(Recipe("D", family="chromatic", string="A"), key) for key in ("violin", "bass"))
    up = ["A4", "B4", "C5", "C#5", "D5", "E5", "F#5", "G5", "G#5", "A5"]
    assert [note.pitch.name for note in violin.notes] == [*up, *reversed(up)]
    # A fourth over A is the open D.
    up = ["A1", "B1", "C2", "C#2", "D2", "E2", "F2", "F#2"]
    assert [note.pitch.name for note in bass.notes] == [*up, *reversed(up)]


def test_a_line_that_ends_elsewhere_starts_where_it_is_told_to() -> None:
    """Up an octave it ends where another one begins."""
    up = Recipe("D", direction=Direction.UP, registers=(Register("violin", start="D5"),))
    notes = build(up, "violin").notes
    assert [notes[0].pitch.name, notes[-1].pitch.name] == ["D5", "D6"]


@pytest.mark.parametrize(("beats", "fits"), [("16", True), ("17", False), ("0", False), ("1/8", True)])
def test_a_note_of_a_line_lasts_up_to_sixteen_beats(beats: str, fits: bool) -> None:
    if fits:
        assert LineNote("D4", beats).beats == beats
    else:
        with pytest.raises(RecipeError, match="up to 16 beats"):
            LineNote("D4", beats)


def test_a_range_of_more_than_an_octave_makes_a_line_harder() -> None:
    one, two = (look_at(build(Recipe("G", octaves=octaves), "violin")).difficulty for octaves in (1, 2))
    assert ("over an octave" in one, "over an octave" in two) == (False, True)
