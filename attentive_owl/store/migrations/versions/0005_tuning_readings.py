"""what the day's tuning check found of each string"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "tuning_reading",
        sa.Column("pupil_id", sa.Uuid(), sa.ForeignKey("pupil.id", ondelete="CASCADE"), nullable=False),
        sa.Column("string", sa.String(length=4), nullable=False),
        sa.Column("cents", sa.Float(), nullable=False),
        sa.Column("heard_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("studio_id", sa.Uuid(), sa.ForeignKey("studio.id", ondelete="CASCADE"), nullable=False),
        sa.Column("id", sa.Uuid(), primary_key=True),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.UniqueConstraint("pupil_id", "string"),
    )
    op.create_index("ix_tuning_reading_studio_id", "tuning_reading", ["studio_id"])


def downgrade() -> None:
    op.drop_table("tuning_reading")
