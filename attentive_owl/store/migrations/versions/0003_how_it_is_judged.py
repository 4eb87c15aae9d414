"""assignments say how they are judged: temperament, reference pitch, way of practising"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("assignment", sa.Column("temperament", sa.String(length=16), server_default="equal", nullable=False))
    op.add_column("assignment", sa.Column("a4_hz", sa.Float(), nullable=True))
    op.add_column("assignment", sa.Column("mode", sa.String(length=16), server_default="steady", nullable=False))


def downgrade() -> None:
    for column in ("mode", "a4_hz", "temperament"):
        op.drop_column("assignment", column)
