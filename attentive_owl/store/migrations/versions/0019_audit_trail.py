"""who heard, changed, exported and erased"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0019"
down_revision = "0018"
branch_labels = None
depends_on = None
_STUDIO = "(SELECT NULLIF(current_setting('owl.studio', true), '')::uuid)"


def upgrade() -> None:
    op.create_table(
        "audit_entry",
        sa.Column("id", sa.Uuid(), primary_key=True),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("studio_id", sa.Uuid(), sa.ForeignKey("studio.id", ondelete="CASCADE"), nullable=False, index=True),
        sa.Column("actor_id", sa.Uuid(), nullable=False),
        sa.Column("actor_name", sa.String(80), nullable=False),
        sa.Column("act", sa.String(16), nullable=False),
        sa.Column("what", sa.String(80), nullable=False),
        sa.Column("subject_id", sa.Uuid()),
    )
    op.create_index("ix_audit_entry_studio_created", "audit_entry", ["studio_id", "created_at"])
    op.execute("ALTER TABLE audit_entry ENABLE ROW LEVEL SECURITY")
    op.execute(f"CREATE POLICY inside ON audit_entry USING (studio_id = {_STUDIO}) WITH CHECK (studio_id = {_STUDIO})")


def downgrade() -> None:
    op.drop_table("audit_entry")
