"""The week's sheet: written over days, looked at as each pupil will see it, sent at once, taken back while nobody has answered."""

from __future__ import annotations

import io
import uuid
from datetime import UTC, date, datetime, timedelta
from typing import Any

from flask import send_file
from sqlalchemy import case, select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session, joinedload, selectinload

from attentive_owl.core.exercises import title
from attentive_owl.core.planning import first_rung, next_lesson
from attentive_owl.formats.paper.week_sheet import week_sheets_pdf
from attentive_owl.store.calendar import lesson_days, studio_days_off
from attentive_owl.store.exercises import recipe_from_document
from attentive_owl.store.models import Assignment, Lesson, Pupil
from attentive_owl.store.models import WeekSheet as SheetRow
from attentive_owl.web.access import own_row, own_studio, teacher_only, visitor
from attentive_owl.web.areas import Area
from attentive_owl.web.assigning import not_in_the_past, set_exercise
from attentive_owl.web.clock import studio_clock
from attentive_owl.web.paging import Page, count_of
from attentive_owl.web.problems import ProblemError
from attentive_owl.web.replies import reply
from attentive_owl.web.schemas.common import ById, Done, Problem
from attentive_owl.web.schemas.recipes import Recipe
from attentive_owl.web.schemas.sheets import (
    AddToSheet,
    Audience,
    NewSheet,
    PaperQuestion,
    SheetItem,
    SheetLine,
    SheetList,
    SheetOut,
    SheetPages,
    SheetSave,
    SheetSent,
    SheetsQuestion,
    Template,
)
from attentive_owl.web.sheet_pages import page_out, pages_of, paper_of, terms_for
from attentive_owl.web.studio import studio_settings

api = Area("sheets", __name__, 401, 404)
_PER_PAGE = 25
_A_WEEK = timedelta(days=7)
_MOST_ITEMS = 12
_USUAL_REPEATS = 5


def _line(own: SheetRow) -> dict[str, Any]:
    return {
        "id": own.id,
        "name": own.name,
        "kind": own.kind,
        "due_on": own.due_on,
        "titles": [title(recipe_from_document(item["recipe"])) for item in own.items],
        "teacher_name": own.teacher.name,
        "changed_at": own.changed_at,
        "sent_at": own.sent_at,
    }


def _items(own: SheetRow) -> list[SheetItem]:
    return [SheetItem.model_validate(item) for item in own.items]


def _out(own: SheetRow) -> SheetOut:
    return SheetOut(**_line(own), items=_items(own))


@api.get("/sheets", responses={200: SheetList})
@teacher_only
def listing(query: SheetsQuestion) -> Any:
    """What is being written first, then templates, then what was sent, the newest first."""
    order = case({"draft": 0, "template": 1}, value=SheetRow.kind, else_=2)
    question = select(SheetRow).options(joinedload(SheetRow.teacher))
    if query.search:
        question = question.where(SheetRow.name.icontains(query.search, autoescape=True))
    with own_studio() as session:
        paged = Page(count_of(session, question), _PER_PAGE, query.page)
        rows = session.scalars(
            question.order_by(order, SheetRow.changed_at.desc(), SheetRow.id).limit(_PER_PAGE).offset(paged.first)
        ).all()
        lines = [SheetLine(**_line(own)) for own in rows]
        return reply(SheetList(sheets=lines, page=paged.page, pages=paged.pages))


@api.post("/sheets", responses={201: SheetOut})
@teacher_only
def begin(body: NewSheet) -> Any:
    """An empty one, one with items, or a copy of another: the day of a copy is a week on, or in a week."""
    with own_studio() as session:
        own = SheetRow(
            teacher_id=visitor().person.id,
            name=body.name,
            kind="draft",
            due_on=body.due_on,
            items=[item.model_dump(mode="json") for item in body.items],
        )
        if body.copy_of is not None:
            source = own_row(session, SheetRow, body.copy_of)
            own.items = [*source.items, *own.items]
            own.name = own.name or source.name
            own.due_on = own.due_on or _a_week_on(source.due_on)
        session.add(own)
        session.flush()
        session.refresh(own)
        return reply(_out(own), 201)


def _a_week_on(due_on: date | None) -> date:
    """The same day of the week, as soon as it lies ahead."""
    today = studio_clock().today()
    if due_on is None:
        return today + _A_WEEK
    while due_on <= today:
        due_on += _A_WEEK
    return due_on


@api.post("/sheets/add", responses={200: SheetOut, 409: Problem})
@teacher_only
def add(body: AddToSheet) -> Any:
    """Onto the teacher's newest draft, or onto a new one that is due at the next lesson."""
    with own_studio() as session:
        own = session.scalar(
            select(SheetRow)
            .where(SheetRow.kind == "draft", SheetRow.teacher_id == visitor().person.id)
            .order_by(SheetRow.changed_at.desc())
            .limit(1)
            .with_for_update()
        )
        if own is None:
            own = SheetRow(teacher_id=visitor().person.id, kind="draft", due_on=_next_due(session), items=[])
            session.add(own)
        items = [SheetItem.model_validate(item) for item in own.items]
        wanted = Audience(pupil_ids=body.pupil_ids, class_ids=body.class_ids)
        same = next((item for item in items if item.recipe == body.recipe), None)
        if same is not None and same.audience.pupil_ids and wanted.pupil_ids:
            both = dict.fromkeys([*same.audience.pupil_ids, *wanted.pupil_ids])
            same.audience = same.audience.model_copy(update={"pupil_ids": list(both)})
        elif len(items) == _MOST_ITEMS:
            raise ProblemError(409, "The sheet is full: send it, or take something off it.")
        elif same is None or same.audience != wanted:
            items.append(_usual_terms(body.recipe, wanted))
        own.items = [item.model_dump(mode="json") for item in items]
        own.changed_at = datetime.now(UTC)
        session.flush()
        return reply(_out(own))


def _usual_terms(recipe: Recipe, audience: Audience) -> SheetItem:
    target = recipe.tempo_bpm
    return SheetItem(
        recipe=recipe,
        audience=audience,
        target_bpm=target,
        good_repeats=_USUAL_REPEATS,
        ladder_from_bpm=first_rung(target),
    )


def _next_due(session: Session) -> date:
    today = studio_clock().today()
    lessons = [lesson_days(own) for own in session.scalars(select(Lesson))]
    return next_lesson(lessons, today, studio_days_off(session)) or today + _A_WEEK


@api.get("/sheets/<uuid:id>", responses={200: SheetOut})
@teacher_only
def one(path: ById) -> Any:
    with own_studio() as session:
        return reply(_out(own_row(session, SheetRow, path.id)))


@api.put("/sheets/<uuid:id>", responses={200: SheetOut, 409: Problem})
@teacher_only
def save(path: ById, body: SheetSave) -> Any:
    with own_studio() as session:
        own = _locked(session, path.id)
        if own.sent_at is not None:
            raise ProblemError(409, "This sheet was sent already: copy it to write on.")
        if own.changed_at != body.seen:
            raise ProblemError(409, "Somebody else has written on this sheet in the meantime. Open it again to see it.")
        own.name, own.due_on = body.name, body.due_on
        own.items = [item.model_dump(mode="json") for item in body.items]
        own.changed_at = datetime.now(UTC)
        return reply(_out(own))


def _locked(session: Session, sheet_id: uuid.UUID) -> SheetRow:
    own_row(session, SheetRow, sheet_id)
    return session.scalars(select(SheetRow).where(SheetRow.id == sheet_id).with_for_update()).one()


@api.delete("/sheets/<uuid:id>", responses={200: Done, 409: Problem})
@teacher_only
def drop(path: ById) -> Any:
    """A draft or a template; what was sent is taken back first."""
    with own_studio() as session:
        own = _locked(session, path.id)
        if own.sent_at is not None:
            raise ProblemError(409, "This sheet was sent: take it back first.")
        session.delete(own)
    return reply(Done())


@api.post("/sheets/<uuid:id>/template", responses={201: SheetOut})
@teacher_only
def keep_as_template(path: ById, body: Template) -> Any:
    """The exercises and their terms, without what was for single pupils: a template is for next year's too."""
    with own_studio() as session:
        source = own_row(session, SheetRow, path.id)
        items = [{**item, "changes": [], "audience": {**item["audience"], "pupil_ids": []}} for item in source.items]
        own = SheetRow(teacher_id=visitor().person.id, name=body.name, kind="template", items=items)
        session.add(own)
        session.flush()
        session.refresh(own)
        return reply(_out(own), 201)


@api.get("/sheets/<uuid:id>/pages", responses={200: SheetPages})
@teacher_only
def pages(path: ById) -> Any:
    """What each pupil will get."""
    with own_studio() as session:
        found = pages_of(session, _items(own_row(session, SheetRow, path.id)))
        return reply(SheetPages(pages=[page_out(own) for own in found]))


@api.post("/sheets/<uuid:id>/send", responses={200: SheetSent, 409: Problem, 422: Problem})
@teacher_only
def send(path: ById) -> Any:
    """All of it at once. Pupils for whom nothing is different share an assignment; whoever has other terms has their own."""
    with own_studio() as session:
        own = _locked(session, path.id)
        if own.kind != "draft":
            raise ProblemError(
                409, "This sheet was sent already." if own.sent_at else "A template is copied, then sent."
            )
        if own.due_on is None:
            raise ProblemError(422, "Say until when: the sheet has no day yet.")
        not_in_the_past(own.due_on)
        found = [page for page in pages_of(session, _items(own)) if page.items]
        if not found:
            raise ProblemError(422, "There is nothing on the sheet for anybody yet.")
        groups: dict[str, tuple[SheetItem, list[Pupil], dict[uuid.UUID, str]]] = {}
        order = {id(item): at for at, (item, *_) in enumerate(one for page in found for one in page.items)}
        for page in found:
            for item, change, _ in page.items:
                terms = terms_for(item, change)
                key = f"{order[id(item)]} {terms.model_dump_json()}"
                _, pupils, eases = groups.setdefault(key, (terms, [], {}))
                pupils.append(page.pupil)
                if change.ease is not None:
                    eases[page.pupil.id] = change.ease.value
        for terms, pupils, eases in groups.values():
            set_exercise(session, terms.recipe, terms, pupils, own.due_on, eases, own.id)
        own.kind, own.sent_at = "sent", datetime.now(UTC)
        return reply(SheetSent(sheet=_out(own), pupils=len(found), exercises=len(own.items)))


@api.delete("/sheets/<uuid:id>/send", responses={200: SheetOut, 409: Problem})
@teacher_only
def take_back(path: ById) -> Any:
    """Undo of sending: only while nobody has recorded anything of it."""
    with own_studio() as session:
        own = _locked(session, path.id)
        assignments = session.scalars(
            select(Assignment).where(Assignment.sheet_id == own.id).options(selectinload(Assignment.pupils))
        ).all()
        for assignment in assignments:
            session.delete(assignment)
        own.kind, own.sent_at = "draft", None
        try:
            session.flush()
        except IntegrityError as error:
            # The table says so, also of a take that is being committed now: this waits for it.
            raise ProblemError(409, "Somebody has already recorded something of it; the sheet stays sent.") from error
        return reply(_out(own))


@api.get("/sheets/<uuid:id>/paper.pdf", responses={422: Problem})
@teacher_only
def on_paper(path: ById, query: PaperQuestion) -> Any:
    """The pupils' pages to hand out, one each."""
    words, today = studio_settings(), studio_clock().today()
    with own_studio() as session:
        own = own_row(session, SheetRow, path.id)
        found = [page for page in pages_of(session, _items(own)) if page.items]
        if query.pupil_id is not None:
            found = [page for page in found if page.pupil.id == query.pupil_id]
        due_on = own.due_on
        paper = [paper_of(page, words, due_on, today) for page in found]
    if not paper:
        raise ProblemError(422, "There is nothing on the sheet for anybody yet.")
    pdf = week_sheets_pdf(paper)
    return send_file(io.BytesIO(pdf), mimetype="application/pdf", download_name="week.pdf", max_age=0)
