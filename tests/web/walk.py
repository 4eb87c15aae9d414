"""A studio with something of everything in it, and a walk over every route with its ids."""

from __future__ import annotations

import io
from typing import Any

from attentive_owl.web.scores import pack
from tests.conftest import Filled, Visitor
from tests.web.takes import hand_in

OPEN = {
    "/api/session",
    "/api/session/first",
    "/api/session/teacher",
    "/api/session/pupil",
    "/api/session/invitation",
    "/api/health",
    "/api/ready",
    "/api/metrics",
}
RECIPE = {"tonic": "D", "pattern": "quarters", "tempo_bpm": 72}


def routes(app: Any) -> list[tuple[str, str]]:
    return sorted(
        (method, rule.rule)
        for rule in app.url_map.iter_rules()
        for method in rule.methods - {"HEAD", "OPTIONS"}
        if rule.rule.startswith("/api/")
    )


def filled_path(rule: str, ids: dict[str, str]) -> str:
    kind = rule.split("/")[2]
    return rule.replace("<uuid:id>", ids.get(kind, "00000000-0000-0000-0000-000000000000"))


def body_for(method: str, rule: str, filled: Filled) -> dict[str, Any]:
    bodies: dict[str, Any] = {
        "/api/pupils": {"class_id": str(filled.group_id), "name": "X", "instrument": "violin", "size": "4/4"},
        "/api/assignments": {"recipe": RECIPE, "pupil_ids": [str(filled.pupil_id)], "due_on": "2099-01-01", "target_bpm": 72, "good_repeats": 1},
        "/api/takes/<uuid:id>/marks": {"verdict": "accepted"},
        "/api/takes/<uuid:id>/overrules": {"cause": "drift", "says": "not_so"},
        "/api/preview": {"recipe": RECIPE, "instrument": "violin"},
        "/api/sheet": {"recipe": RECIPE, "instruments": ["violin"]},
        "/api/export": {"recipe": RECIPE, "instrument": "violin", "kind": "midi"},
        "/api/exercises": {"recipe": RECIPE},
        "/api/exercises/<uuid:id>": {"recipe": RECIPE, "title": "Not yours"},
        "/api/paths/<uuid:id>": {"name": "Not yours", "steps": []},
        "/api/studio/settings": {"values": "crotchet"},
        "/api/teachers/<uuid:id>": {"rank": "left"},
        "/api/classes": {"name": "Not yours"},
        "/api/classes/<uuid:id>": {"name": "Not yours"},
        "/api/sheets/<uuid:id>": {"seen": "2026-01-01T00:00:00Z"},
        "/api/sheets/add": {"recipe": RECIPE},
        "/api/sheets/<uuid:id>/template": {"name": "T"},
        "/api/pupils/<uuid:id>/passed": {"recipe": RECIPE},
        "/api/pupils/<uuid:id>/declined": {"recipe": RECIPE},
        "/api/pupils/<uuid:id>/move": {"class_id": str(filled.group_id)},
        "/api/pupils/<uuid:id>/merge": {"into": str(filled.other_pupil_id)},
        "/api/pupils/<uuid:id>/erase": {"name": filled.pupil_name},
        "/api/pupils/<uuid:id>/classes": {"class_ids": [str(filled.group_id)]},
        "/api/marks": {"take_ids": ["00000000-0000-0000-0000-000000000000"], "verdict": "accepted"},
        "/api/lessons": {"class_id": str(filled.group_id), "day": "2099-01-01", "starts": "10:00", "minutes": 45},
        "/api/lessons/<uuid:id>": {"class_id": str(filled.group_id), "day": "2099-01-01", "starts": "10:00", "minutes": 45},
        "/api/classes/<uuid:id>/roster": {"text": "X, violin, 4/4", "keep": True},
    }  # fmt: skip
    return bodies.get(rule, {})


def walk(app: Any, visitor: Visitor, filled: Filled, ids: dict[str, str]) -> dict[tuple[str, str], Any]:
    answers = {}
    for method, rule in routes(app):
        if rule in OPEN:
            continue
        path = filled_path(rule, ids)
        arguments: dict[str, Any] = {}
        if rule == "/api/takes" and method == "POST":
            answers[method, rule] = hand_in(visitor, filled, b"x" * 100)
            continue
        if rule == "/api/tuning-check" or (method, rule.rsplit("/", 1)[-1]) in {
            ("POST", "first-note"),
            ("POST", "help"),
        }:
            arguments["data"] = {"sound": (io.BytesIO(b"x"), "moment.wav")}
        if (method, rule.rsplit("/", 1)[-1]) == ("POST", "picture"):
            arguments["data"] = {"picture": (io.BytesIO(b"x"), "bow.jpg")}
        if rule == "/api/line":
            arguments["data"] = {"file": (io.BytesIO(b"x"), "line.mid")}
        if rule == "/api/demonstration":
            path += f"?recipe={pack(RECIPE, 72)}&instrument=violin"
        if rule.startswith("/api/tapes"):
            path += "?instrument=violin&size=4/4&string_length_mm=328"
        if method in ("POST", "PATCH", "PUT") and not arguments:
            arguments["json"] = body_for(method, rule, filled)
        answers[method, rule] = visitor.call(method, path, **arguments)
    return answers
