"""Which takes a teacher sees: what was handed in, and of a pupil's own goes as many as the studio has agreed on."""

from __future__ import annotations

from sqlalchemy import ColumnElement, and_, func, or_, select

from attentive_owl.store.models import Take

HANDED_IN: ColumnElement[bool] = and_(Take.handed_in_at.is_not(None), Take.thrown_away_at.is_(None))


def shown_to_teacher(goes_seen: int) -> ColumnElement[bool]:
    """`goes_seen`: how many of the last goes of each pupil and exercise, beside what was handed in."""
    place = func.row_number().over(
        partition_by=(Take.pupil_id, Take.assignment_id), order_by=(Take.recorded_at.desc(), Take.id)
    )
    ranked = select(Take.id, place.label("place")).where(Take.thrown_away_at.is_(None)).subquery()
    last = select(ranked.c.id).where(ranked.c.place <= goes_seen)
    return and_(Take.thrown_away_at.is_(None), or_(Take.handed_in_at.is_not(None), Take.id.in_(last)))
