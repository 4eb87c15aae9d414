"""Why a take is not judged, from the sound to the code: each reason is its own."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from attentive_owl.core.checking import check
from attentive_owl.core.exercises import LineNote, Recipe, Score, build
from attentive_owl.core.judging import Expectations, Report
from attentive_owl.core.judging.judge import judge
from attentive_owl.core.listening import OtherLine, Performance, listen
from attentive_owl.core.playing import Habits, Room
from bench.effects import speech
from tests.conftest import RATE, played

SCALE = build(Recipe("D", tempo_bpm=96), "violin")


def report(sound: np.ndarray, score: Score = SCALE, others: tuple[OtherLine, ...] = ()) -> Report:
    return check(sound, RATE, score, Expectations(score.tempo_bpm), others)


def refusal(own: Report) -> str:
    assert own.refusal is not None, own.causes
    return own.refusal.code


@pytest.mark.parametrize(("shift", "began"), [(2, "E"), (-1, "C sharp"), (5, "G"), (-4, "B flat")])
def test_another_key_is_told_by_its_first_note(shift: int, began: str) -> None:
    own = report(played(SCALE, Habits(shift_semitones=shift, scatter_cents=6)))
    assert refusal(own) == "another_key"
    assert own.refusal is not None
    assert own.refusal.words.startswith(f"You started on {began}: this line starts on D.")
    assert own.causes == []
    assert own.advice == []


def test_a_string_away_is_a_string_and_an_octave_an_octave() -> None:
    string = report(played(SCALE, Habits(shift_semitones=7)))
    assert [cause.key for cause in string.causes] == ["wrong_string"]
    octave = report(played(SCALE, Habits(shift_semitones=12)))
    assert [cause.key for cause in octave.causes] == ["octave_off"]
    assert "string" not in octave.advice[1].text
    bass = build(Recipe("D", tempo_bpm=96), "bass")
    cello = build(Recipe("D", tempo_bpm=96), "cello")
    assert refusal(report(played(cello), bass)) == "another_instrument"


def test_a_line_that_is_known_is_named_and_given_back_by_its_key() -> None:
    last_week = build(Recipe("G", tempo_bpm=96), "violin")
    own = report(played(last_week), others=(OtherLine("G major of last week", last_week, "its key"),))
    assert own.refusal is not None
    assert (own.refusal.code, own.refusal.assignment) == ("another_exercise", "its key")
    assert "G major of last week" in own.refusal.words
    # Not where the line that is open was played.
    assert report(played(SCALE), others=(OtherLine("G major of last week", last_week, "its key"),)).accepted


def test_the_upper_half_is_no_lower_half_on_another_string() -> None:
    lower, upper = (
        build(Recipe("D", tempo_bpm=96, family=family), "violin") for family in ("lower-half", "upper-half")
    )
    own = report(played(upper), lower)
    assert refusal(own) == "another_exercise"
    assert own.refusal is not None
    assert "Upper half" in own.refusal.words


def test_the_same_notes_from_the_top_are_another_line() -> None:
    turned = [*SCALE.notes[8:], *SCALE.notes[:8]]
    down_and_up = replace(
        SCALE,
        notes=tuple(
            replace(note, index=at, start_beats=old.start_beats, measure=old.measure, beat=old.beat)
            for at, (note, old) in enumerate(zip(turned, SCALE.notes, strict=True))
        ),
    )
    own = report(played(down_and_up))
    assert refusal(own) == "another_exercise"
    assert own.refusal is not None
    assert "from the top" in own.refusal.words


def test_long_for_short_and_short_for_long_are_told_as_what_was_heard() -> None:
    long, short = (build(Recipe("D", pattern, 88), "cello") for pattern in ("quarters", "sixteenths-eighths"))
    held = report(played(long), short)
    assert refusal(held) == "another_rhythm"
    assert held.refusal is not None
    assert held.refusal.words.startswith("You played long notes; sixteenths and eighths are on your page.")
    struck = report(played(short), long)
    assert refusal(struck) == "another_rhythm"
    assert struck.refusal is not None
    assert struck.refusal.words.startswith("You played “Four sixteenths, two eighths”, and “Quarters” is on your page.")


@pytest.mark.parametrize(
    ("given", "pattern", "said"),
    [
        ("G", "sixteenths-eighths", "You started on G: this line starts on D. The rhythm was another one, too."),
        ("A", "sixteenths-eighths", "You started on A: this line starts on D. The rhythm was another one, too."),
        ("G", "quarters", None),
    ],
)
def test_another_string_and_another_rhythm_are_both_told(given: str, pattern: str, said: str | None) -> None:
    """It is not said to be the line of the page in another rhythm."""
    own = report(played(build(Recipe(given, pattern, 84), "violin"), Habits(scatter_cents=5)))
    assert (own.refusal.words[: len(said or "")] if own.refusal else None) == said
    if said:
        assert refusal(own) == "another_rhythm"
    else:
        assert [cause.key for cause in own.causes] == ["wrong_string"]


@pytest.mark.parametrize(
    ("pattern", "second_at", "shift", "said"),
    [
        ("eighths", 0.5, 0, None),
        ("eighths", 0.75, 0, "You played long and short notes in turn; eighths are on your page."),
        ("eighths", 0.75, -7, "You started on G: this line starts on D. The rhythm was another one, too."),
        ("eighths", 0.75, 12, "That was an octave too high. The rhythm was another one, too."),
        ("half-quarter", 2 / 3, 0, None),
        ("half-quarter", 0.5, 0, "You played even notes; quarters and half notes are on your page."),
    ],
)
def test_a_rhythm_that_only_the_times_tell_is_told(
    pattern: str, second_at: float, shift: int, said: str | None
) -> None:
    """`second_at`: where in its pair of notes the second one begins; no stroke is off its note, so the ear heard the line."""
    score = build(Recipe("D", pattern, 84), "violin")
    heard = listen(played(score), RATE, score)
    assert isinstance(heard, Performance)
    notes = list(heard.chosen.notes)
    for at in range(0, len(notes) - 2, 2):
        first, after = notes[at].onset_s, notes[at + 2].onset_s
        assert first is not None
        assert after is not None
        moved = first + second_at * (after - first)
        notes[at] = replace(notes[at], offset_s=moved)
        notes[at + 1] = replace(notes[at + 1], onset_s=moved)
    told = replace(heard, passes=(replace(heard.chosen, notes=tuple(notes)),), shift_semitones=shift)
    own = judge(told, score, Expectations(score.tempo_bpm))
    assert (own.refusal.words[: len(said or "")] if own.refusal else None) == said


@pytest.mark.parametrize(
    ("instrument", "asked", "given", "uneven"),
    [
        ("violin", "eighths", "eighths", 0.75),
        ("cello", "eighths", "eighths", 0.8),
        ("cello", "dotted", "eighths", 0.5),
        ("violin", "sixteenths-eighths", "eighths", 0.5),
    ],
)
@pytest.mark.parametrize(
    ("shift", "said"),
    [(2, "You started on E: this line starts on D."), (-2, "You started on C: this line starts on D."), (0, None)],
)
def test_another_key_in_another_rhythm_is_another_key(
    instrument: str, asked: str, given: str, uneven: float, shift: int, said: str | None
) -> None:
    """It is not called the line of the page in another rhythm; that is said in its own key alone."""
    asked_for, line = (build(Recipe("D", pattern, 84), instrument) for pattern in (asked, given))
    habits = Habits(shift_semitones=shift, uneven=uneven, scatter_cents=6, timing_ms=12)
    own = report(played(line, habits, seed=3), asked_for)
    assert refusal(own) == ("another_key" if shift else "another_rhythm")
    assert own.refusal is not None
    assert own.refusal.words.startswith(said) if said else "started" not in own.refusal.words


@pytest.mark.parametrize(("scratched_s", "code"), [(0.24, "no_clear_notes"), (0.03, "not_this_exercise")])
def test_what_has_mostly_no_pitch_is_not_called_another_line(scratched_s: float, code: str) -> None:
    """Short notes of some line behind long or short scratches, with the bow off in between: the room is quiet."""
    rng = np.random.default_rng(5)
    quiet = rng.normal(0, 3e-4, RATE // 8)
    sound = [quiet]
    for at, midi in enumerate((62, 71, 63, 70, 61, 73, 65, 60) * 4):
        scratch = rng.normal(0, 0.08, int(scratched_s * RATE))
        time = np.arange(int(0.1 * RATE)) / RATE
        tone = sum(np.sin(2 * np.pi * n * 440 * 2 ** ((midi - 69) / 12) * time + at) / n for n in range(1, 9))
        sound += [scratch, 0.1 * np.hanning(len(time)) ** 0.2 * tone, quiet]
    assert refusal(report(np.concatenate(sound).astype(np.float32))) == code


def test_three_to_one_is_another_rhythm_and_three_to_two_is_uneven() -> None:
    eighths = build(Recipe("D", "eighths", 76), "violin")
    dotted = report(played(eighths, Habits(uneven=0.75)), eighths)
    assert refusal(dotted) == "another_rhythm"
    uneven = report(played(eighths, Habits(uneven=0.6, scatter_cents=4)), eighths)
    assert [cause.kind for cause in uneven.causes] == ["uneven"]


@pytest.mark.parametrize("air_ms", [0, 40, 80, 150])
def test_air_between_the_bows_is_no_other_rhythm(air_ms: int) -> None:
    eighths = build(Recipe("D", "eighths", 76), "viola")
    own = report(played(eighths, Habits(air_ms=air_ms, scatter_cents=5, timing_ms=10)), eighths)
    assert own.accepted
    assert own.causes == []


def test_what_the_sound_itself_says_goes_first() -> None:
    sound = played(SCALE)
    rng = np.random.default_rng(3)
    assert refusal(report(played(SCALE, room=Room(4.0)))) == "too_noisy"
    far = 0.004 * sound + rng.normal(0, 0.0007, len(sound))
    assert refusal(report(far.astype(np.float32))) == "too_far"
    assert refusal(report(speech(10.0, 0.1, rng) + rng.normal(0, 0.002, 10 * RATE).astype(np.float32))) == "voices"
    assert refusal(report(0 * sound)) == "silence"


@pytest.mark.parametrize(("level_db", "code"), [(-65, "silence"), (-55, "silence"), (-25, "too_noisy")])
def test_noise_with_nothing_in_it_is_no_player_far_away(level_db: float, code: str) -> None:
    noise = np.random.default_rng(3).standard_normal(6 * RATE) * 10 ** (level_db / 20)
    assert refusal(report(noise.astype(np.float32))) == code


def test_notes_that_only_a_loudspeaker_plays_are_not_heard_as_the_pupils() -> None:
    """A demonstration plays along, 15 dB under the pupil, who leaves two notes out."""
    along = played(SCALE, Habits(), seed=9)
    own = played(SCALE, Habits(missed=(5, 10), scatter_cents=5, timing_ms=10))
    count = min(len(along), len(own))
    mixed = (own[:count] + along[:count] * 10 ** (-15 / 20)).astype(np.float32)
    heard = report(mixed)
    assert [heard.notes[index].status for index in (5, 10)] == ["unclear", "unclear"]
    assert all(note.status == "played" for note in heard.notes if note.index not in (5, 10))


def test_a_line_is_named_by_its_first_note_and_not_by_its_last() -> None:
    names = ("D4", "E4", "F#4", "E4", "F#4", "G4", "A4", "G4", "F#4", "A4", "B4", "A4")
    line = build(Recipe("D", tempo_bpm=96, family="own", line=tuple(LineNote(name, "1") for name in names)), "violin")
    own = report(played(line, Habits(shift_semitones=2, scatter_cents=6)), line)
    assert refusal(own) == "another_key"
    assert own.refusal is not None
    assert own.refusal.words == "You started on E: this line starts on D. Find D, and play it from there."


def test_a_line_on_another_string_is_sure() -> None:
    own = report(played(SCALE, Habits(shift_semitones=7)))
    assert [(cause.sure, cause.cents) for cause in own.causes] == [(True, 700.0)]
