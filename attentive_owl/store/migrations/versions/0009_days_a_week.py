"""on how many days of a week an assignment is practised"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("assignment", sa.Column("days_a_week", sa.Integer(), nullable=False, server_default="5"))


def downgrade() -> None:
    op.drop_column("assignment", "days_a_week")
