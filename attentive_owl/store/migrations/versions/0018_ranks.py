"""owners, teachers and assistants"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0018"
down_revision = "0017"
branch_labels = None
depends_on = None


def upgrade() -> None:
    # Who taught before there were ranks could do everything, and still can.
    op.add_column("teacher", sa.Column("rank", sa.String(16), nullable=False, server_default="owner"))
    op.alter_column("teacher", "rank", server_default="teacher")
    op.add_column("invitation", sa.Column("rank", sa.String(16), nullable=False, server_default="teacher"))


def downgrade() -> None:
    op.drop_column("invitation", "rank")
    op.drop_column("teacher", "rank")
