"""Every sentence that the program can say of a take, cause by cause and refusal by refusal, each way round: `python -m bench.advice
--write docs/advice.md`. A test holds the document against what is said now."""

from __future__ import annotations

import argparse
from collections.abc import Iterator
from pathlib import Path

from attentive_owl.core.exercises import Recipe, Score, build
from attentive_owl.core.instruments import INSTRUMENTS
from attentive_owl.core.judging.cause import Cause
from attentive_owl.core.judging.findings import FINDINGS
from attentive_owl.core.judging.refusals import REFUSALS, TITLES, refusal_words
from attentive_owl.core.judging.speech import Speaker, Words
from attentive_owl.core.listening.performance import Refusal
from attentive_owl.core.theory import NoteValues

_LINES: dict[str, Score] = {
    "violin": build(Recipe("D", tempo_bpm=72), "violin"),
    "violin, two octaves": build(Recipe("G", tempo_bpm=72, octaves=2), "violin"),
    "violin, eighths": build(Recipe("D", "eighths", 72), "violin"),
    "violin, dotted": build(Recipe("D", "dotted", 72), "violin"),
    "violin, halves": build(Recipe("D", "half-quarter", 72), "violin"),
    "cello": build(Recipe("D", tempo_bpm=72), "cello"),
    "double bass": build(Recipe("D", tempo_bpm=72), "bass"),
}
_SECOND = (2, 6, 9, 13)


def _hand(kind: str, cents: float, *, finger: int | None = None, notes: tuple[int, ...] = _SECOND) -> Cause:
    towards = "bridge" if cents < 0 else "scroll"
    return Cause(kind, notes, 0.9, finger=finger, cents=cents, mm=4.2, towards=towards)


def _time(kind: str, notes: tuple[int, ...], **detail: float | str) -> Cause:
    return Cause(kind, notes, 0.9, detail=detail)


EXAMPLES: tuple[tuple[str, str, tuple[Cause, ...]], ...] = (
    ("a fifth low", "violin", (Cause("wrong_string", (0,), 0.9, cents=-700.0),)),
    ("a fifth high", "violin", (Cause("wrong_string", (0,), 0.9, cents=700.0),)),
    ("an octave low", "violin", (Cause("octave_off", (0,), 0.9, cents=-1200.0),)),
    ("an octave high", "violin", (Cause("octave_off", (0,), 0.9, cents=1200.0),)),
    ("low", "violin", (Cause("instrument", (0,), 0.9, cents=-31.0),)),
    ("high", "cello", (Cause("instrument", (0,), 0.9, cents=24.0),)),
    ("low", "double bass", (Cause("instrument", (0,), 0.9, cents=-31.0),)),
    ("one low", "violin", (Cause("string", (0,), 0.9, "D", cents=-34.0),)),
    ("one high", "violin", (Cause("string", (0,), 0.9, "A", cents=22.0),)),
    ("two low", "violin", (Cause("string", (0,), 0.9, "D", cents=-34.0), Cause("string", (0,), 0.9, "A", cents=-22.0))),
    ("one low, one high", "cello", (Cause("string", (0,), 0.9, "D", cents=-34.0), Cause("string", (0,), 0.9, "A", cents=22.0))),
    (
        "two low, one high",
        "violin",
        tuple(Cause("string", (0,), 0.9, name, cents=cents) for name, cents in (("D", -34.0), ("A", -22.0), ("E", 18.0))),
    ),
    ("two signs", "violin", (Cause("key_signature", (2, 6, 9, 13), 0.9),)),
    ("one sign", "violin", (Cause("key_signature", (2, 13), 0.9),)),
    ("too low", "violin", (Cause("place", (2, 13), 0.9, "D", 2, -98.0),)),
    ("too high", "violin", (Cause("place", (3, 12), 0.9, "D", 3, 101.0),)),
    ("after a whole measure", "violin", (Cause("ended_early", (3,), 0.9),)),
    ("in the middle of a measure", "violin", (Cause("ended_early", (5,), 0.9),)),
    ("up alone", "violin", (Cause("one_way", (7,), 0.9),)),
    ("below the top", "violin", (Cause("turned_early", (4,), 0.9),)),
    ("at the third measure", "violin", (Cause("joined_late", (8,), 0.9),)),
    ("one", "violin", (Cause("skipped", (5,), 0.9),)),
    ("two", "violin", (Cause("skipped", (5, 9), 0.9),)),
    ("a passage", "violin", (Cause("skipped", (4, 5, 6, 7), 0.9),)),
    ("a passage over two measures", "violin", (Cause("skipped", (6, 7, 8, 9), 0.9),)),
    ("many", "violin", (Cause("skipped", (1, 5, 9, 12), 0.9),)),
    ("one", "violin", (Cause("stray", (5,), 0.9),)),
    ("three", "violin", (Cause("stray", (5, 9, 11), 0.9),)),
    ("low", "violin", (_hand("hand", -33.0),)),
    ("high", "violin", (_hand("hand", 33.0),)),
    (
        "low, and no open string was heard",
        "violin",
        (Cause("hand", _SECOND, 0.5, cents=-30.0, mm=5.1, towards="bridge", detail={"or": "strings"}),),
    ),
    ("low, with a tape there", "violin", (_hand("finger", -32.0, finger=2),)),
    ("high", "cello", (_hand("finger", 32.0, finger=3),)),
    ("low", "violin", (_hand("one_place", -34.0, finger=2, notes=(6, 9)),)),
    ("high, on two strings", "violin, two octaves", (_hand("one_place", 34.0, finger=2, notes=(10, 14, 15, 19)),)),
    ("wide", "violin", (_hand("half_step", 34.0),)),
    ("narrow", "violin", (_hand("half_step", -34.0),)),
    ("wide", "cello", (_hand("half_step", 34.0),)),
    ("low", "violin", (_hand("octave", -30.0, notes=(7, 8)),)),
    ("low", "violin", (_hand("direction", -30.0),)),
    ("high", "violin", (_hand("direction", 30.0),)),
    ("low", "violin", (_hand("crossing", -30.0),)),
    ("all along", "violin", (_hand("sinking", -38.0),)),
    ("all fingers", "violin", (Cause("scatter", (2, 6), 0.8, cents=29.0),)),
    ("one finger", "violin", (Cause("scatter", (3, 7), 0.8, finger=3, cents=29.0),)),
    ("from underneath", "violin", (Cause("settling_in", (2, 6, 9), 0.8, cents=-40.0),)),
    ("from above", "violin", (Cause("settling_in", (2, 6, 9), 0.8, cents=40.0),)),
    ("they sound", "violin", (_time("rest", (1, 5), rests=2.0, of=3.0),)),
    ("held", "violin", (_time("staccato", (1, 2, 3, 4), percent=92.0),)),
    ("too soon silent", "violin, halves", (_time("cut_short", (0, 2, 4), percent=52.0),)),
    ("a restart", "violin", (_time("restart", (4,), reached=6.0),)),
    ("two restarts", "violin", (_time("restart", (4,), reached=6.0), _time("restart", (8,), reached=9.0))),
    ("one, at a crossing", "violin", (_time("stop", (4,), seconds=1.2, place="crossing"),)),
    ("two", "violin", (_time("stop", (4,), seconds=1.2, place="crossing"), _time("stop", (9,), seconds=0.7))),
    (
        "four",
        "violin",
        tuple(_time("stop", (at,), seconds=2.0 - at / 10) for at in (2, 5, 9, 13)),
    ),
    ("too soon", "violin", (_time("rest_short", (2, 6, 10), percent=-40.0),)),
    ("too late", "violin", (_time("rest_long", (2, 6, 10), percent=35.0),)),
    ("before a shift", "violin", (_time("shift_late", (4, 9, 12), percent=25.0),)),
    ("before a string", "violin", (_time("crossing_late", (4, 11, 12), percent=25.0),)),
    ("before a bow", "violin", (_time("bow_late", (4, 8, 12), percent=25.0),)),
    ("slow", "violin, eighths", (_time("note_value", (0, 1, 2, 3), beats=0.5, percent=18.0),)),
    ("fast", "violin, eighths", (_time("note_value", (0, 1, 2, 3), beats=0.5, percent=-18.0),)),
    ("long ones too short", "violin, halves", (_time("note_value", (0, 2, 4, 6), beats=2.0, percent=-28.0),)),
    ("long ones too long", "violin, halves", (_time("note_value", (0, 2, 4, 6), beats=2.0, percent=22.0),)),
    ("dotted as triplets", "violin, dotted", (_time("note_value", (1, 3, 5), beats=0.5, percent=33.0, like="triplets"),)),
    ("long, short", "violin, eighths", (_time("uneven", (0, 2, 4, 6), beats=0.5, first=60.0),)),
    ("short, long", "violin, eighths", (_time("uneven", (0, 2, 4, 6), beats=0.5, first=41.0),)),
    ("one measure", "violin", (_time("rushed", (4, 5, 6, 7), percent=24.0, measure=2.0),)),
    (
        "two measures",
        "violin",
        tuple(_time("rushed", notes, percent=by, measure=n) for n, notes, by in ((2.0, (4, 7), 24.0), (4.0, (12, 15), 15.0))),
    ),
    ("faster", "violin", (_time("drift", tuple(range(16)), percent=18.0),)),
    ("slower", "violin", (_time("drift", tuple(range(16)), percent=-18.0),)),
)  # fmt: skip
"""(which way, on which line, the causes)."""

_REFUSED: tuple[tuple[str, str, Refusal], ...] = tuple(
    (way, line, Refusal(code, 40.0, 0.0, (), 10.0, **details))  # type: ignore[arg-type]
    for way, line, code, details in (
        ("", "violin", "silence", {}),
        ("", "violin", "too_short", {}),
        ("", "violin", "too_far", {}),
        ("", "violin", "too_noisy", {}),
        ("", "violin", "voices", {}),
        ("", "violin", "no_clear_notes", {}),
        ("a whole step high", "violin", "another_key", {"shift_semitones": 2}),
        ("a half step low", "violin", "another_key", {"shift_semitones": -1}),
        ("high", "cello", "another_octave", {"shift_semitones": 12}),
        ("low", "violin", "another_octave", {"shift_semitones": -12}),
        ("it is known whose", "cello", "another_instrument", {"sounds_like": "violin", "shift_semitones": 12}),
        ("by whose strings hold it", "cello", "another_instrument", {"shift_semitones": 12}),
        ("long notes", "violin, eighths", "another_rhythm", {"rhythm": "long"}),
        ("more notes", "violin", "another_rhythm", {"rhythm": "short"}),
        ("fewer notes", "violin, eighths", "another_rhythm", {"rhythm": "fewer"}),
        (
            "it is known which pattern",
            "violin, eighths",
            "another_rhythm",
            {"rhythm": "other", "pattern": "Dotted quarter, eighth", "written_pattern": "Eighths"},
        ),
        ("long and short", "violin, eighths", "another_rhythm", {"rhythm": "dotted"}),
        ("all alike", "violin, halves", "another_rhythm", {"rhythm": "even"}),
        ("it is not known how", "violin", "another_rhythm", {}),
        (
            "on the next string",
            "violin",
            "another_rhythm",
            {"rhythm": "long", "shift_semitones": -7},
        ),
        ("an octave away", "violin", "another_rhythm", {"rhythm": "long", "shift_semitones": 12}),
        ("it is known which", "violin", "another_exercise", {"sounds_like": "Broken thirds, D major"}),
        (
            "one of the pupil's own",
            "violin",
            "another_exercise",
            {"sounds_like": "G major, one octave, quarters (due Saturday, 21 November)", "known_as": "an id"},
        ),
        ("", "violin", "not_this_exercise", {}),
    )
)


def said(values: NoteValues = NoteValues.QUARTER) -> Iterator[tuple[str, str, str, Words]]:
    """(kind or code, title, which way, the words) of every example."""
    for way, line, causes in EXAMPLES:
        score = _LINES[line]
        speaker = Speaker(score, values=values, tapes=INSTRUMENTS[score.instrument_key].tapes)
        finding = FINDINGS[causes[0].kind]
        yield finding.kind, finding.title(causes[0], speaker), f"{way} ({line})", finding.say(causes, speaker)
    for way, line, refusal in _REFUSED:
        speaker = Speaker(_LINES[line], values=values)
        yield refusal.code, TITLES[refusal.code], f"{way} ({line})".strip(), refusal_words(refusal, speaker)


def document() -> str:
    lines = [
        "# What it says",
        "",
        "Every cause and every refusal, each way round, in the words that the child, the grown-up at home and the teacher read.",
        "Made by `python -m bench.advice --write docs/advice.md`; a test holds it against what is said now. The figures are examples.",
    ]
    kind = None
    for own, title, way, words in said():
        if own != kind:
            lines += ["", f"## `{own}`" if own in FINDINGS else f"## Not judged: `{own}`"]
            kind = own
        lines += [
            "",
            f"**{title}** · {way}",
            "",
            f"- child: {words.child}",
            f"- grown-up: {words.parent}",
            f"- teacher: {words.teacher}",
        ]
    return "\n".join(lines) + "\n"


def missing() -> set[str]:
    """Kinds and codes that have no example."""
    return (set(FINDINGS) | set(REFUSALS)) - {own for own, *_ in said()}


def main() -> None:
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--write", type=Path)
    chosen = options.parse_args()
    if chosen.write:
        chosen.write.write_text(document(), encoding="utf-8")
    else:
        print(document())


if __name__ == "__main__":
    main()
