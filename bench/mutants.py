"""Do the tests bite? Operators, numbers and conditions of the code are turned round one at a time (cosmic-ray's operators), drawn at random
from each package, and the tests that run the turned line are run: first the quick ones, then, where all pass, more.

    python -m bench.mutants cover                      once: which test runs which line, and how long it takes (a quarter of an hour)
    python -m bench.mutants try core/judging:60 web:60 [--jobs 2] [--seed 1]

Printed: each change that no test saw, with how many were tried by then, and the share that was seen. A change that does the same as before (a bound that is never reached, a
type, a message) is no fault of the tests: read the list.
"""

from __future__ import annotations

import argparse
import ast
import difflib
import os
import random
import re
import shutil
import signal
import subprocess
import sys
import tempfile
import xml.etree.ElementTree as ElementTree
from collections import defaultdict
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import cache
from itertools import zip_longest
from pathlib import Path
from queue import Queue

import cosmic_ray.plugins
from cosmic_ray.ast import ast_nodes, get_ast
from cosmic_ray.mutating import mutate_code
from coverage import CoverageData

ROOT = Path(__file__).resolve().parent.parent
_PACKAGE = ROOT / "attentive_owl"
_COVERED, _TIMED = ROOT / "var" / "mutants.coverage", ROOT / "var" / "mutants.xml"
_WAVES_S = (12.0, 60.0)
"""Seconds of tests, as they took when they were covered: most changes are seen by the first few."""
_START_S = 40.0
_KEPT = ("tests/core/test_kept.py::", "tests/web/test_answers.py::")
"""What is kept of all that is built, said and answered: it sees what the quickest tests of a line do not, so all of those that run it are run."""
_WIRE = "tests/web/test_workshop.py::test_the_openapi_document_is_valid_and_what_is_committed"
_LEFT_OUT = re.compile(r"Variable|RemoveDecorator|ExceptionReplacer|_(Bit\w+|[RL]Shift|Is|IsNot|Invert|UAdd)$")
"""Changes that nobody makes by mistake, or that do the same."""


@dataclass(frozen=True)
class Mutant:
    path: Path
    """From the root."""
    line: int
    code: str
    what: str


def cover() -> None:
    """One run of the tests with a note of each line that each test runs."""
    _COVERED.parent.mkdir(exist_ok=True)
    _COVERED.unlink(missing_ok=True)
    subprocess.run(
        [sys.executable, "-m", "pytest", "-q", "-n", "2", "-m", "not browser", "--cov=attentive_owl", "--cov-context=test",
         "--cov-report=", f"--junitxml={_TIMED}"],
        cwd=ROOT, env={**os.environ, "COVERAGE_FILE": str(_COVERED)}, check=False,
    )  # fmt: skip


@cache
def _seconds() -> dict[str, float]:
    """Test -> seconds, by the name that coverage gives it."""
    found = {}
    for case in ElementTree.parse(_TIMED).getroot().iter("testcase"):
        *folders, module = case.attrib["classname"].split(".")
        found[f"{'/'.join((*folders, module))}.py::{case.attrib['name']}"] = float(case.attrib["time"])
    return found


@cache
def _covered() -> CoverageData:
    data = CoverageData(str(_COVERED))
    data.read()
    return data


def tests_of(path: Path, line: int) -> list[str]:
    """Those that run the line, the quickest of each module of tests in turn, so that those of other rules do not crowd out its own; of a
    line that is run when its module is read, what holds the wire to what is committed, and then those that run anything of the
    module."""
    by_line = _covered().contexts_by_lineno(str(ROOT / path))
    own = {context.split("|")[0] for context in by_line.get(line, ())} - {""}
    if not own:
        own = {context.split("|")[0] for contexts in by_line.values() for context in contexts} - {""} | {_WIRE}
    by_module: dict[str, list[str]] = defaultdict(list)
    for name in sorted(own & _seconds().keys(), key=lambda name: (name != _WIRE, _seconds()[name])):
        by_module[name.split("::")[0]].append(name)
    modules = sorted(by_module.values(), key=lambda names: (names[0] != _WIRE, _seconds()[names[0]]))
    return [name for turn in zip_longest(*modules) for name in turn if name is not None]


def _same(one: str, other: str) -> bool:
    """But for what is not looked at when the program runs (annotations), or is there so that nobody makes a mistake (frozen)."""

    def bare(text: str) -> str:
        tree = ast.parse(text.replace("frozen=False", "frozen=True"))
        for node in ast.walk(tree):
            for name in ("annotation", "returns"):
                if getattr(node, name, None) is not None:
                    setattr(node, name, ast.Constant(None))
        return ast.dump(tree)

    return bare(one) == bare(other)


def mutants_of(path: Path, drawn: random.Random) -> list[Mutant]:
    """One at each place of the file that can be changed."""
    text = (ROOT / path).read_text()
    nodes = list(ast_nodes(get_ast(text)))
    places: dict[tuple[int, int], list[tuple[str, int]]] = defaultdict(list)
    for name in cosmic_ray.plugins.operator_names():
        kind = cosmic_ray.plugins.get_operator(name)
        if kind.arguments() or _LEFT_OUT.search(name):
            continue
        at = (start for node in nodes for start, _ in kind().mutation_positions(node))
        for occurrence, start in enumerate(at):
            places[start].append((name, occurrence))
    found = []
    for (line, _), kinds in sorted(places.items()):
        name, occurrence = drawn.choice(kinds)
        code = mutate_code(text, cosmic_ray.plugins.get_operator(name)(), occurrence)
        if code is not None and _compiles(code) and not _same(text, code):
            changed = difflib.unified_diff(text.splitlines(), code.splitlines(), lineterm="", n=0)
            what = "  ".join(own.strip() for own in list(changed)[3:])
            found.append(Mutant(path, line, code, what))
    return found


def _compiles(code: str) -> bool:
    try:
        compile(code, "mutant", "exec")
    except SyntaxError:
        return False
    return True


def seen(mutant: Mutant, home: Path) -> bool | None:
    """Whether a test fails with it; None where no test runs the line. `home`: a copy of the project."""
    tests = tests_of(mutant.path, mutant.line)
    if not tests:
        return None
    place = home / mutant.path
    before = place.read_text()
    place.write_text(mutant.code)
    try:
        return any(not _pass(wave, home) for wave in _waves(tests))
    finally:
        place.write_text(before)


def _waves(tests: list[str]) -> Iterator[list[str]]:
    kept = [name for name in tests if name.startswith(_KEPT)]
    others = [name for name in tests if not name.startswith(_KEPT)]
    at = 0
    for limit in _WAVES_S:
        wave: list[str] = []
        while at < len(others) and (
            not wave or sum(map(_seconds().__getitem__, wave)) + _seconds()[others[at]] <= limit
        ):
            wave.append(others[at])
            at += 1
        if wave:
            yield wave
        if kept:
            yield kept
            kept = []


def _pass(tests: list[str], home: Path) -> bool:
    """One that does not come to an end does not pass."""
    limit = _START_S + 4 * sum(map(_seconds().__getitem__, tests))
    environment = {**os.environ, "PYTHONPATH": str(home), "PYTHONDONTWRITEBYTECODE": "1"}
    command = [sys.executable, "-m", "pytest", "-q", "-x", "-p", "no:cacheprovider", *tests]
    with subprocess.Popen(
        command, cwd=home, env=environment, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, start_new_session=True
    ) as own:
        try:
            return own.wait(limit) == 0
        except subprocess.TimeoutExpired:
            # As by a person's Ctrl-C, so that what the tests have started is ended by them.
            os.killpg(own.pid, signal.SIGINT)
            try:
                own.wait(_START_S)
            except subprocess.TimeoutExpired:
                os.killpg(own.pid, signal.SIGKILL)
            return False


def _copy(folder: Path, number: int) -> Path:
    home = folder / str(number)
    shutil.copytree(ROOT, home, ignore=shutil.ignore_patterns(".git", ".venv", "node_modules", "var", "dist", "*.pyc"))
    (home / "frontend" / "dist").symlink_to(ROOT / "frontend" / "dist")
    return home


def trial(asked: list[str], jobs: int, seed: int) -> None:
    drawn = random.Random(seed)
    with tempfile.TemporaryDirectory() as folder, ThreadPoolExecutor(jobs) as pool:
        homes: Queue[Path] = Queue()
        for number in range(jobs):
            homes.put(_copy(Path(folder), number))

        tried: list[Mutant] = []

        def one(mutant: Mutant) -> bool | None:
            home = homes.get()
            try:
                found = seen(mutant, home)
            finally:
                homes.put(home)
            tried.append(mutant)
            if not found:
                how = "no test runs it" if found is None else "not seen"
                print(f"{len(tried)}: {mutant.path}:{mutant.line}: {how}: {mutant.what}", flush=True)
            return found

        for told in asked:
            place, _, many = told.partition(":")
            files = sorted(_PACKAGE.joinpath(place).rglob("*.py"))
            every = [own for path in files for own in mutants_of(path.relative_to(ROOT), drawn)]
            chosen = drawn.sample(every, min(int(many or 50), len(every)))
            found = list(pool.map(one, chosen))
            print(
                f"| {place} | {len(every)} places | {len(found)} tried | {sum(map(bool, found)) / len(found):.0%} seen |",
                flush=True,
            )


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parts = parser.add_subparsers(dest="part", required=True)
    parts.add_parser("cover")
    own = parts.add_parser("try")
    own.add_argument("packages", nargs="+", metavar="PACKAGE:HOW_MANY")
    own.add_argument("--jobs", type=int, default=2)
    own.add_argument("--seed", type=int, default=1)
    told = parser.parse_args()
    if told.part == "cover":
        cover()
    else:
        trial(told.packages, told.jobs, told.seed)


if __name__ == "__main__":
    main()
