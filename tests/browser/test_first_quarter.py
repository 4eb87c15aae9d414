"""A new teacher's first quarter of an hour: from an installation where nobody teaches yet to a first checked take."""

from __future__ import annotations

import re
from collections.abc import Iterator

import pytest
from playwright.sync_api import expect

from attentive_owl.ops.cluster import Cluster
from attentive_owl.settings import Settings
from tests.browser.conftest import OpenPage, _answers, go_and_play
from tests.browser.test_round import check_page
from tests.conftest import free_port, fresh_settings
from tests.processes import wait_for, web, worker

pytestmark = pytest.mark.browser


@pytest.fixture
def empty_site(cluster: Cluster, tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    """A house of its own, in which nobody teaches."""
    port = free_port()
    with fresh_settings(cluster, tmp_path_factory.mktemp("empty")) as own:
        settings: Settings = own
        with web(settings, port), worker(settings):
            wait_for(lambda: _answers(port))
            yield f"http://127.0.0.1:{port}"


def test_from_an_empty_studio_to_a_first_checked_take(empty_site: str, open_page: OpenPage) -> None:
    page = open_page()
    page.goto(empty_site)
    page.get_by_role("button", name="A new studio").click()
    for label, text in (
        ("Name of the studio", "Boat House"), ("Your name, as pupils know you", "Ida"), ("Your e-mail", "ida@boat.example"),
        ("A password of ten letters or more", "a lamp in the bow"),
    ):  # fmt: skip
        page.get_by_label(label).fill(text)
    page.get_by_role("button", name="Make the studio").click()

    # The page itself says what comes next, each time.
    steps = page.get_by_role("region", name="First steps")
    check_page(page, "an empty studio")
    steps.get_by_role("link", name="Make a class").click()
    page.get_by_label("Name of a new class").fill("Saturday")
    page.get_by_role("button", name="Make the class").click()
    page.get_by_role("link", name="This week").click()
    steps.get_by_role("link", name="Put pupils in").click()
    page.get_by_role("button", name="Several at once").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_role("textbox").fill("Ada Moor, violin, 4/4")
    dialog.get_by_role("button", name="Look it through").click()
    dialog.get_by_role("button", name=re.compile("^Put 1 in")).click()
    card = page.get_by_role("dialog")
    words = card.get_by_test_id("passphrase").inner_text()
    code = card.get_by_text("Class code").locator("xpath=following-sibling::*[1]").inner_text()
    card.get_by_role("button", name="Done").click()
    page.get_by_role("button", name="Note consent for Ada Moor").click()
    expect(page.get_by_text("We record your child's practice")).to_be_visible()
    page.get_by_label("Which adult said yes to recordings?").fill("Ada's mother")
    page.get_by_role("button", name="Note it").click()
    expect(page.get_by_text("May record")).to_be_visible()

    page.get_by_role("link", name="This week").click()
    steps.get_by_role("link", name="Open the workshop").click()
    page.get_by_role("button", name="Assign…").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Target tempo (bpm)").fill("100")
    dialog.get_by_text("Tempo ladder").click()
    dialog.get_by_label("Begin slower, and offer the next rung after clean goes").uncheck()
    dialog.get_by_role("button", name="Assign", exact=True).click()
    expect(page.get_by_text("Set for 1 pupil")).to_be_visible()
    page.get_by_role("link", name="This week").click()
    expect(steps.get_by_role("link", name="Look for it")).to_be_visible()

    pupil = open_page(820, 1180)
    pupil.goto(empty_site)
    pupil.get_by_label("Class code").fill(code)
    pupil.get_by_label("Your words").fill(words)
    pupil.get_by_role("button", name="Come in").click()
    go_and_play(pupil)
    pupil.get_by_role("button", name="Count in and record").click()
    pupil.get_by_role("button", name="Hand this one in").click(timeout=60_000)

    page.get_by_role("link", name="Listening", exact=True).click()
    row = page.get_by_role("listitem").filter(has_text="Ada Moor")
    expect(row).to_be_visible(timeout=20_000)
    page.get_by_role("link", name="Begin").click()
    expect(page.get_by_role("region", name="Your word")).to_be_visible()
    page.get_by_role("link", name="This week").click()
    expect(steps).to_be_hidden()
