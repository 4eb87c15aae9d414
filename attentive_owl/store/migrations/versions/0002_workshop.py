"""the workshop: words of the studio, tags and versions of exercises, learning paths"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None

_JSON = sa.JSON().with_variant(postgresql.JSONB(astext_type=sa.Text()), "postgresql")


def upgrade() -> None:
    op.add_column("studio", sa.Column("words", _JSON, server_default="{}", nullable=False))
    op.add_column("exercise", sa.Column("tags", _JSON, server_default="[]", nullable=False))
    op.add_column("exercise", sa.Column("version", sa.Integer(), server_default="1", nullable=False))
    op.add_column("exercise", sa.Column("replaces_id", sa.Uuid(), nullable=True))
    op.add_column("exercise", sa.Column("retired_at", sa.DateTime(timezone=True), nullable=True))
    op.create_foreign_key(
        "exercise_replaces_id_fkey", "exercise", "exercise", ["replaces_id"], ["id"], ondelete="SET NULL"
    )
    op.create_table(
        "learning_path",
        sa.Column("name", sa.String(length=80), nullable=False),
        sa.Column("about", sa.String(length=300), nullable=False),
        sa.Column("place", sa.Integer(), nullable=False),
        sa.Column("steps", _JSON, nullable=False),
        sa.Column("studio_id", sa.Uuid(), nullable=False),
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), server_default=sa.text("now()"), nullable=False),
        sa.ForeignKeyConstraint(["studio_id"], ["studio.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index(op.f("ix_learning_path_studio_id"), "learning_path", ["studio_id"], unique=False)


def downgrade() -> None:
    op.drop_index(op.f("ix_learning_path_studio_id"), table_name="learning_path")
    op.drop_table("learning_path")
    op.drop_constraint("exercise_replaces_id_fkey", "exercise", type_="foreignkey")
    for column in ("retired_at", "replaces_id", "version", "tags"):
        op.drop_column("exercise", column)
    op.drop_column("studio", "words")
