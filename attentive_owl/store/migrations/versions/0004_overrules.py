"""the teacher's ear goes before the check"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "overrule",
        sa.Column("take_id", sa.Uuid(), sa.ForeignKey("take.id", ondelete="CASCADE"), nullable=False),
        sa.Column("teacher_id", sa.Uuid(), sa.ForeignKey("teacher.id", ondelete="CASCADE"), nullable=False),
        sa.Column("note_index", sa.Integer(), nullable=True),
        sa.Column("cause", sa.String(length=32), nullable=True),
        sa.Column("says", sa.String(length=16), nullable=False),
        sa.Column("remark", sa.String(length=300), nullable=False),
        sa.Column("studio_id", sa.Uuid(), sa.ForeignKey("studio.id", ondelete="CASCADE"), nullable=False),
        sa.Column("id", sa.Uuid(), primary_key=True),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.UniqueConstraint("take_id", "note_index", "cause", postgresql_nulls_not_distinct=True),
    )
    op.create_index("ix_overrule_take_id", "overrule", ["take_id"])
    op.create_index("ix_overrule_studio_id", "overrule", ["studio_id"])


def downgrade() -> None:
    op.drop_table("overrule")
