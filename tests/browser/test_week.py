"""A week at the desk, in the real pages: a class of twelve from the sheet to marked takes; two teachers at one list."""

from __future__ import annotations

import re
import uuid
from datetime import UTC, datetime

import pytest
from playwright.sync_api import Page, expect
from sqlalchemy import Engine, select

from attentive_owl.settings import Settings
from attentive_owl.store.audio import AudioStore
from attentive_owl.store.models import Assignment, Pupil, Teacher
from attentive_owl.store.passphrases import hash_secret
from attentive_owl.store.session import open_session
from tests.browser.conftest import OpenPage, enter_as_pupil, enter_as_teacher
from tests.browser.test_round import check_page
from tests.conftest import PASSWORD, Filled
from tests.web.desk import cause, given_take, report

pytestmark = pytest.mark.browser
NAMES = ["Ada", "Bo", "Cy", "Di", "Ed", "Fi", "Gus", "Hal", "Ivy", "Jo", "Kai", "Lu"]
SIZES = {"viola": "14 in"}
PLAYERS = ["violin"] * 5 + ["viola"] * 2 + ["cello"] * 3 + ["double bass"] * 2


@pytest.fixture
def sounding(settings: Settings, violin_take: bytes) -> None:
    """Takes that are made up sound like a scale."""
    AudioStore(settings.audio_url).put_bytes(violin_take, "0" * 64, "playback")


def twelve(page: Page) -> None:
    page.get_by_role("link", name="People", exact=True).click()
    page.get_by_label("Name of a new class").fill("First boat")
    page.get_by_role("button", name="Make the class").click()
    own = page.get_by_role("region", name="First boat")
    own.get_by_role("button", name="Several at once").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_role("textbox").fill(
        "\n".join(f"{name}, {player}, {SIZES.get(player, '3/4')}" for name, player in zip(NAMES, PLAYERS, strict=True))
    )
    dialog.get_by_role("button", name="Look it through").click()
    dialog.get_by_role("button", name="Put 12 in, and make their cards").click()
    page.get_by_role("dialog", name="12 cards").get_by_role("button", name="Done").click()
    expect(own.get_by_text("12 pupils")).to_be_visible()


def test_a_week_with_a_class_of_twelve(
    site: str, engine: Engine, filled: Filled, open_page: OpenPage, sounding: None
) -> None:
    page = open_page()
    enter_as_teacher(page, site, filled)
    twelve(page)

    # The sheet: two exercises of a path, to the new class alone; slower for one pupil.
    page.get_by_role("link", name="Sheets", exact=True).click()
    expect(page.get_by_text("No sheet yet.")).to_be_visible()
    check_page(page, "no sheets")
    page.get_by_role("button", name="New sheet").click()
    page.get_by_label("Due").fill("2099-01-01")
    page.get_by_label("Take from").click()
    page.get_by_role("option", name="Path: Middle strings first").click()
    page.get_by_role("button", name="Put on the sheet: D major, one octave, quarters").click()
    page.get_by_role("button", name="Put on the sheet: Lower half of a scale, D major, quarters").click()
    for title in ("D major, one octave, quarters", "Lower half of a scale, D major, quarters"):
        page.get_by_role("region", name=title, exact=True).get_by_role("button", name="First boat").click()
    scale = page.get_by_role("region", name="D major, one octave, quarters", exact=True)
    scale.get_by_text("Different for one pupil").click()
    scale.get_by_label("Add a pupil").click()
    page.get_by_role("option", name="Cy", exact=True).click()
    scale.get_by_role("group", name="For Cy").get_by_label("Up to (bpm)").fill("48")
    expect(page.get_by_text("kept", exact=True)).to_be_visible()
    check_page(page, "a sheet")
    page.reload()
    expect(page.get_by_text("Different for Cy")).to_be_visible()
    page.get_by_role("button", name="As each pupil sees it").click()
    page.get_by_role("button", name=re.compile(r"^Cy violin, 2")).click()
    expect(page.get_by_text("up to 48")).to_be_visible()
    expect(
        page.get_by_role("region", name="D major, one octave, quarters", exact=True).locator("svg").first
    ).to_be_visible()
    expect(page.get_by_role("list", name="Pupils").get_by_role("button")).to_have_count(12)
    page.get_by_role("button", name="Send", exact=True).click()
    expect(page.get_by_text("Sent: 2 exercises to 12 pupils.")).to_be_visible()
    page.get_by_role("button", name="Take it back").click()
    expect(page.get_by_role("button", name="Send", exact=True)).to_be_visible()
    page.get_by_role("button", name="Send", exact=True).click()
    expect(page.get_by_text("Sent: 2 exercises")).to_be_visible()

    # What comes in: one asks for help, one is out of its place, the others are good.
    with open_session(engine, "tests play") as session:
        by_name = {}
        for pupil in session.scalars(select(Pupil).where(Pupil.studio_id == filled.studio_id)):
            pupil.consent_by, pupil.consent_at = "an adult", datetime.now(UTC)
            by_name[pupil.name] = pupil.id
        set_to = {
            pupil.name: own.id
            for own in session.scalars(select(Assignment).where(Assignment.studio_id == filled.studio_id))
            for pupil in own.pupils
        }
    low = cause("finger", (2, 7, 9), finger=2, cents=-20.0, mm=3.0, towards="bridge", title="Second finger stands low")
    for at, name in enumerate(NAMES):
        made = report(good=at != 1, causes=[low] if at == 1 else [])
        given_take(
            engine,
            filled,
            made,
            pupil_id=by_name[name],
            assignment_id=set_to[name],
            felt="too_hard" if at == 2 else None,
        )
    page.get_by_role("link", name="Listening", exact=True).click()
    expect(page.get_by_role("region", name="Asks for help, or found it too hard")).to_contain_text("Cy")
    expect(page.get_by_role("region", name="Worth a look")).to_contain_text("Second finger stands low")
    check_page(page, "what waits")
    good = page.get_by_role("region", name="Good goes")
    good.get_by_label("Lu", exact=True).uncheck()
    good.get_by_role("button", name="Accept these 9").click()
    expect(page.get_by_text("9 takes are accepted.")).to_be_visible()
    expect(good.get_by_role("listitem")).to_have_count(1)
    page.get_by_role("button", name="Take it back").click()
    expect(good.get_by_role("listitem")).to_have_count(10)
    good.get_by_label("Lu", exact=True).check()
    good.get_by_role("button", name="Accept these 10").click()
    expect(page.get_by_text("10 takes are accepted.")).to_be_visible()

    # By keys alone: the spots, a draft, a mark, the next.
    page.get_by_role("link", name="Begin").click()
    expect(page.get_by_role("heading", name="Cy")).to_be_visible()
    page.keyboard.press("ArrowDown")
    expect(page.get_by_role("heading", name="Bo")).to_be_visible()
    expect(page.get_by_role("region", name="Worth hearing")).to_contain_text("Second finger stands low")
    page.keyboard.press("s")
    expect(page.get_by_role("button", name="Stop the take")).to_be_visible()
    expect(page.get_by_role("button", name="Play the take")).to_be_visible()
    page.keyboard.press("o")
    page.get_by_label("A word to the pupil").fill("Let it lean on the third finger.")
    page.keyboard.press("Control+Enter")
    expect(page.get_by_role("heading", name="Cy")).to_be_visible()
    page.keyboard.press("?")
    expect(page.get_by_role("dialog", name="Keys")).to_be_visible()
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Pass this step").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_role("group", name="Bow hold").get_by_role("button", name="nearly").click()
    check_page(page, "passing")
    dialog.get_by_role("button", name="Passed", exact=True).click()
    page.keyboard.press("a")
    page.get_by_role("button", name="Send", exact=True).click()
    expect(page.get_by_role("heading", name="Cy")).to_be_visible()
    page.get_by_role("link", name="Listening", exact=True).click()
    expect(page.get_by_text("Every take has your word.")).to_be_visible()

    # What was said before on the same thing is offered.
    given_take(engine, filled, report(good=False, causes=[low]), pupil_id=by_name["Di"], assignment_id=set_to["Di"])
    page.reload()
    page.get_by_role("link", name="Begin").click()
    page.get_by_role("button", name=re.compile("Let it lean on the third finger")).click()
    expect(page.get_by_label("A word to the pupil")).to_have_value("Let it lean on the third finger.")

    page.get_by_role("link", name="The class", exact=True).click()
    row = page.get_by_role("row", name=re.compile("^Cy"))
    expect(row.get_by_label(re.compile("^passed"))).to_be_visible()
    check_page(page, "the class")
    page.get_by_role("button", name="Wrong together").click()
    own = page.get_by_role("listitem").filter(has_text="Second finger stands low")
    expect(own).to_contain_text("Bo, Di")
    own.get_by_role("button", name=re.compile("Make a warm-up")).click()
    own.get_by_role("link", name="Open it").click()
    expect(page.get_by_role("region", name="One finger on every string, D major")).to_be_visible()
    page.get_by_role("link", name="People", exact=True).click()
    page.get_by_role("link", name="Cy", exact=True).click()
    expect(page.get_by_text("passed today")).to_be_visible()
    check_page(page, "a pupil over months")


@pytest.mark.parametrize(
    ("address", "words"),
    [
        ("/class?part=next", "Nothing comes to mind."), ("/class?part=together", "Nothing that two of them share."),
        ("/calendar", "No lessons yet."), ("/outbox", "Nothing to send."), ("/lesson", "In the lesson"),
    ],
)  # fmt: skip
def test_empty_views_say_what_they_will_be(
    site: str, filled: Filled, open_page: OpenPage, address: str, words: str
) -> None:
    page = open_page()
    enter_as_teacher(page, site, filled)
    page.goto(f"{site}{address}")
    expect(page.get_by_text(words).first).to_be_visible()
    check_page(page, address)
    page.set_viewport_size({"width": 390, "height": 844})
    assert page.evaluate("document.documentElement.scrollWidth <= window.innerWidth")


@pytest.fixture
def second(engine: Engine, filled: Filled) -> Filled:
    """Another teacher of the same studio."""
    email = f"{uuid.uuid4().hex[:8]}@test.example"
    with open_session(engine, "tests add a teacher") as session:
        session.add(
            Teacher(studio_id=filled.studio_id, email=email, name="Second", password_hash=hash_secret(PASSWORD))
        )
    return Filled(**{**vars(filled), "email": email})


def test_two_teachers_at_one_list(
    site: str, engine: Engine, filled: Filled, second: Filled, open_page: OpenPage, sounding: None
) -> None:
    take = given_take(engine, filled, report())
    one, two = open_page(), open_page()
    for page, who in ((one, filled), (two, second)):
        enter_as_teacher(page, site, who)
        page.goto(f"{site}/listening/{take}")
        page.get_by_role("button", name="Accepted").wait_for()
    one.get_by_role("button", name="Accepted").click()
    one.get_by_role("button", name="Send", exact=True).click()
    expect(one.get_by_text("Accepted, today")).to_be_visible()
    two.get_by_role("button", name="Once more").click()
    two.get_by_label("A word to the pupil").fill("I heard it otherwise.")
    two.get_by_role("button", name="Send", exact=True).click()
    expect(two.get_by_text("Teacher has said something of this take in the meantime: “accepted”.")).to_be_visible()
    # The other's word is shown, and what was typed is still there; said knowingly, it is sent.
    expect(two.get_by_text("Accepted, today")).to_be_visible()
    expect(two.get_by_label("A word to the pupil")).to_have_value("I heard it otherwise.")
    two.get_by_role("button", name="Send", exact=True).click()
    expect(two.get_by_text("Once more, today")).to_be_visible()


def test_a_take_is_recorded_at_the_lesson(site: str, engine: Engine, filled: Filled, open_page: OpenPage) -> None:
    page = open_page()
    enter_as_teacher(page, site, filled)
    page.get_by_role("link", name="Lesson", exact=True).click()
    expect(page.get_by_role("heading", name="D major, one octave, quarters")).to_be_visible()
    page.get_by_role("button", name="As a round").click()
    page.get_by_role("button", name="Play the warm-up").click()
    expect(page.get_by_role("button", name="Stop the warm-up")).to_be_visible()
    page.get_by_role("button", name="Stop the warm-up").click()
    check_page(page, "the lesson")
    page.get_by_role("button", name="Record one pupil").click()
    page.get_by_label("Who plays").click()
    page.get_by_role("option", name=filled.pupil_name).click()
    page.get_by_role("button", name=f"Count {filled.pupil_name} in").click()
    stop = page.get_by_role("button", name="Stop", exact=True)
    expect(stop).to_be_visible()
    page.wait_for_timeout(15_000)
    stop.click()
    page.get_by_role("link", name="Look at it").click(timeout=20_000)
    expect(page.get_by_role("heading", name=filled.pupil_name)).to_be_visible()
    expect(page.get_by_role("region", name="Your word")).to_be_visible()
    # It is the pupil's too.
    pupil = open_page(820, 1180)
    enter_as_pupil(pupil, site, filled)
    pupil.get_by_role("link", name="My record").click()
    expect(pupil.get_by_text("1 go on 1 day")).to_be_visible()


def test_a_teacher_comes_by_a_link(site: str, filled: Filled, open_page: OpenPage) -> None:
    page = open_page()
    enter_as_teacher(page, site, filled)
    page.get_by_role("link", name="Studio", exact=True).click()
    page.get_by_role("button", name="Make it").click()
    link = page.get_by_label("The link; it is shown this once").input_value()
    other = open_page()
    other.goto(link)
    other.get_by_label("Your name, as pupils know you").fill("Ida")
    other.get_by_label("Your e-mail").fill(f"{uuid.uuid4().hex[:8]}@test.example")
    check_page(other, "a link")
    other.get_by_label("A password of ten letters or more").fill("a lamp in the bow")
    other.get_by_role("button", name="Come in").click()
    expect(other.get_by_role("heading", name="This week")).to_be_visible()
    late = open_page()
    late.goto(link)
    expect(late.get_by_text("This link was used already")).to_be_visible()


def test_an_owner_says_who_may_what_and_an_assistant_finds_only_that(
    site: str, filled: Filled, second: Filled, open_page: OpenPage
) -> None:
    owner, assistant = open_page(), open_page()
    enter_as_teacher(owner, site, filled)
    owner.goto(f"{site}/studio")
    owner.get_by_role("combobox", name="What Second may do").click()
    owner.get_by_role("option", name="Hear, mark and set; no cards, no settings").click()
    expect(owner.get_by_role("combobox", name="What Second may do")).to_contain_text("Hear, mark and set")
    owner.get_by_text("Who did what").click()
    expect(owner.get_by_text("Teacher changed who teaches here")).to_be_visible()
    check_page(owner, "the house")
    enter_as_teacher(assistant, site, second)
    assistant.get_by_role("link", name="People").click()
    expect(assistant.get_by_role("link", name=filled.pupil_name)).to_be_visible()
    expect(assistant.get_by_role("button", name="New pupil")).to_be_hidden()
    expect(assistant.get_by_role("button", name=re.compile("New card"))).to_be_hidden()
    check_page(assistant, "people, for an assistant")
    assistant.get_by_role("link", name="Studio", exact=True).click()
    expect(assistant.get_by_text("are set by the teachers of the studio")).to_be_visible()
    expect(assistant.get_by_role("heading", name="The house")).to_be_hidden()
    check_page(assistant, "studio, for an assistant")
    # Out at once, whatever is open.
    owner.get_by_role("combobox", name="What Second may do").click()
    owner.get_by_role("option", name="Nothing: has left").click()
    expect(owner.get_by_role("combobox", name="What Second may do")).to_contain_text("has left")
    assistant.goto(f"{site}/week")
    expect(assistant.get_by_role("button", name="I teach")).to_be_visible()


def test_not_now_is_remembered_and_brought_back(site: str, engine: Engine, filled: Filled, open_page: OpenPage) -> None:
    given = [cause("scatter", finger=1)]
    for _ in range(2):
        given_take(engine, filled, report(good=False, causes=given))
    page = open_page()
    enter_as_teacher(page, site, filled)
    page.goto(f"{site}/class?part=next")
    page.get_by_role("button", name=re.compile("^Not now")).first.click()
    expect(page.get_by_text("Let rest for three weeks.")).to_be_visible()
    page.get_by_role("button", name="Bring it back").click()
    expect(page.get_by_role("button", name=re.compile("^Not now"))).to_be_visible()
    page.get_by_role("button", name=re.compile("^Not now")).first.click()
    expect(page.get_by_text("Let rest for three weeks.")).to_be_visible()
    page.reload()
    expect(page.get_by_text("Nothing comes to mind.")).to_be_visible()
