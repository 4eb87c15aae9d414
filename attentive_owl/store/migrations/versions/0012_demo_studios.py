"""which studio is the invented one"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("studio", sa.Column("demo", sa.Boolean(), nullable=False, server_default="false"))
    # Demos that were made before: their teacher has an address that is nobody's (RFC 2606).
    op.execute(
        "UPDATE studio SET demo = true WHERE id IN (SELECT studio_id FROM teacher WHERE email = 'marit@ferryhall.example')"
    )


def downgrade() -> None:
    op.drop_column("studio", "demo")
