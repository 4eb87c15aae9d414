"""Lists in pages: how many there are, and which one is shown."""

from __future__ import annotations

from dataclasses import dataclass
from math import ceil
from typing import Any

from sqlalchemy import Select, func, select
from sqlalchemy.orm import Session


@dataclass(frozen=True)
class Page:
    total: int
    per_page: int
    wanted: int

    @property
    def pages(self) -> int:
        return max(ceil(self.total / self.per_page), 1)

    @property
    def page(self) -> int:
        """The one that was asked for, or the last there is."""
        return min(self.wanted, self.pages)

    @property
    def first(self) -> int:
        return (self.page - 1) * self.per_page

    @property
    def own(self) -> slice:
        return slice(self.first, self.first + self.per_page)


def count_of(session: Session, question: Select[*tuple[Any, ...]]) -> int:
    """Rows of a question, whatever its order."""
    return session.scalar(select(func.count()).select_from(question.order_by(None).subquery())) or 0
