"""The documents say what the program does: examples run, and names in them exist."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import pytest

from bench import fingerings
from scripts import licences
from tests.conftest import ROOT

WRITTEN = sorted([*ROOT.glob("*.md"), *ROOT.glob("docs/**/*.md")])


def test_the_first_report_comes_as_it_is_shown(capsys: pytest.CaptureFixture[str]) -> None:
    text = (ROOT / "docs" / "first_report.md").read_text()
    (code,) = re.findall(r"```python\n(.*?)```", text, re.DOTALL)
    found: dict[str, Any] = {}
    exec(compile(code, "docs/first_report.md", "exec"), found)
    report = found["report"]
    assert [note.status for note in report.notes] == ["played"] * 9 + ["missed"] + ["played"] * 6
    (finger,) = [cause for cause in report.causes if cause.kind == "finger"]
    assert finger.cents == pytest.approx(-35, abs=4)
    assert capsys.readouterr().out.count("\n") == 3


@pytest.mark.parametrize("path", WRITTEN, ids=lambda path: path.name)
def test_links_and_paths_in_documents_lead_somewhere(path: Path) -> None:
    text = path.read_text(encoding="utf-8")
    linked = [link.split("#")[0] for link in re.findall(r"\]\(([^)#][^)]*)\)", text) if "://" not in link]
    assert [link for link in linked if not (path.parent / link).exists()] == []
    named = re.findall(r"`((?:attentive_owl|frontend/src|tests|bench|scripts)/[\w/.]+)`", text)
    assert [name for name in named if not (ROOT / name).exists()] == []


def test_every_package_that_is_shipped_is_in_the_list_of_licences() -> None:
    told = set(re.findall(r"^\| (\S+) \| (\S+) \| (?!not stated)(.+) \|$", licences.PAGE.read_text(), re.MULTILINE))
    assert {own[:2] for own in told} - {("package", "version"), ("---", "---")} == {
        *licences.locked(),
        *(own[:2] for own in licences.shipped_by_page()),
    }


def test_the_fingerings_on_paper_are_those_of_the_program() -> None:
    assert fingerings.PAGE.read_text() == fingerings.page()
