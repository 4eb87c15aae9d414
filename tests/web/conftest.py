"""A studio to walk through, for several tests."""

from __future__ import annotations

from typing import Any

import pytest

from tests.conftest import Filled, Visitor
from tests.web.takes import hand_in
from tests.web.walk import RECIPE


@pytest.fixture
def scene(app: Any, filled: Filled, violin_take: bytes) -> tuple[Filled, dict[str, str]]:
    owner, teacher = Visitor(app).pupil(filled), Visitor(app).teacher(filled)
    take = hand_in(owner, filled, violin_take).json["id"]
    mark = teacher.post(f"/api/takes/{take}/marks", json={"verdict": "once_more", "remark": "a secret remark"}).json[
        "id"
    ]
    overrule = teacher.post(
        f"/api/takes/{take}/overrules", json={"cause": "drift", "says": "not_so", "remark": "a secret remark"}
    ).json["id"]
    exercise = teacher.get("/api/exercises").json["exercises"][0]["id"]
    path = teacher.get("/api/paths").json["paths"][0]["id"]
    sheet = teacher.post("/api/sheets/add", json={"recipe": RECIPE}).json["id"]
    lesson = teacher.post(
        "/api/lessons", json={"class_id": str(filled.group_id), "day": "2099-01-01", "starts": "10:00", "minutes": 45}
    ).json["id"]
    pause = teacher.post("/api/breaks", json={"name": "B", "first_day": "2099-01-01", "last_day": "2099-01-02"}).json[
        "id"
    ]
    passed = teacher.post(f"/api/pupils/{filled.pupil_id}/passed", json={"recipe": RECIPE}).json["id"]
    link = teacher.post("/api/invitations", json={}).json["id"]
    ids = {
        "sheets": sheet,
        "lessons": lesson,
        "breaks": pause,
        "passed": passed,
        "invitations": link,
        "takes": take,
        "exercises": exercise,
        "paths": path,
        "marks": mark,
        "overrules": overrule,
        "pupils": str(filled.pupil_id),
        "teachers": str(filled.teacher_id),
        "classes": str(filled.group_id),
        "assignments": str(filled.assignment_id),
    }
    return filled, ids
