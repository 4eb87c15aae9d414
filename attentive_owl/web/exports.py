"""Out of the studio: results as CSV, a pupil and a class on paper, everything as one archive."""

from __future__ import annotations

import io
import tempfile
import uuid
from collections.abc import Iterator
from typing import Any

from flask import send_file
from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload

from attentive_owl.core.instruments import INSTRUMENTS
from attentive_owl.core.planning import State
from attentive_owl.core.theory import NoteValues, in_vocabulary
from attentive_owl.formats.paper.record import (
    ClassRecord,
    PupilRecord,
    StepLine,
    class_record_pdf,
    pupil_records_pdf,
)
from attentive_owl.formats.results_csv import write_csv
from attentive_owl.store.archive import write_archive
from attentive_owl.store.models import ClassGroup, Pupil, Studio, Take
from attentive_owl.store.session import open_session
from attentive_owl.web.access import house_only, own_row, own_studio, services, teacher_only, visitor
from attentive_owl.web.areas import Area
from attentive_owl.web.clock import StudioClock, studio_clock
from attentive_owl.web.people.listing import active_pupils
from attentive_owl.web.problems import ProblemError
from attentive_owl.web.progress import class_picture
from attentive_owl.web.schemas.common import ById, Problem
from attentive_owl.web.schemas.progress import Cell, ClassQuestion, Habit, ProgressQuestion, Story
from attentive_owl.web.shown import HANDED_IN
from attentive_owl.web.story import stories_of
from attentive_owl.web.studio import studio_settings
from attentive_owl.web.summaries import TakeSummary, summaries

api = Area("exports", __name__, 401, 404)
RESULT_HEADS = (
    "pupil", "instrument", "exercise", "recorded", "bars", "asked bpm", "played bpm", "state", "not judged because",
    "pitch", "rhythm", "notes at home %", "good go", "teacher", "remark",
)  # fmt: skip
_SIGNS: dict[State, tuple[str, str]] = {
    State.PASSED: ("P", "passed"),
    State.READY: ("R", "played well at its tempo; your word is missing"),
    State.ON_THE_WAY: ("w", "on the way"),
    State.STUCK: ("S", "does not move: since when is on the page"),
    State.NOT_PRACTISED: ("-", "set, and nothing recorded"),
    State.SET: (".", "set a day or two ago"),
    State.NOT_SET: ("", "not set"),
}
_MOST_ROWS = 20_000


@api.get("/results.csv")
@teacher_only
def results(query: ClassQuestion) -> Any:
    """What was handed in, the newest first."""
    clock = studio_clock()
    with own_studio() as session:
        ids = [own.id for own in active_pupils(session, query.class_id)]
        question = (
            select(Take)
            .where(HANDED_IN, Take.pupil_id.in_(ids))
            .options(joinedload(Take.pupil), joinedload(Take.assignment))
            .order_by(Take.recorded_at.desc(), Take.id)
            .limit(_MOST_ROWS)
        )
        data = write_csv(RESULT_HEADS, [result_row(own, clock) for own in summaries(session, question)])
    return send_file(io.BytesIO(data), mimetype="text/csv", download_name="results.csv", as_attachment=True, max_age=0)


def result_row(own: TakeSummary, clock: StudioClock) -> tuple[str | int | float | None, ...]:
    take = own.take
    return (
        take.pupil.name,
        take.pupil.instrument,
        take.assignment.exercise.title,
        f"{clock.local(take.recorded_at):%Y-%m-%d %H:%M}",
        f"{take.bars[0]} to {take.bars[1]}" if take.bars else "all",
        take.asked_bpm,
        None if own.played_bpm is None else round(own.played_bpm, 1),
        take.state,
        own.refusal,
        own.pitch_word,
        own.rhythm_word,
        round(100 * own.home_share) if own.notes else None,
        ("yes" if own.good else "no") if own.notes else None,
        own.mark.verdict.replace("_", " ") if own.mark else None,
        own.mark.remark if own.mark else None,
    )


@api.get("/pupils/<uuid:id>/record.pdf")
@teacher_only
def pupil_on_paper(path: ById) -> Any:
    clock = studio_clock()
    with own_studio() as session:
        pupil = own_row(session, Pupil, path.id)
        pdf = pupil_records_pdf(records_of(session, [pupil], clock))
    return send_file(io.BytesIO(pdf), mimetype="application/pdf", download_name="record.pdf", max_age=0)


@api.get("/records.pdf", responses={422: Problem})
@teacher_only
def class_of_records(query: ClassQuestion) -> Any:
    """A page for each pupil, for a parents' evening."""
    clock = studio_clock()
    with own_studio() as session:
        records = records_of(session, active_pupils(session, query.class_id), clock)
    if not records:
        raise ProblemError(422, "There is nobody in this class yet.")
    pdf = pupil_records_pdf(records)
    return send_file(io.BytesIO(pdf), mimetype="application/pdf", download_name="records.pdf", max_age=0)


def records_of(session: Session, pupils: list[Pupil], clock: StudioClock) -> list[PupilRecord]:
    stories = stories_of(session, pupils, clock)
    values = studio_settings().values
    return [_record(own, stories[own.id], clock, values) for own in pupils]


def _record(pupil: Pupil, story: Story, clock: StudioClock, values: NoteValues) -> PupilRecord:
    return PupilRecord(
        pupil=pupil.name,
        instrument=f"{INSTRUMENTS[pupil.instrument].name} {pupil.size}",
        studio=visitor().person.studio,
        day=clock.today(),
        goal=pupil.goal,
        keys=story.keys,
        steps=[
            StepLine(
                in_vocabulary(own.title, values),
                _standing(own.cell),
                f"{own.cell.best_bpm:.0f}" if own.cell.best_bpm else "",
                [(clock.local(go.recorded_at).date(), (go.pitch_share + go.time_share) / 2) for go in own.goes],
            )
            for own in story.steps
        ],
        habits=list(_habit_words(story)),
    )


def _standing(cell: Cell) -> str:
    since = f" since {cell.since.day} {cell.since:%B}" if cell.since else ""
    words = {
        State.PASSED: f"passed{since.replace(' since', ' on')}",
        State.READY: "played well at its tempo",
        State.ON_THE_WAY: "on the way",
        State.STUCK: f"the same{since}",
        State.NOT_PRACTISED: "not recorded yet",
        State.SET: "just set",
        State.NOT_SET: "",
    }
    return words[cell.state]


def _habit_words(story: Story) -> Iterator[str]:
    for own in story.habits[:6]:
        heard = [week for week in own.weeks if week.takes]
        yield f"{own.title}: {_when(own)}, in {sum(week.takes for week in heard)} of {sum(week.of for week in own.weeks)} takes."


def _when(habit: Habit) -> str:
    heard = [week.monday for week in habit.weeks if week.takes]
    gone = heard[-1] != habit.weeks[-1].monday
    first, last = heard[0], heard[-1]
    if gone:
        return f"heard until the week of {last.day} {last:%B}, and not since"
    return f"heard since the week of {first.day} {first:%B}"


@api.get("/class.pdf")
@teacher_only
def class_on_paper(query: ProgressQuestion) -> Any:
    clock = studio_clock()
    with own_studio() as session:
        picture = class_picture(session, query, clock)
        name = "All classes" if query.class_id is None else own_row(session, ClassGroup, query.class_id).name
        studio = session.get_one(Studio, visitor().studio_id).name
    values = studio_settings().values
    used = {cell.state for own in picture.pupils for cell in own.cells}
    pdf = class_record_pdf(
        ClassRecord(
            name=name,
            studio=studio,
            day=clock.today(),
            steps=[in_vocabulary(own.title, values) for own in picture.steps],
            pupils=[(own.name, [_SIGNS[cell.state][0] for cell in own.cells]) for own in picture.pupils],
            key=[_SIGNS[state] for state in State if state in used and _SIGNS[state][0]],
        )
    )
    return send_file(io.BytesIO(pdf), mimetype="application/pdf", download_name="class.pdf", max_age=0)


@api.get("/studio/archive.zip")
@house_only
def whole_studio() -> Any:
    """Everything, to be kept like a key: hashes of passwords and cards are in it."""
    studio_id: uuid.UUID = visitor().studio_id
    out = tempfile.TemporaryFile()  # noqa: SIM115 - it is sent after this function, and gone when it is closed
    with open_session(services().engine, "every table of one studio, and of no other") as session:
        write_archive(session, studio_id, services().audio, out)
    out.seek(0)
    return send_file(out, mimetype="application/zip", download_name="studio.zip", as_attachment=True, max_age=0)
