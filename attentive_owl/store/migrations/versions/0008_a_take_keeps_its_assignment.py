"""an assignment that has a take can not be deleted"""

from __future__ import annotations

from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None
_NAME = "take_assignment_id_fkey"


def _again(ondelete: str | None) -> None:
    op.drop_constraint(_NAME, "take", type_="foreignkey")
    op.create_foreign_key(_NAME, "take", "assignment", ["assignment_id"], ["id"], ondelete=ondelete)


def upgrade() -> None:
    # Checked at the end of a statement, so that a studio can still be erased whole.
    _again(None)


def downgrade() -> None:
    _again("CASCADE")
