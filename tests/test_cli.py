"""The command line as a user types it."""

from __future__ import annotations

import json
from fractions import Fraction
from itertools import cycle, product
from pathlib import Path

import numpy as np
import pytest
import soundfile
from click.testing import CliRunner
from music21 import note as m21_note
from music21 import stream

from attentive_owl.cli import main
from attentive_owl.core.exercises import FAMILIES, Bowing
from attentive_owl.core.instruments import INSTRUMENTS


def owl(*arguments: object) -> tuple[int, str]:
    result = CliRunner().invoke(main, [str(a) for a in arguments])
    assert result.exception is None or isinstance(result.exception, SystemExit), result.exception
    return result.exit_code, result.output


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    assert (
        owl("exercise", "--tonic", "D", "--instrument", "violin", "--tempo", 100, "-o", tmp_path / "d.musicxml")[0] == 0
    )
    return tmp_path


def test_make_perform_check(folder: Path) -> None:
    code, _ = owl(
        "perform",
        folder / "d.musicxml",
        "-o",
        folder / "d.wav",
        "--habit",
        "missed=5",
        "--habit",
        "wrong=9:1",
        "--seed",
        2,
        "--truth",
        folder / "truth.json",
    )
    assert code == 0
    code, output = owl("check", folder / "d.musicxml", folder / "d.wav", "--json", folder / "report.json")
    assert code == 0
    assert "tempo 100" in output
    report = json.loads((folder / "report.json").read_text())
    assert {"format", "version", "engine", "accepted", "refusal", "recording", "tempo", "tuning", "passes", "notes", "extras", "rests",
            "judgement", "causes", "advice"} <= set(report)  # fmt: skip
    assert {n["index"]: n["status"] for n in report["notes"] if n["status"] != "played"} == {
        5: "missed",
        9: "wrong_pitch",
    }
    truth = {n["index"]: n for n in json.loads((folder / "truth.json").read_text())["notes"]}
    for note in report["notes"]:
        if note["onset_s"] is not None:
            assert note["onset_s"] == pytest.approx(truth[note["index"]]["onset_s"], abs=0.03)
    assert report["tempo"]["target_bpm"] == 100


def test_a_refused_take_has_exit_code_three(folder: Path) -> None:
    soundfile.write(folder / "s.wav", np.zeros(44100 * 3), 44100)
    code, output = owl("check", folder / "d.musicxml", folder / "s.wav", "--json", folder / "r.json")
    assert code == 3
    assert "Not checked" in output
    assert json.loads((folder / "r.json").read_text())["refusal"]["code"] == "silence"


@pytest.mark.parametrize(
    "arguments",
    [
        ["check", "nothing.musicxml", "nothing.wav"],
        ["check", "{d}", "nothing.wav"],
        ["check", "{d}", "{d}"],
        ["check", "{d}", "{d}", "--a4", "loud"],
        ["check", "{d}", "{d}", "--instrument", "harp"],
        ["perform", "{d}", "-o", "take.aiff"],
        ["perform", "{d}", "-o", "take.wav", "--habit", "dreams=1"],
        ["perform", "{d}", "-o", "/no/such/folder/take.wav"],
        ["exercise", "--tonic", "H", "--instrument", "violin", "-o", "h.musicxml"],
        ["exercise", "--tonic", "D", "--instrument", "violin", "--tempo", "500", "-o", "h.musicxml"],
    ],
)
def test_bad_input_is_one_line_and_exit_code_two(
    folder: Path, arguments: list[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.chdir(folder)
    code, output = owl(*[a.format(d=folder / "d.musicxml") for a in arguments])
    assert code == 2
    assert "Traceback" not in output
    assert output.strip().splitlines()[-1].startswith("Error: ")


def test_hear_draws_a_picture(folder: Path) -> None:
    owl("perform", folder / "d.musicxml", "-o", folder / "d.flac")
    code, said = owl("hear", folder / "d.musicxml", folder / "d.flac", "--plot", folder / "d.png")
    assert (code, said.split(" -> ")[0]) == (0, "16 notes in one pass")
    assert (folder / "d.png").read_bytes().startswith(b"\x89PNG")
    assert owl("hear", folder / "d.musicxml", folder / "d.flac", "--plot", folder / "d.gif")[0] == 2


def test_engrave_and_openapi(folder: Path) -> None:
    assert owl("engrave", folder / "d.musicxml", "--width", 500, "-o", folder / "svg")[0] == 0
    assert (folder / "svg" / "system-1.svg").read_text().startswith("<svg")
    assert owl("openapi", "-o", folder / "api.json")[0] == 0
    assert "/api/takes" in json.loads((folder / "api.json").read_text())["paths"]


def test_any_family_is_made_with_its_choices(tmp_path: Path) -> None:
    out = tmp_path / "thirds.musicxml"
    code, said = owl("exercise", "thirds", "--instrument", "cello", "--tonic", "G", "-o", out)
    assert (code, out.is_file()) == (0, True), said
    assert "Broken thirds, G major" in said
    code, said = owl("exercise", "thirds", "--instrument", "cello", "--set", "colour=green", "-o", out)
    assert code == 2
    assert "no choice 'colour': the choices are tonic, pattern" in said
    for choice, wanted in (
        ("octaves=two", "octaves is a whole number"),
        ("direction=sideways", "direction is one of 'up', 'down'"),
        ("wait=1", "wait is true or false"),
        ("bars=3", "two whole numbers"),
        ("nothing", "no choice such as"),
    ):
        code, said = owl("exercise", "thirds", "--instrument", "cello", "--set", choice, "-o", out)
        assert (code, wanted in said) == (2, True), said


def test_open_strings_and_other_lines_are_taken_from_the_command_line(folder: Path) -> None:
    owl(
        "perform",
        folder / "d.musicxml",
        "-o",
        folder / "low.wav",
        "--habit",
        "tuning_cents=-30",
        "--habit",
        "missed=0,4,11,15",
    )
    arguments = ("check", folder / "d.musicxml", folder / "low.wav", "--json", folder / "report.json")
    assert owl(*arguments, "--open-strings", "D=-30,A=-31")[0] == 0
    report = json.loads((folder / "report.json").read_text())
    assert "instrument" in [cause["kind"] for cause in report["causes"]]
    assert report["tuning"]["certainty"]["D"]["source"] in ("check", "open")
    for wrong in ("D", "D=low", "=3", "D=900"):
        code, output = owl(*arguments, "--open-strings", wrong)
        assert code == 2
        assert "A=-12,D=3" in output
    code, output = owl(*arguments, "--open-strings", "B=3")
    assert code == 2
    assert "no B string" in output
    owl("exercise", "--tonic", "G", "--instrument", "violin", "--tempo", 100, "-o", folder / "g.musicxml")
    owl("perform", folder / "g.musicxml", "-o", folder / "g.wav")
    code, output = owl("check", folder / "d.musicxml", folder / "g.wav", "--also", folder / "g.musicxml")
    assert code == 3
    assert "G major" in output


@pytest.mark.parametrize(
    ("family", "bowing", "instrument"),
    [(family, *pair) for family, pair in zip(FAMILIES, cycle(product(Bowing, INSTRUMENTS)), strict=False)],
)
def test_every_family_goes_out_is_played_and_is_checked(
    tmp_path: Path, family: str, bowing: Bowing, instrument: str
) -> None:
    """As a file, by turns of bowing and instrument: nothing that was right is called away."""
    own = (
        '[{"name":"D4","beats":"1"},{"name":"E4","beats":"1/2"},{"name":"F#4","beats":"1/2"},{"name":"D4","beats":"2"}]'
    )
    score, take, report = tmp_path / "s.musicxml", tmp_path / "t.wav", tmp_path / "r.json"
    made = ["exercise", family, "--instrument", instrument, "--tonic", "D", "--tempo", 88, "-o", score]
    assert owl(*made, "--bowing", bowing.value, "--set", f"line={own}")[0] == 0
    assert owl("perform", score, "-o", take, "--seed", 4)[0] == 0
    code, said = owl("check", score, take, "--json", report)
    assert code == 0, said
    heard = json.loads(report.read_text())
    assert {note["status"] for note in heard["notes"]} <= {"played", "unclear"}
    assert (heard["extras"], heard["causes"]) == ([], [])


def test_what_can_not_be_engraved_is_one_sentence(tmp_path: Path) -> None:
    """A triplet is read and checked, and has no sign of ours."""
    part = stream.Part([m21_note.Note("D4", quarterLength=Fraction(1, 3)) for _ in range(12)])
    path = tmp_path / "triplets.musicxml"
    stream.Score([part]).write("musicxml", path)
    code, said = owl("engrave", path, "-o", tmp_path / "svg")
    assert code == 2
    assert "can not be engraved" in said
