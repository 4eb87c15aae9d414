"""assignments say how they are judged; pupils have tapes and known frames of their own"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None

_JSON = sa.JSON().with_variant(postgresql.JSONB(astext_type=sa.Text()), "postgresql")


def upgrade() -> None:
    op.add_column("pupil", sa.Column("marks", _JSON, server_default="[]", nullable=False))
    op.add_column("pupil", sa.Column("known", _JSON, server_default="[]", nullable=False))
    op.add_column("assignment", sa.Column("temperament", sa.String(length=16), server_default="equal", nullable=False))
    op.add_column("assignment", sa.Column("a4_hz", sa.Float(), nullable=True))
    op.add_column("assignment", sa.Column("mode", sa.String(length=16), server_default="steady", nullable=False))


def downgrade() -> None:
    op.drop_column("pupil", "known")
    op.drop_column("pupil", "marks")
    for column in ("mode", "a4_hz", "temperament"):
        op.drop_column("assignment", column)
