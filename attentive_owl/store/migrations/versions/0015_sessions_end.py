"""sessions end on the server"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0015"
down_revision = "0014"
branch_labels = None
depends_on = None


def upgrade() -> None:
    for table in ("teacher", "pupil"):
        op.add_column(table, sa.Column("epoch", sa.Integer(), nullable=False, server_default="0"))


def downgrade() -> None:
    for table in ("teacher", "pupil"):
        op.drop_column(table, "epoch")
