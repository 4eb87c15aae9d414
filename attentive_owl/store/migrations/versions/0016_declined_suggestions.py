"""suggestions to which a teacher said: not now"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0016"
down_revision = "0015"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "declined_suggestion",
        sa.Column("id", sa.Uuid(), primary_key=True),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("studio_id", sa.Uuid(), sa.ForeignKey("studio.id", ondelete="CASCADE"), nullable=False, index=True),
        sa.Column("pupil_id", sa.Uuid(), sa.ForeignKey("pupil.id", ondelete="CASCADE"), nullable=False, index=True),
        sa.Column("key", sa.String(64), nullable=False),
        sa.Column("recipe", postgresql.JSONB(), nullable=False),
        sa.UniqueConstraint("pupil_id", "key"),
    )


def downgrade() -> None:
    op.drop_table("declined_suggestion")
