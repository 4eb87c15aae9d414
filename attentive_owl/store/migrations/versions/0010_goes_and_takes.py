"""what a pupil records is a go of their own until it is handed in; tempo ladders"""

from __future__ import annotations

from typing import Any

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def _of_a_take() -> tuple[sa.Column[Any], ...]:
    return (
        sa.Column("bpm", sa.Float()),
        sa.Column("first_bar", sa.Integer()),
        sa.Column("last_bar", sa.Integer()),
        sa.Column("mode", sa.String(length=16)),
        sa.Column("focus", sa.String(length=16)),
        sa.Column("handed_in_at", sa.DateTime(timezone=True)),
        sa.Column("thrown_away_at", sa.DateTime(timezone=True)),
        sa.Column("kept_at", sa.DateTime(timezone=True)),
        sa.Column("felt", sa.String(length=16)),
        sa.Column("help_words", sa.String(length=300)),
        sa.Column("help_sha256", sa.String(length=64)),
    )


def _of_an_assignment() -> tuple[sa.Column[Any], ...]:
    return (
        sa.Column("ladder_from_bpm", sa.Float()),
        sa.Column("ladder_step_bpm", sa.Float(), nullable=False, server_default="6"),
        sa.Column("ladder_clean", sa.Integer(), nullable=False, server_default="2"),
    )


def upgrade() -> None:
    for column in _of_a_take():
        op.add_column("take", column)
    for column in _of_an_assignment():
        op.add_column("assignment", column)
    # Until now whatever was recorded went to the teacher.
    op.execute("UPDATE take SET handed_in_at = recorded_at")
    op.create_index("ix_take_handed_in_at", "take", ["handed_in_at"])


def downgrade() -> None:
    op.drop_index("ix_take_handed_in_at", "take")
    for column in _of_a_take():
        op.drop_column("take", column.name)
    for column in _of_an_assignment():
        op.drop_column("assignment", column.name)
