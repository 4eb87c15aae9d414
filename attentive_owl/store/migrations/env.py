"""Alembic's entry: runs on the connection that `store.migrate` hands over."""

from __future__ import annotations

from typing import Any

from alembic import context

from attentive_owl.store.models import Base


def _ours(item: Any, name: str | None, kind: str, reflected: bool, compare_to: Any) -> bool:
    return not (kind == "table" and name is not None and name.startswith("procrastinate"))


context.configure(
    connection=context.config.attributes["connection"],
    target_metadata=Base.metadata,
    include_object=_ours,
    compare_type=True,
)
with context.begin_transaction():
    context.run_migrations()
