"""A picture of the bow hold: only where it is asked for and agreed to, and nothing in it but the picture."""

from __future__ import annotations

import io
from typing import Any

import pytest
from PIL import Image
from sqlalchemy import Engine

from attentive_owl.store.models import Assignment
from attentive_owl.store.session import open_session
from tests.conftest import Filled, Visitor
from tests.web.takes import hand_in

ORIENTATION, MAKE, GPS = 0x0112, 0x010F, 0x8825
"""Tags of Exif (CIPA DC-008)."""


def photograph(kind: str = "JPEG", size: tuple[int, int] = (1600, 900)) -> bytes:
    """On its side (orientation 6), with the camera's notes."""
    picture = Image.new("RGB", size, "tan")
    notes = Image.Exif()
    notes[ORIENTATION], notes[MAKE] = 6, "A camera"
    notes.get_ifd(GPS)[1] = "N"
    out = io.BytesIO()
    picture.save(out, kind, exif=notes)
    return out.getvalue()


@pytest.fixture
def asked(engine: Engine, filled: Filled, app: Any, violin_take: bytes) -> str:
    """A take of an exercise with which a picture is wanted."""
    with open_session(engine, "tests ask for a picture") as session:
        session.get_one(Assignment, filled.assignment_id).wants_picture = True
    return str(hand_in(Visitor(app).pupil(filled), filled, violin_take).json["id"])


def agree(app: Any, filled: Filled, **body: Any) -> Any:
    return Visitor(app).teacher(filled).call("PATCH", f"/api/pupils/{filled.pupil_id}", json=body).json


def send(app: Any, filled: Filled, take: str, picture: bytes) -> Any:
    data = {"picture": (io.BytesIO(picture), "bow.jpg")}
    return Visitor(app).pupil(filled).post(f"/api/takes/{take}/picture", data=data, content_type="multipart/form-data")


@pytest.mark.parametrize(("over", "words"), [(0, "JPEG, PNG or WebP"), (1, "A picture can be 20 MB at most.")])
def test_a_picture_may_be_of_twenty_megabytes(app: Any, filled: Filled, asked: str, over: int, words: str) -> None:
    """What is that large and no picture is refused for what it is, one byte more for its size."""
    agree(app, filled, pictures_agreed=True)
    refused = send(app, filled, asked, b"0" * (20 * 1024 * 1024 + over))
    assert (refused.status_code, words in refused.json["error"]) == (422, True), refused.json


def test_a_picture_needs_the_adult_s_yes_and_the_teacher_s_wish(
    app: Any, engine: Engine, filled: Filled, asked: str
) -> None:
    assert send(app, filled, asked, photograph()).status_code == 403
    assert agree(app, filled, pictures_agreed=True)["pictures_agreed"] is True
    teacher, pupil = Visitor(app).teacher(filled), Visitor(app).pupil(filled)
    assert pupil.get(f"/api/takes/{asked}").json["picture_wanted"] is True
    assert send(app, filled, asked, photograph()).status_code == 200
    seen = teacher.get(f"/api/takes/{asked}/picture")
    assert (seen.status_code, seen.mimetype) == (200, "image/jpeg")
    # Upright, smaller, and without what the camera noted.
    kept = Image.open(io.BytesIO(seen.data))
    assert (kept.size, kept.info.get("exif"), dict(kept.getexif())) == ((720, 1280), None, {})
    # The yes is taken back: what was sent is hidden at once.
    assert agree(app, filled, consent_by="")["pictures_agreed"] is False
    assert teacher.get(f"/api/takes/{asked}/picture").status_code == 404
    assert teacher.get(f"/api/takes/{asked}").json["picture_url"] is None
    # And there is no yes to pictures alone.
    assert agree(app, filled, pictures_agreed=True)["pictures_agreed"] is False
    with open_session(engine, "the teacher does not ask any more") as session:
        session.get_one(Assignment, filled.assignment_id).wants_picture = False
    agree(app, filled, consent_by="an adult", pictures_agreed=True)
    assert send(app, filled, asked, photograph()).status_code == 403


def test_a_picture_is_taken_away_by_whoever_sent_it(app: Any, filled: Filled, asked: str) -> None:
    agree(app, filled, pictures_agreed=True)
    for kind in ("PNG", "WEBP"):
        assert send(app, filled, asked, photograph(kind, (300, 200))).status_code == 200
    other = Visitor(app).pupil(filled, filled.other_phrase)
    assert other.get(f"/api/takes/{asked}/picture").status_code == 404
    assert other.call("DELETE", f"/api/takes/{asked}/picture").status_code == 404
    pupil = Visitor(app).pupil(filled)
    assert pupil.call("DELETE", f"/api/takes/{asked}/picture").status_code == 200
    assert pupil.get(f"/api/takes/{asked}/picture").status_code == 404


@pytest.mark.parametrize(
    "picture",
    [
        b"",
        b"GIF89a" + bytes(60),
        b"<svg xmlns='http://www.w3.org/2000/svg'/>",
        photograph()[:400],
        bytes(range(256)) * 40,
    ],
)
def test_what_is_no_picture_gets_one_sentence(app: Any, filled: Filled, asked: str, picture: bytes) -> None:
    agree(app, filled, pictures_agreed=True)
    answer = send(app, filled, asked, picture)
    assert answer.status_code == 422
    assert answer.json["error"] == "This file could not be read as a picture (JPEG, PNG or WebP)."


def test_a_picture_that_would_fill_the_memory_is_refused(app: Any, filled: Filled, asked: str) -> None:
    agree(app, filled, pictures_agreed=True)
    out = io.BytesIO()
    Image.new("1", (9_000, 9_000)).save(out, "PNG")
    answer = send(app, filled, asked, out.getvalue())
    assert answer.status_code == 422
