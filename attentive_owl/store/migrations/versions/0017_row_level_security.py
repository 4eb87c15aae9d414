"""the database's own wall between studios: rows of another one are not there for the role that the pages work in"""

from __future__ import annotations

from alembic import op

revision = "0017"
down_revision = "0016"
branch_labels = None
depends_on = None

_OWNED = (
    "class_group", "exercise", "invitation", "learning_path", "school_break", "teacher", "lesson", "pupil", "week_sheet", "assignment",
    "declined_suggestion", "outbox_message", "tuning_reading", "take", "mark", "overrule", "passed_step", "report",
)  # fmt: skip
# Asked once a statement, not once a row.
_STUDIO = "(SELECT NULLIF(current_setting('owl.studio', true), '')::uuid)"
_INSIDE = {
    **dict.fromkeys(_OWNED, f"studio_id = {_STUDIO}"),
    "studio": f"id = {_STUDIO}",
    # Through rows that have a wall of their own.
    "class_pupil": "class_id IN (SELECT id FROM class_group) AND pupil_id IN (SELECT id FROM pupil)",
    "assignment_pupil": "assignment_id IN (SELECT id FROM assignment) AND pupil_id IN (SELECT id FROM pupil)",
    # Comes before a studio is known.
    "sign_in_attempt": "false",
}


def upgrade() -> None:
    for table, inside in _INSIDE.items():
        op.execute(f"ALTER TABLE {table} ENABLE ROW LEVEL SECURITY")
        op.execute(f"CREATE POLICY inside ON {table} USING ({inside}) WITH CHECK ({inside})")


def downgrade() -> None:
    for table in _INSIDE:
        op.execute(f"DROP POLICY inside ON {table}")
        op.execute(f"ALTER TABLE {table} DISABLE ROW LEVEL SECURITY")
