"""Sources that no weight of the ear was fitted on, chosen by options of a script."""

from __future__ import annotations

import argparse
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from bench import families
from bench.recorded import RecordedNotes
from bench.sampled import use_patches, use_soundfont
from bench.waveguide import render_waveguide


@dataclass(frozen=True)
class Source:
    """A source that no weight of the ear was fitted on."""

    title: str
    option: str
    words: str


def add_options(options: argparse.ArgumentParser) -> None:
    options.add_argument("--soundfont", type=Path, help="Play all takes on the samples of this soundfont.")
    options.add_argument("--patches", type=Path, help="Play all takes by TiMidity with this configuration.")
    options.add_argument("--recorded", type=Path, help="Play all takes on the recorded single notes of this folder.")
    options.add_argument("--waveguide", action="store_true", help="Play all takes on Csound's bowed waveguide.")


def choose(chosen: argparse.Namespace) -> Source | None:
    """Makes all takes come from the source of the options; None where none is given: the simulated pupil and FluidR3."""
    return next(each(chosen), None)


def each(chosen: argparse.Namespace) -> Iterator[Source]:
    """The sources of the options one after another; all takes come from the one that was given last."""
    if chosen.soundfont:
        use_soundfont(chosen.soundfont)
        families.play_only("sampled")
        yield Source(
            "another soundfont",
            f"--soundfont {chosen.soundfont}",
            "Takes whose samples have no pitch to measure by are left out. The figures of `notes/onsets.py` were chosen with an eye on "
            "it.",
        )
    if chosen.patches:
        use_patches(chosen.patches)
        families.play_only("sampled")
        yield Source(
            "recorded patches",
            f"--patches {chosen.patches}",
            "Debian's freepats by TiMidity: a violin that plays the viola too, and a cello that plays the bass, each looped after "
            "its attack. Nothing of the ear or the judge was fitted or chosen on them.",
        )
    if chosen.recorded:
        families.play_only("recorded", RecordedNotes(chosen.recorded).render)
        yield Source(
            "recorded single notes",
            "--recorded FOLDER",
            "Notes of a real violin, cello and double bass, cut to length, each moved to its pitch; every one rings on for 60 ms "
            "while the next speaks. The onset of a slow low string lies hidden under the note before. Faults that these takes showed are mended "
            "in ear-20.",
        )
    if chosen.waveguide:
        families.play_only("waveguide", render_waveguide)
        yield Source(
            "a bowed waveguide",
            "--waveguide",
            "A string computed by Csound, which whistles at its partials when the bow is too fast for it.",
        )
