"""The tuning check over the wire: a moment of an open string, and what is no moment of sound."""

from __future__ import annotations

import io
import wave
from datetime import UTC, datetime, timedelta
from typing import Any

import numpy as np
import pytest
from sqlalchemy import Engine

from attentive_owl.settings import Settings
from attentive_owl.store.session import open_session
from attentive_owl.store.tuning import open_strings_at
from attentive_owl.web.tuning import moment as read_moment
from tests.conftest import Filled, Visitor, fill

RATE = 48000


def moment(hz: float, seconds: float = 0.45, channels: int = 1) -> bytes:
    """A string-like tone: ten harmonics that fall off as 1/n."""
    t = np.arange(int(seconds * RATE)) / RATE
    tone = sum(np.sin(2 * np.pi * hz * n * t) / n for n in range(1, 11))
    out = io.BytesIO()
    with wave.open(out, "wb") as file:
        file.setnchannels(channels)
        file.setsampwidth(2)
        file.setframerate(RATE)
        file.writeframes((6000 * np.repeat(tone, channels)).astype("<i2").tobytes())
    return out.getvalue()


def ask(visitor: Visitor, sound: bytes) -> Any:
    data = {"sound": (io.BytesIO(sound), "moment.wav")}
    return visitor.post("/api/tuning-check", data=data, content_type="multipart/form-data")


@pytest.mark.parametrize(
    ("hz", "string", "cents", "word"),
    # Pure fifths (3:2) from A4 = 440 Hz: D 293.333, G 195.556, E 660; 20 cents are a ratio of 2 ** (20 / 1200).
    [
        (440.0, "A", 0, "in tune"),
        (293.333 * 2 ** (-20 / 1200), "D", -20, "low"),
        (195.556 * 2 ** (12 / 1200), "G", 12, "high"),
        (660.0, "E", 0, "in tune"),
    ],
)
def test_a_moment_of_a_string(app: Any, filled: Filled, hz: float, string: str, cents: float, word: str) -> None:
    heard = ask(Visitor(app).pupil(filled), moment(hz)).json
    assert (heard["string"], heard["word"]) == (string, word)
    assert heard["cents"] == pytest.approx(cents, abs=1.5)


def test_the_strings_are_those_of_the_pupil_s_instrument(app: Any, engine: Engine, settings: Settings) -> None:
    """C3 is a viola's string, and no violin's: 440 Hz and three pure fifths down."""
    violist = fill(engine, settings, "viola", "viola")
    heard = ask(Visitor(app).pupil(violist), moment(440 * (2 / 3) ** 3)).json
    assert (heard["string"], heard["word"]) == ("C", "in tune")


def test_no_string_is_no_reading(app: Any, filled: Filled) -> None:
    hiss = io.BytesIO()
    with wave.open(hiss, "wb") as file:
        file.setnchannels(1)
        file.setsampwidth(2)
        file.setframerate(RATE)
        file.writeframes(np.random.default_rng(1).integers(-3000, 3000, RATE // 2).astype("<i2").tobytes())
    assert ask(Visitor(app).pupil(filled), hiss.getvalue()).json["string"] is None


@pytest.mark.parametrize("sound", [b"", b"RIFFnothing", moment(440, 0.05), moment(440, channels=2)])
def test_what_is_no_moment_gets_one_sentence(app: Any, filled: Filled, sound: bytes) -> None:
    answer = ask(Visitor(app).pupil(filled), sound)
    assert answer.status_code == 422
    assert answer.json["error"].endswith(".")


def test_of_a_long_moment_three_seconds_are_heard() -> None:
    """They are decoded while the pupil waits: nobody keeps the house busy with an hour."""
    samples, rate = read_moment(moment(440.0, 5.0))
    assert len(samples) == 3 * rate
    assert len(read_moment(moment(440.0, 2.5))[0]) == 2.5 * rate


def test_what_was_found_is_kept_for_the_day_and_for_the_judge(app: Any, filled: Filled, engine: Engine) -> None:
    pupil = Visitor(app).pupil(filled)
    ask(pupil, moment(440.0 * 2 ** (-30 / 1200)))
    ask(pupil, moment(440.0 * 2 ** (-22 / 1200)))
    ask(pupil, moment(293.333))
    room = pupil.get(f"/api/assignments/{filled.assignment_id}/room").json
    assert {own["string"]: own["in_tune"] for own in room["tuned_today"]} == {"A": False, "D": True}
    assert room["lowest_bpm"] == 40
    now = datetime.now(UTC)
    with open_session(engine, "tests look at readings") as session:
        # The newest of each string, and none of another day or another pupil.
        found = open_strings_at(session, filled.pupil_id, now)
        assert set(found) == {"A", "D"}
        assert found["A"] == pytest.approx(-22, abs=1.5)
        assert open_strings_at(session, filled.pupil_id, now + timedelta(hours=13)) == {}
        assert open_strings_at(session, filled.pupil_id, now - timedelta(hours=1)) == {}
        assert open_strings_at(session, filled.other_pupil_id, now) == {}
