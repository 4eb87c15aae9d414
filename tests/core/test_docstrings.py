"""What a public function of the core has to say of itself: that it has words at all is ruff's rule (D103); here what it raises, by the
error's name, and the shapes of its arrays, as numpydoc's guide writes them: (n,), (frames, 2)."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from pathlib import Path

import attentive_owl.core

CORE = Path(attentive_owl.core.__file__).parent
ARRAYS = re.compile(r"NDArray|ndarray|\bSamples\b|\bArray\b")
SHAPE = re.compile(r"\([a-z0-9 +-]+,[a-z0-9 +,-]*\)|\(\.\.\.\)|the shape of `")


def public_functions() -> Iterator[tuple[str, ast.FunctionDef]]:
    for path in sorted(CORE.rglob("*.py")):
        for node in ast.parse(path.read_text()).body:
            own = [node] if isinstance(node, ast.FunctionDef) else []
            if isinstance(node, ast.ClassDef) and not node.name.startswith("_"):
                own = [part for part in node.body if isinstance(part, ast.FunctionDef)]
            yield from (
                (f"{path.relative_to(CORE)}:{part.lineno} {part.name}", part)
                for part in own
                if not part.name.startswith("_")
            )


def test_what_is_raised_is_named() -> None:
    silent = [
        f"{where}: {name}"
        for where, part in public_functions()
        for raised in ast.walk(part)
        if isinstance(raised, ast.Raise) and raised.exc is not None
        for name in [ast.unparse(raised.exc.func if isinstance(raised.exc, ast.Call) else raised.exc)]
        if name not in (ast.get_docstring(part) or "")
    ]
    assert silent == []


def test_arrays_have_shapes() -> None:
    shapeless = []
    for where, part in public_functions():
        hints = [hint for hint in [*(one.annotation for one in part.args.args), part.returns] if hint is not None]
        if any(ARRAYS.search(ast.unparse(hint)) for hint in hints) and not SHAPE.search(ast.get_docstring(part) or ""):
            shapeless.append(where)
    assert shapeless == []


NUMBERED = ("listening", "judging")
"""Packages whose every number has a name, and every name of a number a sentence under it: what it is, its unit, and where it comes from."""


def test_named_numbers_say_what_they_are() -> None:
    silent = []
    for path in [path for package in NUMBERED for path in (CORE / package).rglob("*.py")]:
        body = ast.parse(path.read_text()).body
        for statement, following in zip(body, [*body[1:], None], strict=True):
            if not isinstance(statement, ast.Assign) or not _numbers(statement.value):
                continue
            said = isinstance(following, ast.Expr) and isinstance(following.value, ast.Constant)
            silent += [] if said else [f"{path.relative_to(CORE)}:{statement.lineno}"]
    assert silent == []


def _numbers(value: ast.expr) -> bool:
    """Whether something is a number, or numbers side by side."""
    if isinstance(value, ast.Tuple):
        return any(_numbers(own) for own in value.elts)
    if isinstance(value, ast.UnaryOp):
        return _numbers(value.operand)
    if isinstance(value, ast.BinOp):
        return _numbers(value.left) and _numbers(value.right)
    return isinstance(value, ast.Constant) and isinstance(value.value, (int, float))
