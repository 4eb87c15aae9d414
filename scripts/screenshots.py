"""Pictures of the main views from the demo, into docs/screenshots. Needs ./start running: python scripts/screenshots.py"""

from __future__ import annotations

import os
import sys
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from attentive_owl.demo import scenario

BASE = f"http://127.0.0.1:{os.environ.get('OWL_PORT', '8420')}"
OUT = Path(__file__).resolve().parent.parent / "docs" / "screenshots"
CHROMIUM = ["--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
            "--disable-component-update", "--disable-sync", "--use-fake-ui-for-media-stream",
            "--use-fake-device-for-media-stream"]  # fmt: skip
DESK, TABLET, PHONE = (1280, 800), (820, 1180), (390, 844)


def teacher(page: Page) -> None:
    page.goto(BASE)
    page.get_by_role("button", name="I teach").click()
    page.get_by_label("E-mail").fill(scenario.TEACHER_EMAIL)
    page.get_by_label("Password").fill(scenario.TEACHER_PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    page.get_by_role("heading", name="This week").wait_for()


def pupil(page: Page, place: int = 0) -> None:
    page.goto(BASE)
    page.get_by_label("Class code").fill(scenario.CLASS_CODE)
    page.get_by_label("Your words").fill(scenario.PUPILS[place].passphrase)
    page.get_by_role("button", name="Come in").click()
    page.get_by_role("heading", name="Today").wait_for()


def steady_pupil(page: Page) -> None:
    pupil(page, 2)


def go(path: str, ready: str) -> Callable[[Page], None]:
    def step(page: Page) -> None:
        page.goto(BASE + path)
        page.locator(ready).first.wait_for()

    return step


def open_take(page: Page) -> None:
    go("/listening?only=all&page=1", "main li a")(page)
    page.get_by_role("link").filter(has_text="Tilde Aske").first.click()
    page.locator("[data-nest]").first.wait_for()


def get_ready(page: Page) -> None:
    page.get_by_role("link", name="Play", exact=True).first.click()
    page.locator(".engraving svg").first.wait_for()


def open_practice(page: Page) -> None:
    get_ready(page)
    page.get_by_role("button", name="Play it", exact=True).click()
    page.get_by_role("button", name="Count in and record").wait_for()


def record(page: Page) -> None:
    open_practice(page)
    page.get_by_role("button", name="Count in and record").click()
    page.get_by_role("button", name="I am done").and_(page.locator(":enabled")).wait_for()


def open_result(page: Page) -> None:
    open_practice(page)
    page.get_by_role("region", name="Your goes").get_by_role("link").first.click()
    page.locator("[data-nest]").first.wait_for()


def week_sheet(page: Page) -> None:
    go("/sheets", "main li")(page)
    page.get_by_role("link", name=scenario.DRAFT[0]).click()
    page.get_by_label("Up to (bpm)").first.wait_for()


def one_pupil(page: Page) -> None:
    go("/people", "main li")(page)
    page.get_by_role("link", name="Leo Sandling").click()
    page.get_by_role("region", name="G major, one octave, quarters").locator("svg").first.wait_for()


SHOTS: dict[str, tuple[Callable[[Page], None] | None, tuple[int, int], list[Callable[[Page], None]]]] = {
    "week": (teacher, DESK, []),
    "listening": (teacher, DESK, [go("/listening", "main li a")]),
    "take": (teacher, DESK, [open_take]),
    "class": (teacher, DESK, [go("/class", "main td svg")]),
    "pupil": (teacher, DESK, [one_pupil]),
    "week-sheet": (teacher, DESK, [week_sheet]),
    "lesson": (teacher, DESK, [go("/lesson", ".engraving svg")]),
    "workshop": (teacher, DESK, [go("/workshop", "[aria-label='Double bass'] .engraving svg")]),
    "studio": (teacher, DESK, [go("/studio", "table")]),
    "people": (teacher, DESK, [go("/people", "main li")]),
    "today-tablet": (pupil, TABLET, []),
    "ready-tablet": (pupil, TABLET, [get_ready]),
    "recording-tablet": (pupil, TABLET, [record]),
    "record-tablet": (steady_pupil, TABLET, [go("/record", "main svg")]),
    "home-desk": (pupil, DESK, [go("/home", "main ol")]),
    "practice-tablet": (pupil, TABLET, [open_practice]),
    "result-tablet": (pupil, TABLET, [open_result]),
    "result-desk": (pupil, DESK, [open_result]),
    "result-phone": (pupil, PHONE, [open_result]),
}


def main() -> None:
    wanted = sys.argv[1:] or list(SHOTS)
    out = Path(os.environ.get("OWL_SHOTS", OUT))
    out.mkdir(parents=True, exist_ok=True)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium-headless-shell", args=CHROMIUM)
        for name in wanted:
            enter, (width, height), steps = SHOTS[name]
            page = browser.new_page(viewport={"width": width, "height": height}, permissions=["microphone"])
            page.on("console", lambda message: print("console:", message.text) if message.type == "error" else None)
            for step in ([enter] if enter else []) + steps:
                step(page)
            page.evaluate("document.fonts.ready")
            page.wait_for_timeout(700)
            page.screenshot(path=out / f"{name}.png")
            page.close()
            print(name)
        browser.close()


if __name__ == "__main__":
    main()
