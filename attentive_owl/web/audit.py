"""The audit trail: who of the studio's staff heard, changed, exported and erased what. Every request that does so leaves one line, in one
place, so that no new route can forget it."""

from __future__ import annotations

import uuid
from datetime import UTC, datetime, timedelta
from typing import Any

from flask import Flask, Response, request
from flask_login import current_user
from sqlalchemy import select
from sqlalchemy.orm import Session

from attentive_owl.store.models import AuditEntry
from attentive_owl.web.access import house_only, own_studio
from attentive_owl.web.areas import Area
from attentive_owl.web.paging import Page, count_of
from attentive_owl.web.replies import reply
from attentive_owl.web.roles import Right
from attentive_owl.web.schemas.calendar import PageQuestion
from attentive_owl.web.schemas.people import AuditLine, AuditPage, Person

api = Area("audit", __name__, 401)
_PER_PAGE = 50
_ONE_LINE = timedelta(minutes=10)
_RULE = "/api/{}".format
CHANGES_NOTHING = frozenset(
    ("POST", _RULE(name)) for name in ("preview", "sheet", "export", "line", "tuning-check", "assignments/<uuid:id>/first-note")
) | {("DELETE", "/api/session"), ("POST", "/api/session/teacher")}  # fmt: skip
"""What asks by POST because the question is long, and coming and going."""
READS: dict[str, tuple[str, str]] = {
    _RULE("takes/<uuid:id>/audio"): ("heard", "a recording"),
    _RULE("takes/<uuid:id>/help"): ("heard", "a spoken question for help"),
    _RULE("takes/<uuid:id>/picture"): ("saw", "a picture of a bow hold"),
    _RULE("takes/<uuid:id>/report.pdf"): ("exported", "a report on paper"),
    _RULE("pupils/<uuid:id>/record.pdf"): ("exported", "a pupil's record on paper"),
    _RULE("pupils/<uuid:id>/archive.zip"): ("exported", "everything of one pupil"),
    _RULE("records.pdf"): ("exported", "a page of each pupil"),
    _RULE("class.pdf"): ("exported", "the picture of a class"),
    _RULE("results.csv"): ("exported", "results as CSV"),
    _RULE("studio/archive.zip"): ("exported", "the whole studio"),
}
"""What is read of a child, and what leaves the studio."""
_THINGS = {
    "assignments": "an assignment", "breaks": "days off", "classes": "a class", "exercises": "an exercise", "invitations": "a link for a colleague",
    "lessons": "a lesson", "marks": "a mark", "outbox": "a message of the outbox", "overrules": "an overrule", "passed": "a passed step",
    "paths": "a learning path", "pupils": "a pupil", "sheets": "a week's sheet", "studio": "the studio's settings", "takes": "a take",
    "teachers": "who teaches here",
}  # fmt: skip
SAID: dict[str, tuple[str, str]] = {
    _RULE("assignments"): ("set", "an exercise"),
    _RULE("exercises/<uuid:id>/retire"): ("retired", "an exercise"),
    _RULE("exercises/<uuid:id>/restore"): ("brought back", "an exercise"),
    _RULE("classes/<uuid:id>/roster"): ("put in", "pupils from a list"),
    _RULE("marks"): ("marked", "several takes"),
    _RULE("pupils/<uuid:id>/archive"): ("noted", "that a pupil has left"),
    _RULE("pupils/<uuid:id>/restore"): ("noted", "that a pupil is back"),
    _RULE("pupils/<uuid:id>/classes"): ("changed", "the classes of a pupil"),
    _RULE("pupils/<uuid:id>/declined"): ("changed", "what is suggested for a pupil"),
    _RULE("pupils/<uuid:id>/erase"): ("erased", "a pupil"),
    _RULE("pupils/<uuid:id>/merge"): ("merged", "two entries of a pupil"),
    _RULE("pupils/<uuid:id>/move"): ("moved", "a pupil to another class"),
    _RULE("pupils/<uuid:id>/passed"): ("passed", "a step of a pupil"),
    _RULE("pupils/<uuid:id>/passphrase"): ("renewed", "the card of a pupil"),
    _RULE("recheck"): ("asked", "for old takes to be checked again"),
    _RULE("session/password"): ("changed", "their own password"),
    _RULE("sheets/<uuid:id>/send"): ("sent", "a week's sheet"),
    _RULE("sheets/<uuid:id>/template"): ("kept", "a sheet as a template"),
    _RULE("sheets/add"): ("put", "something on a week's sheet"),
    _RULE("takes"): ("recorded", "a take"),
    _RULE("takes/<uuid:id>/marks"): ("marked", "a take"),
    _RULE("takes/<uuid:id>/overrules"): ("overruled", "the check of a take"),
}
"""What is more than making and changing."""
TAKEN_BACK: dict[str, tuple[str, str]] = {
    _RULE("sheets/<uuid:id>/send"): ("took back", "a week's sheet that was sent"),
}


def line_for(method: str, rule: str) -> tuple[str, str] | None:
    """What such a request does, as the trail says it; None for what leaves no line."""
    if method == "GET":
        return READS.get(rule)
    if (method, rule) in CHANGES_NOTHING or not rule.startswith("/api/"):
        return None
    thing = rule.split("/")[2]
    if method == "DELETE":
        return TAKEN_BACK.get(rule) or ("took away", _THINGS.get(thing, thing))
    return SAID.get(rule) or ("made" if method == "POST" else "changed", _THINGS.get(thing, thing))


def keep_trail(app: Flask) -> None:
    @app.after_request
    def note_down(answer: Response) -> Response:
        rule = request.url_rule.rule if request.url_rule else ""
        line = line_for(request.method, rule) if answer.status_code < 300 else None
        if line is not None and current_user.is_authenticated and Right.TEACH in current_user.person.may:
            with own_studio() as session:
                _keep(session, current_user.person, *line, subject_id=(request.view_args or {}).get("id"))
        return answer


def _keep(session: Session, person: Person, act: str, what: str, subject_id: uuid.UUID | None) -> None:
    """A sheet is kept at every pause in the writing, and a sound is fetched in pieces: the same within ten minutes is one line."""
    same = select(AuditEntry.id).where(
        AuditEntry.created_at > datetime.now(UTC) - _ONE_LINE,
        AuditEntry.actor_id == person.id,
        AuditEntry.act == act,
        AuditEntry.what == what,
        AuditEntry.subject_id.is_not_distinct_from(subject_id),
    )
    if session.scalar(same.limit(1)) is None:
        session.add(AuditEntry(actor_id=person.id, actor_name=person.name, act=act, what=what, subject_id=subject_id))


@api.get("/audit", responses={200: AuditPage})
@house_only
def trail(query: PageQuestion) -> Any:
    """The newest first."""
    question = select(AuditEntry)
    with own_studio() as session:
        paged = Page(count_of(session, question), _PER_PAGE, query.page)
        rows = session.scalars(
            question.order_by(AuditEntry.created_at.desc(), AuditEntry.id).limit(_PER_PAGE).offset(paged.first)
        )
        return reply(
            AuditPage(
                lines=[AuditLine.model_validate(own, from_attributes=True) for own in rows],
                page=paged.page,
                pages=paged.pages,
            )
        )
