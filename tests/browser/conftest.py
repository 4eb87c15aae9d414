"""The real page in headless Chromium, against the real web server and worker."""

from __future__ import annotations

import urllib.error
import urllib.request
import uuid
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import pytest
import soundfile
from playwright.sync_api import Browser, BrowserContext, Page, Playwright, expect, sync_playwright
from sqlalchemy import Engine

from attentive_owl.core.exercises import Recipe, build
from attentive_owl.core.playing import Habits
from attentive_owl.ops.cluster import Cluster
from attentive_owl.settings import Settings
from attentive_owl.store.session import make_engine
from tests.conftest import PASSWORD, RATE, Filled, fill, free_port, fresh_settings, played
from tests.processes import wait_for, web, worker

ARGUMENTS = [
    "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync", "--autoplay-policy=no-user-gesture-required",
    "--use-fake-ui-for-media-stream", "--use-fake-device-for-media-stream",
]  # fmt: skip
# The fake microphone starts its file anew when it is opened: the playing begins after count-in (four beats at 100).
LEAD_S = 5.0
PATIENCE_MS = 30_000
"""Two browsers, two servers and two ears share two cores."""
expect.set_options(timeout=PATIENCE_MS)


def _answers(port: int) -> bool:
    try:
        with urllib.request.urlopen(f"http://127.0.0.1:{port}/api/health", timeout=1) as answer:
            return bool(answer.status == 200)
    except (urllib.error.URLError, OSError):
        return False


@pytest.fixture(scope="session")
def settings(cluster: Cluster, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Settings]:
    """One house for all of these tests; each has a studio of its own in it."""
    with fresh_settings(cluster, tmp_path_factory.mktemp("house")) as own:
        yield own


@pytest.fixture(scope="session")
def engine(settings: Settings) -> Iterator[Engine]:
    own = make_engine(settings.database_url)
    yield own
    own.dispose()


@pytest.fixture
def filled(engine: Engine, settings: Settings) -> Filled:
    return fill(engine, settings, tag=uuid.uuid4().hex[:8])


@pytest.fixture(scope="session")
def site(settings: Settings) -> Iterator[str]:
    port = free_port()
    with web(settings, port), worker(settings):
        wait_for(lambda: _answers(port))
        yield f"http://127.0.0.1:{port}"


@pytest.fixture(scope="session")
def playwright() -> Iterator[Playwright]:
    with sync_playwright() as own:
        yield own


@pytest.fixture(scope="session")
def microphone(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """What the fake microphone plays: a D major scale at 100 with a low second finger and one note left out."""
    score = build(Recipe("D", tempo_bpm=100), "violin")
    habits = Habits(finger_cents={2: -38}, missed=(12,), scatter_cents=3, timing_ms=6, lead_s=LEAD_S, tail_s=1.5)
    path = tmp_path_factory.mktemp("microphone") / "take.wav"
    soundfile.write(path, np.concatenate([played(score, habits), np.zeros(RATE, np.float32)]), RATE, subtype="PCM_16")
    return path


OpenPage = Callable[..., Page]


@pytest.fixture(scope="session")
def browser(playwright: Playwright, microphone: Path) -> Iterator[Browser]:
    """Its microphone begins its file anew each time that it is opened."""
    own = playwright.chromium.launch(
        executable_path="/usr/bin/chromium-headless-shell",
        args=[*ARGUMENTS, f"--use-file-for-fake-audio-capture={microphone}%noloop"],
    )
    yield own
    own.close()


@pytest.fixture
def open_page(browser: Browser) -> Iterator[OpenPage]:
    """Opens a page in a browser context of its own; whatever the page complains of fails the test."""
    contexts: list[BrowserContext] = []
    complaints: list[str] = []

    def make(width: int = 1280, height: int = 800, installed: bool = False) -> Page:
        """`installed`: with the page's own worker, which fetches the whole week for each new visitor."""
        context = browser.new_context(
            viewport={"width": width, "height": height},
            permissions=["microphone"],
            service_workers="allow" if installed else "block",
        )
        contexts.append(context)
        page = context.new_page()
        page.set_default_timeout(PATIENCE_MS)
        page.on("pageerror", lambda error: complaints.append(str(error)))
        page.on("console", lambda m: complaints.append(m.text) if "Content Security Policy" in m.text else None)
        return page

    yield make
    for context in contexts:
        context.close()
    assert complaints == []


def go_and_play(page: Page) -> None:
    """From today's page to where the first exercise is recorded; the steps before it are passed over."""
    page.get_by_role("link", name="Play", exact=True).first.click()
    step = page.get_by_role("button", name="Play it", exact=True)
    step.click()
    page.get_by_role("button", name="Count in and record").wait_for()


def enter(page: Page, site: str, way: str, words: dict[str, str]) -> None:
    """With a session that is open already: what is asked at the door is for the tests of the door."""
    asked = page.request
    token = asked.get(f"{site}/api/session").json()["csrf_token"]
    answer = asked.post(f"{site}/api/session/{way}", data=words, headers={"X-CSRF-Token": token})
    assert answer.ok, answer.text()
    page.goto(site)


def enter_as_teacher(page: Page, site: str, filled: Filled, by_hand: bool = False) -> None:
    if by_hand:
        page.goto(site)
        page.get_by_role("button", name="I teach").click()
        page.get_by_label("E-mail").fill(filled.email)
        page.get_by_label("Password").fill(PASSWORD)
        page.get_by_role("button", name="Sign in").click()
    else:
        enter(page, site, "teacher", {"email": filled.email, "password": PASSWORD})
    page.get_by_role("heading", name="This week").wait_for()


def enter_as_pupil(page: Page, site: str, filled: Filled, phrase: str | None = None, by_hand: bool = False) -> None:
    own = phrase or filled.phrase
    if by_hand:
        page.goto(site)
        page.get_by_label("Class code").fill(filled.class_code)
        page.get_by_label("Your words").fill(own)
        page.get_by_role("button", name="Come in").click()
    else:
        enter(page, site, "pupil", {"class_code": filled.class_code, "passphrase": own})
    page.get_by_text("Sign out").wait_for()
