"""What a signed-in child may send to the address of a sound: everything that is no recipe is one sentence, and at once."""

from __future__ import annotations

import base64
import json
import zlib
from typing import Any

import pytest

from tests.conftest import Filled, Visitor

NOTE = {"name": "D4", "beats": "1", "slurred": False}


@pytest.mark.parametrize(
    "recipe",
    [
        {"family": "own", "line": [{"name": "D4", "beats": "1e9999999999"}]},
        {"family": "own", "line": [{"name": "D4", "beats": "9" * 400}]},
        {"family": "own", "line": [{"name": "D4", "beats": "1/0"}]},
        {"family": "own", "line": [{"name": "D4", "beats": 1}]},
        {"family": "own", "line": [{"name": "H4", "beats": "1"}]},
        {"family": "own", "line": [{"name": 4, "beats": "1"}]},
        {"family": "own", "line": [{**NOTE, "beats": "16"}] * 200},
        {"family": "own", "line": [NOTE] * 201},
        {"family": "own", "line": "D4"},
        {"family": "own", "line": [7]},
        {"family": "no such"},
        {"family": ["scale"]},
        {"tempo_bpm": "fast"},
        {"tempo_bpm": 1e9},
        {"bars": [1]},
        {"bars": 5},
        {"bars": ["a", "b"]},
        {"bowing": "none such"},
        {"octaves": [[[]]]},
        {"cue": 5},
        {"pins": [{"instrument": "violin"}]},
        {"unknown": 1},
        {"tonic": "\x00"},
    ],
    ids=lambda recipe: str(recipe)[:60],
)
def test_no_recipe_is_one_sentence_at_once(app: Any, filled: Filled, recipe: dict[str, Any]) -> None:
    pupil = Visitor(app).pupil(filled)
    whole = {"tonic": "D", "tempo_bpm": 40, **recipe}
    answer = pupil.get("/api/demonstration", query_string={"recipe": _packed(whole), "instrument": "violin"})
    assert answer.status_code == 422
    assert answer.json["error"].endswith(".")


def _packed(recipe: dict[str, Any]) -> str:
    """As the page packs it, whatever it is."""
    return base64.urlsafe_b64encode(zlib.compress(json.dumps(recipe).encode(), 9)).decode().rstrip("=")


class _Unread:
    """A body that nobody may read."""

    def read(self, *_: object) -> bytes:
        raise AssertionError("the body was read before it was asked who it is")

    readline = readinto = read


@pytest.mark.parametrize("address", ["/api/takes", "/api/line", "/api/tuning-check"])
def test_a_stranger_is_told_so_before_anything_of_a_body_is_read(app: Any, filled: Filled, address: str) -> None:
    visitor = Visitor(app)
    token = visitor.client.get("/api/session").json["csrf_token"]
    environ = {"wsgi.input": _Unread(), "CONTENT_LENGTH": "99999", "CONTENT_TYPE": "multipart/form-data; boundary=x"}
    answer = visitor.client.open(address, method="POST", headers={"X-CSRF-Token": token}, environ_overrides=environ)
    assert answer.status_code == 401
    # And whoever is signed in, but has no token: the form is not searched for one.
    visitor.pupil(filled)
    assert visitor.client.open(address, method="POST", environ_overrides=environ).status_code in (400, 403)
