"""a picture of the bow hold may go with a take, where the teacher asks and an adult has said yes"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("pupil", sa.Column("pictures_agreed", sa.Boolean(), nullable=False, server_default="false"))
    op.add_column("assignment", sa.Column("wants_picture", sa.Boolean(), nullable=False, server_default="false"))
    op.add_column("take", sa.Column("picture_sha256", sa.String(length=64)))


def downgrade() -> None:
    op.drop_column("take", "picture_sha256")
    op.drop_column("assignment", "wants_picture")
    op.drop_column("pupil", "pictures_agreed")
