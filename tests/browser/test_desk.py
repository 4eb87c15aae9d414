"""A class from a list, in the real pages: a broken row is named, nobody is put in by halves, and every card opens a room."""

from __future__ import annotations

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import OpenPage, enter_as_teacher
from tests.browser.test_round import check_page
from tests.conftest import Filled

pytestmark = pytest.mark.browser


def test_a_class_from_a_list(site: str, filled: Filled, open_page: OpenPage) -> None:
    page = open_page()
    enter_as_teacher(page, site, filled)
    page.get_by_role("link", name="People").click()
    page.get_by_label("Name of a new class").fill("Tuesday, second boat")
    page.get_by_role("button", name="Make the class").click()
    own = page.get_by_role("region", name="Tuesday, second boat")
    expect(own.get_by_text("Nobody yet.")).to_be_visible()
    own.get_by_role("button", name="Several at once").click()
    dialog = page.get_by_role("dialog")
    rows = b"Name;Instrument;Size\nAda Moor;violin;3/4\nBo Lund;trumpet;1/2\n"
    dialog.get_by_test_id("roster-file").set_input_files({"name": "class.csv", "mimeType": "text/csv", "buffer": rows})
    dialog.get_by_role("button", name="Look it through").click()
    expect(dialog.get_by_text("line 3: “trumpet” is none of violin, viola, cello or double bass.")).to_be_visible()
    expect(dialog.get_by_role("button", name="Put")).to_be_hidden()
    check_page(page, "a list")
    text = dialog.get_by_role("textbox")
    text.fill(text.input_value().replace("trumpet", "cello"))
    dialog.get_by_role("button", name="Look it through").click()
    dialog.get_by_role("button", name="Put 2 in, and make their cards").click()
    cards = page.get_by_role("dialog", name="2 cards")
    card = cards.get_by_role("region", name="Bo Lund")
    words = card.get_by_test_id("passphrase").inner_text()
    code = card.get_by_text("Class code").locator("xpath=following-sibling::*[1]").inner_text()
    cards.get_by_role("button", name="Done").click()
    expect(own.get_by_text("2 pupils")).to_be_visible()

    adult = open_page(390, 844)
    adult.goto(site)
    adult.get_by_role("button", name="I help at home").click()
    adult.get_by_label("Class code").fill(code)
    adult.get_by_label("The words").fill(words)
    adult.get_by_role("button", name="Come in").click()
    expect(adult.get_by_role("heading", name="For the adult at home")).to_be_visible()
    expect(adult.get_by_text("until an adult has said yes")).to_be_visible()
    expect(adult.get_by_text("Nothing is set at present.")).to_be_visible()
