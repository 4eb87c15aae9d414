"""Lays all fingerings of scales out as docs/fingerings.md: `python -m bench.fingerings` prints it, --write
writes it."""

from __future__ import annotations

import argparse
from pathlib import Path

from attentive_owl.core.exercises import Recipe, Score, build
from attentive_owl.core.exercises.moves import shifts
from attentive_owl.core.instruments import INSTRUMENTS, Extension, Instrument, UnplayableError, extension_of
from attentive_owl.core.theory import ScaleForm
from attentive_owl.formats.musicxml.words import POSITION_ROMAN

PAGE = Path(__file__).parent.parent / "docs" / "fingerings.md"
KEYS = {
    ScaleForm.MAJOR: ["C", "G", "D", "A", "E", "B", "F#", "F", "Bb", "Eb", "Ab", "Db"],
    ScaleForm.NATURAL_MINOR: ["A", "E", "B", "F#", "C#", "G#", "D", "G", "C", "F", "Bb", "Eb"],
}
_HEAD = """# Fingerings

What the program writes over the notes of each scale, going up, with open strings both ways; made by `python -m bench.fingerings --write`
and held to what the program does by a test. Read a line as a hand would: the string, then its fingers. `x` is a stretched
hand, a Roman numeral the position from there on (I where none stands; ½ is half position), `/` a new string, `↓` where the
line drops an octave. "Shifts" counts those of the whole line, up and down.

The rules behind it (common practice of first-position teaching) are in `core/instruments/hands.py`, what a hand would
rather avoid in `core/instruments/fingering.py`, and where a line drops in `core/exercises/octave_drop.py`. A teacher
overrules any of it: a pin on a note, a first note, where a line drops, an easier or a harder line.
"""


def spelt_out(score: Score, notes: int) -> str:
    parts: list[str] = []
    string, position, before = "", "1", None
    for note in score.notes[:notes]:
        place = note.placement
        assert place is not None
        if before is not None and note.midi < before:
            parts.append("↓")
            string = ""
        if place.string != string:
            parts.append(("/ " if parts and parts[-1] != "↓" else "") + place.string)
            string = place.string
        if place.finger and place.position != position:
            position = place.position
            parts.append(f"({POSITION_ROMAN[position]})")
        stretched = "x" if extension_of(score.instrument, place) is not Extension.NONE else ""
        parts.append(f"{stretched}{place.finger}")
        before = note.midi
    return " ".join(parts)


def row(player: Instrument, tonic: str, form: ScaleForm, octaves: int) -> str:
    try:
        score = build(Recipe(tonic, form=form, octaves=octaves), player.key)
    except UnplayableError:
        return "not in these positions | "
    return f"{score.notes[0].pitch.name}: {spelt_out(score, 7 * octaves + 1)} | {len(shifts(score)) or ''}"


def page() -> str:
    lines = [_HEAD]
    for player in INSTRUMENTS.values():
        for form, tonics in KEYS.items():
            lines.append(f"\n## {player.name}, {form.value}\n")
            lines.append("| key | one octave | shifts | two octaves | shifts |\n|---|---|---|---|---|")
            for tonic in tonics:
                cells = [row(player, tonic, form, octaves) for octaves in (1, 2)]
                lines.append(
                    f"| {tonic.replace('b', '♭').replace('#', '♯').replace('#', '♯')} | {cells[0]} | {cells[1]} |"
                )
    return "\n".join(lines) + "\n"


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--write", action="store_true")
    if parser.parse_args().write:
        PAGE.write_text(page())
    else:
        print(page())
