"""Good files, damaged at random: each is read or refused with one sentence, in its time, and leaves nothing behind. More of them:
OWL_FUZZ=50 ./test tests/formats/test_damaged.py"""

from __future__ import annotations

import io
import os
import random
import shutil
import time
import zipfile
from pathlib import Path

import numpy as np
import pytest
import soundfile
from hypothesis import given
from hypothesis import settings as limits
from hypothesis import strategies as st

from attentive_owl.core.exercises import Recipe, build
from attentive_owl.formats.audio import AudioFileError, decode_to_flac, flac_bytes
from attentive_owl.formats.midi import write_midi
from attentive_owl.formats.musicxml import ScoreFileError, write_musicxml
from attentive_owl.formats.own_line import read_strangers_line
from attentive_owl.formats.roster import read_roster
from tests.damage import damaged

OF_EACH = int(os.environ.get("OWL_FUZZ", "3"))
LONGEST_S = 100.0
RATE = 22050


def _score(kind: str) -> bytes:
    score = build(Recipe("G"), "violin")
    if kind == "mid":
        return write_midi(score)
    if kind == "musicxml":
        return write_musicxml(score)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as package:
        package.writestr(
            "META-INF/container.xml", '<container><rootfiles><rootfile full-path="s.xml"/></rootfiles></container>'
        )
        package.writestr("s.xml", write_musicxml(score))
    return out.getvalue()


def _sound(kind: str) -> bytes:
    samples = 0.3 * np.sin(2 * np.pi * 440 * np.arange(RATE) / RATE)
    if kind == "flac":
        return flac_bytes(samples, RATE)
    out = io.BytesIO()
    soundfile.write(out, samples, RATE, format=kind.upper())
    return out.getvalue()


@pytest.mark.parametrize("kind", ["mid", "musicxml", "mxl"])
def test_a_damaged_score_is_read_or_refused(tmp_path: Path, kind: str) -> None:
    good = _score(kind)
    for number in range(OF_EACH):
        # What its reader leaves there goes with the folder.
        folder = tmp_path / "own"
        folder.mkdir()
        path = folder / f"line.{kind}"
        path.write_bytes(damaged(good, random.Random(number)))
        begun = time.monotonic()
        said = f"{path.name}."
        try:
            assert read_strangers_line(path, path.name).line
        except ScoreFileError as error:
            said = str(error)
        assert path.name in said, number
        assert time.monotonic() - begun < LONGEST_S, number
        assert list(tmp_path.iterdir()) == [folder], number
        shutil.rmtree(folder)


@pytest.mark.parametrize("kind", ["flac", "wav", "ogg", "aiff", "mp3"])
def test_a_damaged_sound_is_read_or_refused(tmp_path: Path, kind: str) -> None:
    good = _sound(kind)
    target = tmp_path / "target.flac"
    for number in range(OF_EACH):
        path = tmp_path / f"take.{kind}"
        path.write_bytes(damaged(good, random.Random(number)))
        begun, said = time.monotonic(), "."
        try:
            assert decode_to_flac(path, target).duration_s > 0
            target.unlink()
        except AudioFileError as error:
            said = str(error)
        assert said.endswith("."), number
        assert time.monotonic() - begun < LONGEST_S, number
        assert list(tmp_path.iterdir()) == [path], number


@limits(max_examples=20 * OF_EACH)
@given(st.text(max_size=400) | st.text(alphabet='Ada, violin;cello\t3/4"\n', max_size=400))
def test_any_text_is_a_list_of_pupils_or_has_faults(text: str) -> None:
    rows, faults = read_roster(text, ["Ada"])
    lines = len(text.splitlines()) + 1
    for fault in faults:
        assert fault.words.endswith(".")
        assert 1 <= fault.line <= lines
    assert len({row.name.casefold() for row in rows}) == len(rows)
