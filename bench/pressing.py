"""What three tasks of a teacher cost in presses and in seconds of the machine, in the real pages, in a house of its own that is thrown
away: a class of twelve from a CSV; last week's sheet copied with one change and sent; thirty takes heard and marked.

The seconds are those that a person can not be quicker than: every wait of the page, with no pause between presses. For the takes the
listening is added: of each take that is opened, the spots that the page would play, or the whole take where it names none; what is
accepted together after a look costs three seconds a take (by hand, an assumption). A press is a click, a key, or a field filled.

python -m bench.pressing
"""

from __future__ import annotations

import random
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from playwright.sync_api import Page, sync_playwright
from sqlalchemy import select

from attentive_owl.core.exercises import Recipe, build
from attentive_owl.core.judging import spots
from attentive_owl.formats.audio import flac_bytes
from attentive_owl.ops.cluster import Cluster
from attentive_owl.settings import Settings
from attentive_owl.store.audio import AudioStore
from attentive_owl.store.migrate import migrate
from attentive_owl.store.models import Assignment, Pupil
from attentive_owl.store.session import make_engine, open_session
from tests.browser.conftest import ARGUMENTS, _answers
from tests.conftest import PASSWORD, RATE, Filled, fill, free_port, played
from tests.processes import wait_for, web
from tests.web.desk import cause, given_take, report

_LOOK_S = 3.0
_TAKE_S = 9.0
_TAKES = 30
_HAND_MS = 200


class Hand:
    """Presses, and counts them."""

    def __init__(self, page: Page) -> None:
        self.page, self.presses = page, 0

    def button(self, name: str, place: Any = None, exact: bool = False) -> None:
        self._press(lambda: (place or self.page).get_by_role("button", name=name, exact=exact).first.click())

    def link(self, name: str) -> None:
        self._press(lambda: self.page.get_by_role("link", name=name, exact=True).first.click())

    def fill(self, label: str, text: str, place: Any = None) -> None:
        self._press(lambda: (place or self.page).get_by_label(label).first.fill(text))

    def key(self, name: str) -> None:
        self._press(lambda: self.page.keyboard.press(name))

    def _press(self, act: Callable[[], object]) -> None:
        act()
        self.presses += 1


def _class_from_csv(hand: Hand) -> None:
    page = hand.page
    hand.link("People")
    hand.fill("Name of a new class", "First boat")
    hand.button("Make the class")
    own = page.get_by_role("region", name="First boat")
    own.wait_for()
    hand.button("Several at once", own)
    rows = "".join(f"Pupil {at},{'cello' if at % 3 else 'violin'},3/4\n" for at in range(12)).encode()
    page.get_by_test_id("roster-file").set_input_files({"name": "c.csv", "mimeType": "text/csv", "buffer": rows})
    hand.presses += 1
    hand.button("Look it through")
    hand.button("Put 12 in")
    page.get_by_role("dialog", name="12 cards").wait_for()


def _last_week_again(hand: Hand) -> None:
    page = hand.page
    hand.link("Sheets")
    hand.button("Copy the last one")
    page.get_by_label("Good goes a day").first.wait_for()
    hand.fill("Up to (bpm)", "66")
    page.get_by_text("kept", exact=True).wait_for()
    hand.button("Send", exact=True)
    page.get_by_text("Sent: 2 exercises").wait_for()


def _thirty_takes(hand: Hand) -> None:
    """The good ones together; each of the others by its spots, a word and the next."""
    page = hand.page
    hand.link("Listening")
    good = page.get_by_role("region", name="Good goes")
    good.wait_for()
    hand.button("Accept these", good)
    page.get_by_text("takes are accepted").wait_for()
    hand.link("Begin")
    while True:
        page.get_by_role("region", name="Your word").wait_for()
        # No hand is quicker than the page's own listeners.
        page.wait_for_timeout(_HAND_MS)
        before = page.url
        hand.key("s")
        hand.key("o")
        draft = page.get_by_role("list", name="Drafts").get_by_role("button")
        if draft.count():
            draft.first.click()
            hand.presses += 1
        last = page.get_by_role("button", name="Send", exact=True).count() > 0
        hand.key("Control+Enter")
        if last:
            page.get_by_text("Take it back").wait_for()
            return
        page.wait_for_url(lambda address, own=before: address != own)


def _fill_week(engine: Any, settings: Settings, filled: Filled) -> float:
    """Thirty takes, three of five of them good; returns the seconds that a teacher listens."""
    drawn, seconds = random.Random(3), 0.0
    low = cause("finger", (2, 7, 9), finger=2, cents=-20.0, mm=3.0, towards="bridge", title="Second finger stands low")
    kinds = [
        report(), report(), report(), report(good=False, causes=[low]), report(good=False, wrong=["F#4"]), report(good=False, unclear=7),
    ]  # fmt: skip
    sound = flac_bytes(played(build(Recipe("D", tempo_bpm=100), "violin")), RATE)
    AudioStore(settings.audio_url).put_bytes(sound, "0" * 64, "playback")
    for at in range(_TAKES):
        made = kinds[at % len(kinds)] if at else report(refusal="too_noisy")
        pupil = drawn.choice((filled.pupil_id, filled.other_pupil_id))
        given_take(engine, filled, made, pupil_id=pupil, seconds_ago=at)
        found = spots(made)
        if made.good_go is not None and made.good_go.good:
            seconds += _LOOK_S
        else:
            seconds += sum(own.end_s - own.start_s for own in found) or _TAKE_S
    return seconds


def _last_week(page: Page, site: str, engine: Any, filled: Filled) -> None:
    """A sheet that was sent."""
    with open_session(engine, "a benchmark sets to both") as session:
        own = session.get_one(Assignment, filled.assignment_id)
        own.pupils = list(session.scalars(select(Pupil).where(Pupil.studio_id == filled.studio_id)))
    page.goto(f"{site}/sheets")
    page.get_by_role("button", name="New sheet").click()
    page.get_by_label("Due").fill("2099-01-01")
    page.get_by_label("Take from").click()
    page.get_by_role("option", name="Path: Middle strings first").click()
    for title in ("D major, one octave, quarters", "Lower half of a scale, D major, quarters"):
        page.get_by_role("button", name=f"Put on the sheet: {title}").click()
    page.get_by_text("kept", exact=True).wait_for()
    page.get_by_role("button", name="Send", exact=True).click()
    page.get_by_text("Sent: 2 exercises").wait_for()


def main() -> None:
    home = Path(tempfile.mkdtemp(prefix="owl-press-"))
    home.chmod(0o755)
    (home / "secret.key").write_text("a key for tests")
    cluster, port = Cluster(home, free_port(), durable=False), free_port()
    cluster.start()
    cluster.create_database("press")
    root = Path(__file__).resolve().parent.parent
    settings = Settings(
        home, cluster.url("press"), f"file://{home}/audio", "a key for tests", root / "frontend" / "dist", False
    )
    engine = make_engine(settings.database_url)
    migrate(engine)
    filled = fill(engine, settings)
    site = f"http://127.0.0.1:{port}"
    try:
        with web(settings, port), sync_playwright() as playwright:
            wait_for(lambda: _answers(port))
            browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
            page = browser.new_context(viewport={"width": 1280, "height": 800}, service_workers="block").new_page()
            page.goto(site)
            page.get_by_role("button", name="I teach").click()
            page.get_by_label("E-mail").fill(filled.email)
            page.get_by_label("Password").fill(PASSWORD)
            page.get_by_role("button", name="Sign in").click()
            page.get_by_role("heading", name="This week").wait_for()
            _last_week(page, site, engine, filled)
            listening = _fill_week(engine, settings, filled)
            print("| task | presses | seconds of the machine | with listening |\n|---|---|---|---|")
            for name, act, more in (
                ("a class of twelve from a CSV", _class_from_csv, 0.0),
                ("last week's sheet, one change, sent", _last_week_again, 0.0),
                (f"{_TAKES} takes heard and marked", _thirty_takes, listening),
            ):
                page.goto(f"{site}/week")
                page.get_by_role("heading", name="This week").wait_for()
                hand, begin = Hand(page), time.perf_counter()
                act(hand)
                own = time.perf_counter() - begin
                print(f"| {name} | {hand.presses} | {own:.1f} | {own + more:.0f} |", flush=True)
            browser.close()
    finally:
        engine.dispose()
        cluster.stop()


if __name__ == "__main__":
    main()
