"""A child alone at home, in the real pages: the quarter of an hour on a tablet, for three players; without a network; without a
microphone."""

from __future__ import annotations

import re
from datetime import date, timedelta
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from playwright.sync_api import Page, expect
from sqlalchemy import Engine, select

from attentive_owl.core.exercises import Recipe, build, title
from attentive_owl.core.playing import Habits
from attentive_owl.settings import Settings
from attentive_owl.store.exercises import document_from_recipe
from attentive_owl.store.models import Assignment, Exercise, Pupil, Take
from attentive_owl.store.session import open_session
from tests.browser.conftest import OpenPage, _answers, enter_as_pupil, enter_as_teacher, go_and_play
from tests.browser.microphone import Microphone
from tests.conftest import RATE, Filled, fill, free_port, played
from tests.processes import wait_for, web

pytestmark = pytest.mark.browser

LINE = Recipe("D", tempo_bpm=132, bars=(1, 3))
RUNGS = (108, 120, 132)


@pytest.fixture
def ladder(engine: Engine, filled: Filled) -> Filled:
    """In the place of what is set: three bars of a scale, with three rungs, each opened by one clean go."""
    with open_session(engine, "tests set an exercise") as session:
        own = session.get_one(Assignment, filled.assignment_id)
        own.exercise = Exercise(studio_id=filled.studio_id, title=title(LINE), recipe=document_from_recipe(LINE))
        own.target_bpm, own.ladder_from_bpm, own.ladder_step_bpm, own.ladder_clean = RUNGS[-1], RUNGS[0], 12, 1
    return filled


def line(bpm: float, habits: Habits | None = None, recipe: Recipe = LINE) -> np.ndarray:
    return played(build(recipe, "violin").at_tempo(bpm), habits or Habits(scatter_cents=3, timing_ms=5, tail_s=0.3))


def tone(hz: float, seconds: float = 8.0) -> np.ndarray:
    t = np.arange(int(seconds * RATE)) / RATE
    return (0.15 * sum(np.sin(2 * np.pi * hz * n * t) / n for n in range(1, 9))).astype(np.float32)


def record(page: Page, microphone: Microphone, sound: np.ndarray, bpm: float, later_s: float = 0.05) -> None:
    """Counts in, plays, and waits until the recording has ended by itself and was listened to."""
    microphone.lay_on(sound, 4 * 60 / bpm + later_s, count=True)
    page.get_by_role("button", name="Count in and record").click()
    page.get_by_text("How did it feel?").wait_for(timeout=40_000)


def listened(page: Page) -> Any:
    take = page.url.rsplit("/", 1)[1]
    return page.request.get(f"{page.url.split('/takes/')[0]}/api/takes/{take}").json()


def test_a_quarter_of_an_hour(site: str, ladder: Filled, open_page: OpenPage) -> None:
    page = open_page(820, 1180)
    microphone = Microphone(page)
    enter_as_pupil(page, site, ladder)
    page.get_by_role("link", name="Play", exact=True).click()

    # Ready: the strings (an A that is 20 cents low), and the first note.
    microphone.lay_on(tone(440 * 2 ** (-20 / 1200)))
    page.get_by_role("button", name="Listen to my strings").click()
    expect(page.get_by_text("A is a little low. Turn its fine tuner a little to the right.")).to_be_visible()
    page.get_by_role("button", name="Stop listening").click()
    microphone.lay_on(tone(293.66))
    page.get_by_role("button", name="Listen to my D").click()
    expect(page.get_by_text("D: that is it. Remember how it feels.")).to_be_visible()
    page.get_by_role("button", name="Stop listening").click()
    page.get_by_role("button", name="I am ready").click()

    # Hear it, then up the ladder: a clean go opens the next rung, which is taken by hand.
    page.get_by_role("button", name="Note names").click()
    page.get_by_role("button", name="Play the line").click()
    page.locator("[data-cursor]").wait_for()
    page.get_by_role("button", name="Now I play it").click()
    for at, rung in enumerate(RUNGS):
        if at:
            expect(
                page.get_by_text(f"Slow and clean is just right. The next rung is {rung}, when you like.")
            ).to_be_visible()
            page.get_by_role("link", name=f"Up to {rung}").click()
        record(page, microphone, line(rung), rung)
        own = listened(page)
        assert own["report"]["good_go"]["good"], (own["report"]["good_go"], own["report"]["refusal"])
        assert own["target_bpm"] == rung
    page.get_by_role("button", name="Just right").click()
    page.get_by_role("link", name="Play again").click()
    expect(page.get_by_text("You are at the top: 132, and clean.")).to_be_visible()
    expect(page.get_by_text("3 good goes in a row.")).to_be_visible()

    # The last bar alone.
    page.get_by_text("Another way to practise it").click()
    page.get_by_role("button", name="measure 3", exact=True).first.click()
    expect(page.locator(".engraving g.note")).to_have_count(4)
    piece = Recipe("D", tempo_bpm=132, bars=(3, 3))
    record(page, microphone, line(132, recipe=piece), 132)
    assert listened(page)["bars"] == {"first": 3, "last": 3}
    expect(page.locator("[data-nest]")).to_have_count(4)

    # Of four goes the best is handed in, and only that one waits for the teacher.
    page.get_by_role("link", name="Done for now").click()
    go_and_play(page)
    page.get_by_role("link").filter(has_text="your best: hand this one in?").click()
    page.get_by_role("button", name="Hand this one in").click()
    expect(page.get_by_text("This one is with your teacher.")).to_be_visible()
    teacher = open_page()
    enter_as_teacher(teacher, site, ladder)
    teacher.goto(f"{site}/listening")
    rows = teacher.get_by_role("link").filter(has_text=ladder.pupil_name)
    expect(rows).to_have_count(1)
    expect(rows).to_contain_text("felt just right")


def test_a_shaky_player_is_shown_the_hard_place_and_asks_for_help(
    site: str, ladder: Filled, open_page: OpenPage
) -> None:
    page = open_page(820, 1180)
    microphone = Microphone(page)
    enter_as_pupil(page, site, ladder)
    go_and_play(page)
    record(page, microphone, line(108, Habits(missed=(5,), scatter_cents=5, timing_ms=12, tail_s=0.3)), 108)
    assert not listened(page)["report"]["good_go"]["good"]
    page.get_by_role("link", name="Play again").click()
    expect(page.get_by_text("Slow and clean is just right.")).to_be_visible()
    expect(page.get_by_role("button", name=re.compile("^Up to"))).to_be_hidden()
    page.get_by_text("Another way to practise it").click()
    hard = page.get_by_role("group", name="The hard place, then with its neighbours")
    expect(hard.get_by_role("button").first).to_have_text("measure 2")
    page.get_by_role("region", name="Your goes").get_by_role("link").first.click()
    page.get_by_text("Help me").click()
    page.get_by_label("What is hard?").fill("I lose the place.")
    page.get_by_role("button", name="Ask my teacher").click()
    expect(page.get_by_text("You have asked your teacher for help")).to_be_visible()
    expect(page.get_by_text("This one is with your teacher.")).to_be_visible()


def test_a_wrong_line_is_told_as_that_and_counts_for_nothing(site: str, ladder: Filled, open_page: OpenPage) -> None:
    page = open_page(820, 1180)
    microphone = Microphone(page)
    enter_as_pupil(page, site, ladder)
    go_and_play(page)
    record(page, microphone, line(108, recipe=Recipe("F", tempo_bpm=132, bars=(1, 3))), 108)
    own = listened(page)
    assert not own["report"]["accepted"]
    expect(page.get_by_text(own["report"]["refusal"]["words"])).to_be_visible()
    page.get_by_role("button", name="Throw it away").click()
    expect(page.get_by_text("Thrown away. Nobody hears it any more.")).to_be_visible()
    page.get_by_role("button", name="Fetch it back").click()
    expect(page.get_by_role("button", name="Throw it away")).to_be_visible()
    page.goto(f"{site}/today")
    expect(page.get_by_role("img", name=re.compile("^0 of"))).to_be_visible()


def test_without_a_network_from_opening_to_recorded(
    engine: Engine, settings: Settings, open_page: OpenPage, tmp_path: Path
) -> None:
    filled = fill(engine, settings, tag=f"off{free_port()}")
    with open_session(engine, "tests set a ladder") as session:
        session.get_one(Assignment, filled.assignment_id).ladder_from_bpm = 94
    port = free_port()
    site = f"http://127.0.0.1:{port}"
    page = open_page(820, 1180, installed=True)
    microphone = Microphone(page)
    with web(settings, port):
        wait_for(lambda: _answers(port))
        enter_as_pupil(page, site, filled)
        page.evaluate("navigator.serviceWorker.ready.then(() => true)")
        # The page's worker has to stand before the week is kept: the next visit.
        page.goto(f"{site}/today")
        wait_for(lambda: page.evaluate("!!navigator.serviceWorker.controller"))
        wait_for(lambda: page.evaluate("caches.open('owl-sounds').then((c) => c.keys()).then((k) => k.length)") == 1)
    # The house is gone.
    page.goto(f"{site}/today")
    expect(page.get_by_text("D major, one octave, quarters")).to_be_visible()
    page.get_by_role("link", name="Play", exact=True).click()
    page.get_by_role("button", name="Hear it", exact=True).click()
    page.get_by_role("button", name="Play the line").click()
    page.locator("[data-cursor]").wait_for()
    page.get_by_role("button", name="Now I play it").click()
    # Another rung is there too, and counts in its own tempo.
    page.get_by_role("button", name="100", exact=True).click()
    expect(page.get_by_text("at 100", exact=True)).to_be_visible()
    expect(page.get_by_role("button", name="Count in and record")).to_be_enabled()
    microphone.lay_on(played(build(Recipe("D", tempo_bpm=100), "violin")), 2.45, count=True)
    page.get_by_role("button", name="Count in and record").click()
    expect(page.get_by_text("It is safe on this device.")).to_be_visible(timeout=40_000)
    page.get_by_role("button", name="Hand this one in").click()
    page.get_by_role("button", name="Play your go").click()
    # The page is closed and opened again, and nothing is lost.
    page.goto(f"{site}/today")
    expect(page.get_by_text("One go is still on this device, safe.")).to_be_visible()
    with web(settings, port):
        wait_for(lambda: _answers(port))
        page.evaluate("window.dispatchEvent(new Event('online'))")
        expect(page.get_by_text("still on this device")).to_be_hidden(timeout=20_000)
    with open_session(engine, "tests look") as session:
        takes = session.scalars(select(Take).where(Take.pupil_id == filled.pupil_id)).all()
        assert [take.handed_in_at is not None for take in takes] == [True]
        assert (takes[0].duration_s > 9, takes[0].bpm) == (True, 100)


def test_call_and_response_listens_only_to_the_answers(
    engine: Engine, site: str, filled: Filled, open_page: OpenPage
) -> None:
    recipe = Recipe("D", family="call", tempo_bpm=120)
    with open_session(engine, "tests set an exercise") as session:
        own = session.get_one(Assignment, filled.assignment_id)
        own.exercise = Exercise(studio_id=filled.studio_id, title=title(recipe), recipe=document_from_recipe(recipe))
        own.target_bpm = 120
    page = open_page(820, 1180)
    microphone = Microphone(page)
    enter_as_pupil(page, site, filled)
    go_and_play(page)
    expect(page.get_by_text("I listen only while you answer")).to_be_visible()
    score = build(recipe, "violin")
    # The line begins with a call; what is played begins with its answer.
    lead, call_s = 0.6, float(score.notes[0].start_beats - score.start_beats) * 0.5
    answers = played(score, Habits(scatter_cents=3, timing_ms=5, lead_s=lead + call_s, tail_s=0.5))
    # What comes out of the loudspeaker is in the microphone too, as loud as the answers: a tone in every rest of the line.
    loud = tone(330, len(answers) / RATE + 1)[: len(answers)]
    for rest in score.rests:
        first = int((lead + float(rest.start_beats - score.start_beats) * 0.5 + 0.12) * RATE)
        last = first + int((float(rest.duration_beats) * 0.5 - 0.24) * RATE)
        answers[first:last] += loud[first:last]
    # Whoever answers a call is with it: the count is spoken 0.3 s into its sound, and the answers' own silence is part of the wait.
    record(page, microphone, answers, 120, 0.3 - lead)
    report = listened(page)["report"]
    assert report["accepted"], report["refusal"]
    assert {note["status"] for note in report["notes"]} == {"played"}
    assert report["extras"] == []


@pytest.mark.parametrize(
    ("fault", "words"),
    [
        ("NotAllowedError", "switched off for this page"),
        ("NotFoundError", "no microphone on this device"),
        ("NotReadableError", "Another program is using the microphone"),
    ],
)
def test_without_a_microphone_it_is_said_what_to_do(
    site: str, filled: Filled, open_page: OpenPage, fault: str, words: str
) -> None:
    page = open_page(390, 844)
    microphone = Microphone(page)
    enter_as_pupil(page, site, filled)
    go_and_play(page)
    microphone.fail(fault)
    page.get_by_role("button", name="Count in and record").click()
    expect(page.get_by_role("alert").filter(has_text=words)).to_be_visible()
    microphone.fail(None)
    microphone.lay_on(tone(440))
    page.get_by_role("button", name="Count in and record").click()
    expect(page.get_by_role("button", name="I am done")).to_be_visible()


def test_a_microphone_that_is_unplugged_leaves_what_was_played(
    site: str, filled: Filled, open_page: OpenPage, engine: Engine
) -> None:
    page = open_page(820, 1180)
    microphone = Microphone(page)
    enter_as_pupil(page, site, filled)
    go_and_play(page)
    microphone.lay_on(tone(293.66))
    page.get_by_role("button", name="Count in and record").click()
    expect(page.get_by_role("button", name="I am done")).to_be_enabled(timeout=15_000)
    page.wait_for_timeout(2_500)
    microphone.unplug()
    page.wait_for_url("**/takes/*", timeout=20_000)
    assert listened(page)["duration_s"] > 2


def test_nothing_is_recorded_before_an_adult_has_said_yes(
    site: str, filled: Filled, open_page: OpenPage, engine: Engine
) -> None:
    with open_session(engine, "tests take a consent back") as session:
        session.get_one(Pupil, filled.pupil_id).consent_at = None
        session.get_one(Assignment, filled.assignment_id).due_on = date.today() + timedelta(days=2)
    page = open_page(820, 1180)
    enter_as_pupil(page, site, filled)
    page.get_by_role("link", name="Play", exact=True).click()
    expect(page.get_by_role("button", name="Listen to my strings")).to_be_hidden()
    page.get_by_role("button", name="Play it", exact=True).click()
    expect(page.get_by_text("An adult has to say yes")).to_be_visible()
    expect(page.get_by_role("button", name="Count in and record")).to_be_hidden()
