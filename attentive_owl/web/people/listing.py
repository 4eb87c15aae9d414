"""Lists of pupils, narrowed and paged by the database."""

from __future__ import annotations

import uuid
from typing import Any

from sqlalchemy import Select, or_, select
from sqlalchemy.orm import Session

from attentive_owl.core.instruments import INSTRUMENTS
from attentive_owl.store.models import ALSO_IN, ClassGroup, Pupil
from attentive_owl.web.access import own_row, own_studio, teacher_only
from attentive_owl.web.paging import Page, count_of
from attentive_owl.web.people.blueprint import api
from attentive_owl.web.people.classes import pupil_out
from attentive_owl.web.replies import reply
from attentive_owl.web.schemas.people import PeoplePage, PeopleQuestion, PersonRow

_PER_PAGE = 40


def there(session: Session, class_id: uuid.UUID | None = None) -> Select[Pupil]:
    """Who has not left: of the whole studio, or of a class with its guests. Raises 404 for a class of another studio."""
    question = select(Pupil).where(Pupil.archived_at.is_(None))
    if class_id is not None:
        group = own_row(session, ClassGroup, class_id)
        guests = select(ALSO_IN.c.pupil_id).where(ALSO_IN.c.class_id == group.id)
        question = question.where(or_(Pupil.group_id == group.id, Pupil.id.in_(guests)))
    return question


def active_pupils(session: Session, class_id: uuid.UUID | None = None) -> list[Pupil]:
    """Who is there, by name."""
    return list(session.scalars(by_name(there(session, class_id))))


def by_name(question: Select[Pupil]) -> Select[Pupil]:
    return question.order_by(Pupil.name, Pupil.id)


@api.get("/pupils", responses={200: PeoplePage})
@teacher_only
def people(query: PeopleQuestion) -> Any:
    """Class by class and by name; or those who have left, the last first."""
    with own_studio() as session:
        if query.left:
            question = select(Pupil).where(Pupil.archived_at.is_not(None)).order_by(Pupil.archived_at.desc(), Pupil.id)
        else:
            question = there(session, query.class_id)
            question = question.join(ClassGroup, ClassGroup.id == Pupil.group_id)
            question = by_name(question.order_by(ClassGroup.name, ClassGroup.id))
        for word in query.search.split():
            players = [key for key, own in INSTRUMENTS.items() if word.casefold() in own.name.casefold()]
            question = question.where(or_(Pupil.name.icontains(word, autoescape=True), Pupil.instrument.in_(players)))
        paged = Page(count_of(session, question), _PER_PAGE, query.page)
        rows = session.scalars(question.limit(_PER_PAGE).offset(paged.first))
        return reply(
            PeoplePage(
                pupils=[PersonRow(pupil=pupil_out(own), class_id=own.group_id) for own in rows],
                page=paged.page,
                pages=paged.pages,
                total=paged.total,
            )
        )
