"""notes that were heard but could not be timed, counted for lists"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0020"
down_revision = "0019"
branch_labels = None
depends_on = None
_UNTIMED = """jsonb_array_length(jsonb_path_query_array(document, '$ ? (@.expectations.mode != "pauses").notes[*] ? (@.moment_guessed == true)'))"""


def upgrade() -> None:
    op.add_column("report", sa.Column("untimed_notes", sa.Integer(), sa.Computed(_UNTIMED, persisted=True)))


def downgrade() -> None:
    op.drop_column("report", "untimed_notes")
