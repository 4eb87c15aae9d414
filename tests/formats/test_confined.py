"""Files that nobody knows are read by a process of their own: what it does can not hold or fill ours."""

from __future__ import annotations

import struct
import time
import zipfile
from pathlib import Path

import pytest

from attentive_owl.core.exercises import Recipe, build
from attentive_owl.formats.midi import write_midi
from attentive_owl.formats.musicxml import ScoreFileError, write_musicxml
from attentive_owl.formats.own_line import read_line, read_strangers_line


def endless_midi() -> bytes:
    """Seventy-nine bytes: a note that lasts for 2 ** 28 ticks of a beat that has one, many times over."""
    far = b"\xff\xff\xff\x7f"
    events = (b"\x00\x90\x3c\x40" + far + b"\x80\x3c\x40") * 4 + b"\x00\xff\x2f\x00"
    return b"MThd" + struct.pack(">IHHH", 6, 0, 1, 1) + b"MTrk" + struct.pack(">I", len(events)) + events


def bomb(path: Path) -> None:
    """A .mxl that unpacks to 1 GB of blanks."""
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as archive:
        archive.writestr(
            "META-INF/container.xml", '<container><rootfiles><rootfile full-path="s.xml"/></rootfiles></container>'
        )
        with archive.open("s.xml", "w", force_zip64=True) as inner:
            for _ in range(64):
                inner.write(b" " * 2**24)


def test_a_good_file_is_read_as_in_ones_own_process(tmp_path: Path) -> None:
    path = tmp_path / "line.musicxml"
    path.write_bytes(write_musicxml(build(Recipe("G"), "violin")))
    assert read_strangers_line(path, "line.musicxml") == read_line(path, "line.musicxml")
    midi = tmp_path / "line.mid"
    midi.write_bytes(write_midi(build(Recipe("G"), "violin")))
    assert read_strangers_line(midi, "line.mid") == read_line(midi, "line.mid")


@pytest.mark.parametrize("kind", ["midi", "mxl", "repeats", "empty", "text"])
def test_a_bad_file_is_one_sentence_in_its_time(tmp_path: Path, kind: str) -> None:
    path = tmp_path / {"midi": "a.mid", "mxl": "a.mxl"}.get(kind, "a.musicxml")
    if kind == "midi":
        path.write_bytes(endless_midi())
    elif kind == "mxl":
        bomb(path)
    elif kind == "repeats":
        text = write_musicxml(build(Recipe("G"), "violin")).decode()
        many = '<barline location="right"><repeat direction="backward" times="100000000"/></barline></measure>'
        path.write_text(text.replace("</measure>", many, 1), encoding="utf-8")
    else:
        path.write_text("" if kind == "empty" else "Dear teacher", encoding="utf-8")
    began = time.monotonic()
    with pytest.raises(ScoreFileError, match=path.name):
        read_strangers_line(path, path.name, cpu_s=3)
    # Nothing waits for longer than its parent does.
    assert time.monotonic() - began < 85
