"""Faults of the machine that are no death of a process (those are in `test_every_step`)."""

from __future__ import annotations

import errno
import uuid
from typing import Any

import pytest
from sqlalchemy import Engine, func, select

from attentive_owl.settings import Settings
from attentive_owl.store.audio import AudioStore
from attentive_owl.store.models import Take
from attentive_owl.store.session import open_session
from tests.conftest import Filled, Visitor
from tests.web.takes import hand_in


def test_a_full_disk_is_said_and_the_take_is_taken_when_there_is_room(
    app: Any, engine: Engine, settings: Settings, filled: Filled, violin_take: bytes, monkeypatch: pytest.MonkeyPatch
) -> None:
    pupil = Visitor(app).pupil(filled)

    def full(*_: Any) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(AudioStore, "put", full)
    key = uuid.uuid4().hex
    refused = hand_in(pupil, filled, violin_take, client_key=key)
    assert (refused.status_code, "goes by itself later" in refused.json["error"]) == (507, True)
    with open_session(engine, "tests look") as session:
        assert session.scalar(select(func.count()).select_from(Take)) == 0
    monkeypatch.undo()
    assert hand_in(pupil, filled, violin_take, client_key=key).status_code == 201


def test_a_clock_that_was_set_back_neither_ends_nor_lengthens_a_session(app: Any, filled: Filled) -> None:
    teacher = Visitor(app).teacher(filled)
    ahead = 4102444800.0
    with teacher.client.session_transaction() as cookie:
        cookie["begun"] = cookie["used"] = ahead
    assert teacher.get("/api/week").status_code == 200
    with teacher.client.session_transaction() as cookie:
        assert max(cookie["begun"], cookie["used"]) < ahead
