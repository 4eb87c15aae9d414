"""Days begin where the studio is."""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

import pytest
from sqlalchemy import Engine, update

from attentive_owl.store.models import Take
from attentive_owl.store.session import open_session
from tests.conftest import Filled, Visitor
from tests.web.takes import hand_in

EAST, WEST = "Pacific/Kiritimati", "Pacific/Pago_Pago"
"""25 hours apart: their dates differ at every moment."""


def _set_zone(app: Any, filled: Filled, zone: str) -> Any:
    teacher = Visitor(app).teacher(filled)
    words = teacher.get("/api/studio/settings").json
    return teacher.call("PUT", "/api/studio/settings", json={**words, "time_zone": zone})


def test_the_day_is_that_of_the_studio(app: Any, filled: Filled) -> None:
    days = {}
    for zone in (EAST, WEST):
        assert _set_zone(app, filled, zone).status_code == 200
        days[zone] = date.fromisoformat(Visitor(app).pupil(filled).get("/api/today").json["today"])
        assert Visitor(app).teacher(filled).get("/api/week").json["today"] == str(days[zone])
        assert days[zone] == datetime.now(ZoneInfo(zone)).date()
    assert days[EAST] - days[WEST] >= timedelta(days=1)


def test_a_zone_that_is_none_is_one_sentence(app: Any, filled: Filled) -> None:
    answer = _set_zone(app, filled, "Europe/Nowhere")
    assert answer.status_code == 422


@pytest.mark.parametrize(("since_midnight_s", "counted"), [(-60, 0), (0, 1)])
def test_only_the_goes_since_the_studio_s_midnight_are_today_s(
    app: Any, engine: Engine, filled: Filled, violin_take: bytes, since_midnight_s: int, counted: int
) -> None:
    assert _set_zone(app, filled, EAST).status_code == 200
    pupil = Visitor(app).pupil(filled)
    assert hand_in(pupil, filled, violin_take).status_code == 201
    midnight = datetime.now(ZoneInfo(EAST)).replace(hour=0, minute=0, second=0, microsecond=0).astimezone(UTC)
    with open_session(engine, "moves the take") as session:
        session.execute(update(Take).values(recorded_at=midnight + timedelta(seconds=since_midnight_s)))
    item = pupil.get("/api/today").json["items"][0]
    assert (item["goes_today"], item["takes"]) == (counted, 1)
