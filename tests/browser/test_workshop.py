"""The workshop in the real page: choosing, undoing, pinning, keeping, and a line of one's own; the keyboard throughout."""

from __future__ import annotations

from pathlib import Path

import pytest
from playwright.sync_api import Locator, Page, expect

from attentive_owl.core.exercises import Recipe, build
from attentive_owl.formats.musicxml import read_musicxml, write_musicxml
from tests.browser.conftest import OpenPage, enter_as_pupil, enter_as_teacher
from tests.conftest import Filled

pytestmark = pytest.mark.browser


def choose(page: Page, label: str, option: str) -> None:
    page.get_by_role("combobox", name=label).click()
    page.get_by_role("option", name=option, exact=True).click()


def part(page: Page, name: str) -> Locator:
    return page.get_by_role("region", name=name, exact=True)


def open_workshop(page: Page, site: str, filled: Filled) -> None:
    enter_as_teacher(page, site, filled)
    page.get_by_role("link", name="Workshop").click()
    expect(part(page, "Violin").locator(".engraving g.note")).to_have_count(16)


def test_choose_undo_pin_and_keep_a_new_version(site: str, filled: Filled, open_page: OpenPage) -> None:
    page = open_page()
    open_workshop(page, site, filled)
    expect(page.locator(".engraving")).to_have_count(4)
    # The engraving that stands stays until the next one comes.
    page.evaluate(
        """() => {
          window.fewest = 99;
          const look = () => { window.fewest = Math.min(window.fewest, document.querySelectorAll(".engraving").length); };
          new MutationObserver(look).observe(document.body, { childList: true, subtree: true });
        }"""
    )
    choose(page, "Form", "harmonic minor")
    expect(page.get_by_text("D harmonic minor, one octave, quarters")).to_be_visible()
    expect(part(page, "Violin").locator(".engraving g.accid").first).to_be_attached()
    assert page.evaluate("window.fewest") == 4
    choose(page, "Exercise", "Arpeggio")
    expect(part(page, "Cello").locator(".engraving g.note")).to_have_count(8)
    page.locator("body").press("Control+z")
    page.locator("body").press("Control+z")
    expect(page.get_by_text("D major, one octave, quarters").first).to_be_visible()
    page.locator("body").press("Control+Shift+z")
    expect(page.get_by_text("D harmonic minor, one octave, quarters")).to_be_visible()
    page.get_by_role("button", name="Undo").click()

    # The D major of the shelf is set for pupils: a pin makes a new version of it, and nothing changes for them.
    page.get_by_role("button", name="Shelf", exact=True).click()
    page.get_by_role("region", name="Ready exercises").get_by_role("button", name="D major, one octave").first.click()
    note = part(page, "Violin").locator('[data-finger="4"]')
    expect(note).to_have_attribute("aria-label", "A0, A: open A")
    note.focus()
    page.keyboard.press("Enter")
    page.get_by_role("menuitem", name="Finger 4 on D").click()
    expect(note).to_have_attribute("aria-label", "D4, A: finger 4 on D, pinned")
    page.get_by_role("button", name="Save the change…").click()
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_text("becomes version 2")).to_be_visible()
    dialog.get_by_label("Tags").fill("fourth finger")
    dialog.get_by_role("button", name="Save", exact=True).click()
    expect(page.get_by_role("status").filter(has_text="as version 2")).to_be_visible()
    page.get_by_label("Find by name or tag").fill("fourth")
    expect(page.get_by_role("region", name="Ready exercises").get_by_role("listitem")).to_have_count(1)

    pupil = open_page(820, 1180)
    enter_as_pupil(pupil, site, filled)
    pupil.get_by_role("link", name="Play", exact=True).click()
    pupil.locator(".engraving svg").first.wait_for()
    score = pupil.request.get(f"{site}/api/assignments/{filled.assignment_id}/score?width=600").json()
    assert score["notes"][4]["finger"] == 0


def test_a_path_step_a_file_and_an_echo_that_hides(
    site: str, filled: Filled, open_page: OpenPage, tmp_path: Path
) -> None:
    page = open_page()
    open_workshop(page, site, filled)
    page.get_by_role("button", name="Paths", exact=True).click()
    page.locator("summary").filter(has_text="Mixed class").click()
    page.get_by_role("button", name="Arpeggio, G major, quarters").click()
    expect(part(page, "Viola").locator(".engraving g.note")).to_have_count(8)

    page.get_by_role("button", name="Choices", exact=True).click()
    choose(page, "Exercise", "My own line")
    expect(page.get_by_text("Put the first note in on the left")).to_be_visible()
    # In G major: a place on the fingerboard is pinned, a letter is the note of the key.
    page.get_by_role("button", name="A4, finger 4 on D").click()
    for key in ("f", "h", "r", "g", "ArrowUp"):
        page.keyboard.press(key)
    line = page.get_by_role("listbox", name="Notes of the line").get_by_role("option")
    expect(line).to_have_text(["A4 1", "F♯4 1", "rest 1", "G♯4 1"])
    expect(part(page, "Violin").locator('[data-finger="0"]')).to_have_attribute(
        "aria-label", "D4, A: finger 4 on D, pinned"
    )
    page.keyboard.press("Delete")
    page.keyboard.press("Control+z")
    expect(line).to_have_count(4)
    expect(part(page, "Violin").locator(".engraving g.note")).to_have_count(3)
    file = tmp_path / "line.musicxml"
    file.write_bytes(write_musicxml(build(Recipe("G"), "violin")))
    page.get_by_test_id("line-file").set_input_files(file)
    expect(part(page, "Double bass").locator(".engraving g.note")).to_have_count(16)

    choose(page, "Exercise", "Echo phrase")
    page.get_by_role("button", name="Another phrase").click()
    expect(part(page, "Violin").locator(".engraving g.note").first).to_be_attached()
    page.get_by_role("button", name="Assign…").click()
    page.get_by_role("dialog").get_by_role("button", name="Assign").click()
    expect(page.get_by_text("Set for 2 pupils")).to_be_visible()
    pupil = open_page(820, 1180)
    enter_as_pupil(pupil, site, filled)
    pupil.locator("section").filter(has_text="Echo phrase").get_by_role("link", name="Play").click()
    expect(pupil.get_by_text("This one is for the ear.")).to_be_visible()
    expect(pupil.locator(".engraving")).to_have_count(0)


def test_the_studio_says_crotchets_and_prints_a_strip(site: str, filled: Filled, open_page: OpenPage) -> None:
    page = open_page()
    enter_as_teacher(page, site, filled)
    page.get_by_role("link", name="Studio", exact=True).click()
    choose(page, "Note values", "crotchet, quaver, bar")
    choose(page, "Count-in", "1 2 ready go")
    choose(page, "Instrument", "Cello")
    expect(page.get_by_text("75.3 mm")).to_be_visible()
    address = page.get_by_role("link", name="Strip to print").get_attribute("href")
    assert page.request.get(f"{site}{address}").body().startswith(b"%PDF")
    page.get_by_role("link", name="Workshop").click()
    expect(page.get_by_text("D major, one octave, crotchets").first).to_be_visible()


def test_from_the_workshop_to_the_class_with_one_thing_changed(site: str, filled: Filled, open_page: OpenPage) -> None:
    """Eight presses at most, as the page counts them."""
    page = open_page(1280, 800)
    enter_as_teacher(page, site, filled)
    page.evaluate("() => { window.presses = 0; addEventListener('click', () => { window.presses += 1; }, true); }")
    page.get_by_role("link", name="Workshop").click()
    page.get_by_role("button", name="G", exact=True).first.click()
    page.get_by_role("button", name="Assign…").click()
    page.get_by_role("dialog").get_by_role("button", name="Assign").click()
    expect(page.get_by_text("Set for 2 pupils")).to_be_visible()
    assert 4 <= page.evaluate("window.presses") <= 8


def test_key_pattern_tempo_and_shelf_are_in_reach_without_scrolling(
    site: str, filled: Filled, open_page: OpenPage
) -> None:
    page = open_page(1280, 800)
    open_workshop(page, site, filled)
    for own in (
        page.get_by_role("group", name="Key"),
        page.get_by_role("combobox", name="Rhythm pattern"),
        page.get_by_role("slider", name="Tempo, quarter notes a minute"),
        page.get_by_role("button", name="Shelf", exact=True),
        page.get_by_role("button", name="Signs"),
        page.get_by_role("button", name="Assign…"),
    ):
        box = own.bounding_box()
        assert box is not None
        assert box["y"] >= 0
        assert box["y"] + box["height"] <= 800


def test_a_sheet_a_register_and_a_file_to_take_away(
    site: str, filled: Filled, open_page: OpenPage, tmp_path: Path
) -> None:
    page = open_page(1280, 800)
    open_workshop(page, site, filled)
    page.get_by_role("button", name="G", exact=True).first.click()
    page.get_by_label("where the violin lies, and its files").click()
    page.get_by_role("menuitem", name="G4", exact=True).click()
    expect(part(page, "Violin").locator('[data-finger="0"]')).to_have_attribute("aria-label", "D3, G: finger 3 on D")
    page.get_by_label("where the violin lies, and its files").click()
    with page.expect_download() as downloading:
        page.get_by_role("menuitem", name="Save as MusicXML").click()
    file = tmp_path / "line.musicxml"
    downloading.value.save_as(file)
    assert read_musicxml(file).notes[0].pitch.name == "G4"
    page.get_by_role("button", name="Sheet…").click()
    with page.expect_response("**/api/sheet") as answering:
        page.get_by_role("dialog").get_by_role("button", name="Open the PDF").click()
    assert answering.value.status == 200
    expect(page.get_by_role("dialog")).to_have_count(0)
