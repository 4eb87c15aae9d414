"""The outbox: what would go by mail. Nothing leaves the machine; a teacher sees what was said, and can copy it."""

from __future__ import annotations

from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import joinedload

from attentive_owl.store.models import OutboxMessage
from attentive_owl.web.access import own_row, own_studio, teacher_only
from attentive_owl.web.areas import Area
from attentive_owl.web.paging import Page, count_of
from attentive_owl.web.replies import reply
from attentive_owl.web.schemas.calendar import MessageOut, OutboxPage, PageQuestion
from attentive_owl.web.schemas.common import ById, Done

api = Area("outbox", __name__, 401, 404)
_PER_PAGE = 25


@api.get("/outbox", responses={200: OutboxPage})
@teacher_only
def outbox(query: PageQuestion) -> Any:
    """The newest first."""
    with own_studio() as session:
        paged = Page(count_of(session, select(OutboxMessage.id)), _PER_PAGE, query.page)
        rows = session.scalars(
            select(OutboxMessage)
            .options(joinedload(OutboxMessage.pupil))
            .order_by(OutboxMessage.created_at.desc(), OutboxMessage.id)
            .limit(_PER_PAGE)
            .offset(paged.first)
        )
        messages = [
            MessageOut(
                id=own.id,
                created_at=own.created_at,
                pupil_id=own.pupil_id,
                pupil_name=own.pupil.name,
                subject=own.subject,
                words=own.words,
            )
            for own in rows
        ]
        return reply(OutboxPage(messages=messages, total=paged.total, page=paged.page, pages=paged.pages))


@api.delete("/outbox/<uuid:id>", responses={200: Done})
@teacher_only
def drop(path: ById) -> Any:
    with own_studio() as session:
        session.delete(own_row(session, OutboxMessage, path.id))
    return reply(Done())
