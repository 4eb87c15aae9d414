"""which line of an exercise a pupil plays: usual, easier or harder"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    for table in ("pupil", "assignment_pupil"):
        op.add_column(table, sa.Column("ease", sa.String(length=16), nullable=False, server_default="usual"))


def downgrade() -> None:
    for table in ("pupil", "assignment_pupil"):
        op.drop_column(table, "ease")
