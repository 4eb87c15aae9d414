"""The page of a take in the real browser: evidence, the teacher's ear, another take beside it, paper; the tuning check."""

from __future__ import annotations

import io
import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect
from pypdf import PdfReader

from tests.browser.conftest import OpenPage, enter_as_pupil, enter_as_teacher, go_and_play
from tests.conftest import Filled

pytestmark = pytest.mark.browser


def hand_in_a_file(page: Page, sound: Path) -> None:
    go_and_play(page)
    page.get_by_test_id("file").set_input_files(sound)
    expect(page.locator("[data-nest]")).to_have_count(16, timeout=20_000)
    page.get_by_role("button", name="Hand this one in").click()
    expect(page.get_by_text("This one is with your teacher.")).to_be_visible()


def test_the_teachers_ear_and_another_take_beside_it(
    site: str, filled: Filled, open_page: OpenPage, microphone: Path
) -> None:
    pupil = open_page(820, 1180)
    enter_as_pupil(pupil, site, filled)
    hand_in_a_file(pupil, microphone)
    pupil.get_by_text("For a grown-up").click()
    expect(pupil.get_by_text("The second finger lands a little low wherever it is used")).to_be_visible()
    pupil.get_by_role("link", name="Done for now").click()
    hand_in_a_file(pupil, microphone)

    teacher = open_page()
    enter_as_teacher(teacher, site, filled)
    teacher.get_by_role("link", name="Listening").click()
    # What waits longest stands first; the newest take is the one that the pupil looks at.
    teacher.get_by_role("link").filter(has_text=filled.pupil_name).last.click()
    nest = teacher.locator('[data-nest="2"]').first
    expect(nest).to_have_attribute("data-state", "away")
    expect(teacher.get_by_role("img", name=re.compile("played at 100"))).to_be_visible()

    # Pointing at a cause lights the notes that carry it.
    teacher.get_by_text("Second finger stands low", exact=True).hover()
    expect(nest.locator("rect")).not_to_have_attribute("fill", "transparent")

    # One note: alone, and as it should sound; then the teacher's ear goes before the check.
    nest.focus()
    teacher.keyboard.press("Enter")
    chosen = teacher.get_by_role("region", name="The chosen note")
    with teacher.expect_response(lambda answer: "/api/demonstration" in answer.url):
        chosen.get_by_role("button", name="The bar as it should sound").or_(
            chosen.get_by_role("button", name="The measure as it should sound")
        ).click()
    chosen.get_by_role("button", name="It is home").click()
    expect(nest).to_have_attribute("data-state", "home")
    teacher.get_by_role("button", name="Second finger stands low: not so").click()
    expect(teacher.get_by_text("Not so, by")).to_be_visible()
    pupil.reload()
    expect(pupil.locator('[data-nest="2"]')).to_have_attribute("data-state", "home")
    expect(pupil.get_by_text("Your second finger lands")).to_be_hidden()
    teacher.get_by_role("button", name="Take back: Second finger").click()
    expect(teacher.get_by_text("Not so, by")).to_be_hidden()

    teacher.get_by_role("combobox", name="Beside another take").click()
    teacher.get_by_role("option").nth(1).click()
    expect(teacher.locator('[data-nest="2"]')).to_have_count(2)
    expect(teacher.get_by_text("From the earlier to the later: in tune 11 → 11")).to_be_visible()

    with teacher.expect_download() as download:
        teacher.get_by_role("link", name="Report as PDF").click()
    text = PdfReader(io.BytesIO(download.value.path().read_bytes())).pages[0].extract_text()
    assert filled.pupil_name in text


def test_a_string_is_heard_before_playing(site: str, filled: Filled, open_page: OpenPage) -> None:
    page = open_page(390, 844)
    enter_as_pupil(page, site, filled)
    page.get_by_role("link", name="Play", exact=True).click()
    expect(page.get_by_text("keep your face away")).to_be_visible()
    page.get_by_role("button", name="Listen to my strings").click()
    expect(page.get_by_text("Play one open string")).to_be_visible()
    # The fake microphone plays a scale that begins on the open D.
    expect(page.get_by_role("img", name=re.compile(r"^D: (in tune|\d+ cents)"))).to_be_visible(timeout=20_000)
    page.get_by_role("button", name="Stop listening").click()
    expect(page.get_by_role("button", name="I am ready")).to_be_enabled()
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
