"""what was tried at signing in, so that the same wrong word counts once"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None


def upgrade() -> None:
    # They are of the last minutes, and only slow somebody down.
    op.execute("DELETE FROM sign_in_attempt")
    op.add_column("sign_in_attempt", sa.Column("what", sa.String(64), nullable=False))
    op.create_unique_constraint("sign_in_attempt_subject_what_key", "sign_in_attempt", ["subject", "what"])


def downgrade() -> None:
    op.drop_constraint("sign_in_attempt_subject_what_key", "sign_in_attempt")
    op.drop_column("sign_in_attempt", "what")
