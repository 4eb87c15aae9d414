"""the column that holds a studio's settings is called so"""

from __future__ import annotations

from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.alter_column("studio", "words", new_column_name="settings")


def downgrade() -> None:
    op.alter_column("studio", "settings", new_column_name="words")
