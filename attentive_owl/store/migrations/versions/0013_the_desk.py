"""the desk: places on a path, several classes, week's sheets, what is passed, calendar, outbox, figures of reports as columns"""

from __future__ import annotations

from typing import Any

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None

_FIGURES: tuple[tuple[str, Any, str], ...] = (
    ("version", sa.Integer(), "(document #>> '{version}')::integer"),
    ("good", sa.Boolean(), "(document #>> '{good_go,good}')::boolean"),
    ("in_a_row", sa.Integer(), "(document #>> '{good_go,in_a_row}')::integer"),
    ("refusal_code", sa.Text(), "(document #>> '{refusal,code}')::text"),
    ("refusal_title", sa.Text(), "(document #>> '{refusal,title}')::text"),
    ("pitch_word", sa.Text(), "(document #>> '{judgement,pitch,word}')::text"),
    ("rhythm_word", sa.Text(), "(document #>> '{judgement,rhythm,word}')::text"),
    ("pitch_home", sa.Integer(), "(document #>> '{judgement,pitch,home}')::integer"),
    ("pitch_of", sa.Integer(), "(document #>> '{judgement,pitch,of}')::integer"),
    ("rhythm_home", sa.Integer(), "(document #>> '{judgement,rhythm,home}')::integer"),
    ("rhythm_of", sa.Integer(), "(document #>> '{judgement,rhythm,of}')::integer"),
    ("played_bpm", sa.Double(), "(document #>> '{tempo,played_bpm}')::double precision"),
    ("wrong_notes", sa.Integer(), """jsonb_array_length(jsonb_path_query_array(document, '$.notes[*] ? (@.status == "wrong_pitch")'))"""),
    ("unclear_notes", sa.Integer(), """jsonb_array_length(jsonb_path_query_array(document, '$.notes[*] ? (@.status == "unclear")'))"""),
    ("all_notes", sa.Integer(), "jsonb_array_length(jsonb_path_query_array(document, '$.notes[*]'))"),
    ("wrong_names", JSONB(), """jsonb_path_query_array(document, '$.notes[*] ? (@.status == "wrong_pitch").name')"""),
    ("causes", JSONB(), "jsonb_path_query_array(document, '$.causes[*]')"),
)  # fmt: skip


def _owned(name: str, *columns: Any) -> None:
    op.create_table(
        name,
        sa.Column("id", sa.Uuid(), primary_key=True),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False, server_default=sa.func.now()),
        sa.Column("studio_id", sa.Uuid(), sa.ForeignKey("studio.id", ondelete="CASCADE"), nullable=False, index=True),
        *columns,
    )


def upgrade() -> None:
    moment = sa.DateTime(timezone=True)
    _owned(
        "invitation",
        sa.Column("token_hash", sa.String(64), nullable=False, unique=True),
        sa.Column("expires_at", moment, nullable=False),
        sa.Column("used_at", moment),
    )
    op.create_table(
        "class_pupil",
        sa.Column("class_id", sa.Uuid(), sa.ForeignKey("class_group.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("pupil_id", sa.Uuid(), sa.ForeignKey("pupil.id", ondelete="CASCADE"), primary_key=True, index=True),
    )
    op.add_column("pupil", sa.Column("path_id", sa.Uuid(), sa.ForeignKey("learning_path.id", ondelete="SET NULL")))
    op.add_column("pupil", sa.Column("path_step", sa.Integer(), nullable=False, server_default="0"))
    op.add_column("pupil", sa.Column("goal", sa.String(300), nullable=False, server_default=""))
    op.add_column("pupil", sa.Column("remarks", sa.Text(), nullable=False, server_default=""))
    op.add_column("pupil", sa.Column("archived_at", moment))
    _owned(
        "week_sheet",
        sa.Column("teacher_id", sa.Uuid(), sa.ForeignKey("teacher.id", ondelete="CASCADE"), nullable=False),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("kind", sa.String(16), nullable=False),
        sa.Column("due_on", sa.Date()),
        sa.Column("items", JSONB(), nullable=False),
        sa.Column("changed_at", moment, nullable=False, server_default=sa.func.now()),
        sa.Column("sent_at", moment),
    )
    op.add_column(
        "assignment", sa.Column("sheet_id", sa.Uuid(), sa.ForeignKey("week_sheet.id", ondelete="SET NULL"), index=True)
    )
    _owned(
        "passed_step",
        sa.Column("pupil_id", sa.Uuid(), sa.ForeignKey("pupil.id", ondelete="CASCADE"), nullable=False, index=True),
        sa.Column("teacher_id", sa.Uuid(), sa.ForeignKey("teacher.id", ondelete="CASCADE"), nullable=False),
        sa.Column("take_id", sa.Uuid(), sa.ForeignKey("take.id", ondelete="SET NULL")),
        sa.Column("key", sa.String(64), nullable=False),
        sa.Column("title", sa.String(160), nullable=False),
        sa.Column("recipe", JSONB(), nullable=False),
        sa.Column("rubric", JSONB(), nullable=False, server_default="{}"),
        sa.Column("remark", sa.String(300), nullable=False, server_default=""),
        sa.UniqueConstraint("pupil_id", "key"),
    )
    _owned(
        "lesson",
        sa.Column("class_id", sa.Uuid(), sa.ForeignKey("class_group.id", ondelete="CASCADE"), nullable=False, index=True),
        sa.Column("day", sa.Date(), nullable=False),
        sa.Column("starts", sa.Time(), nullable=False),
        sa.Column("minutes", sa.Integer(), nullable=False),
        sa.Column("until", sa.Date()),
        sa.Column("place", sa.String(120), nullable=False, server_default=""),
    )  # fmt: skip
    _owned(
        "school_break",
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("first_day", sa.Date(), nullable=False),
        sa.Column("last_day", sa.Date(), nullable=False),
    )
    _owned(
        "outbox_message",
        sa.Column("pupil_id", sa.Uuid(), sa.ForeignKey("pupil.id", ondelete="CASCADE"), nullable=False, index=True),
        sa.Column("kind", sa.String(24), nullable=False),
        sa.Column("about", sa.String(64), nullable=False),
        sa.Column("subject", sa.String(160), nullable=False),
        sa.Column("words", sa.Text(), nullable=False),
        sa.UniqueConstraint("pupil_id", "kind", "about"),
    )
    op.add_column("take", sa.Column("lesson_teacher_id", sa.Uuid(), sa.ForeignKey("teacher.id", ondelete="SET NULL")))
    op.add_column("take", sa.Column("sound_removed_at", moment))
    for name, kind, source in _FIGURES:
        op.add_column("report", sa.Column(name, kind, sa.Computed(source, persisted=True)))


def downgrade() -> None:
    for name, _, _ in _FIGURES:
        op.drop_column("report", name)
    op.drop_column("take", "sound_removed_at")
    op.drop_column("take", "lesson_teacher_id")
    for table in ("outbox_message", "school_break", "lesson", "passed_step"):
        op.drop_table(table)
    op.drop_column("assignment", "sheet_id")
    op.drop_table("week_sheet")
    for name in ("path_id", "path_step", "goal", "remarks", "archived_at"):
        op.drop_column("pupil", name)
    op.drop_table("class_pupil")
    op.drop_table("invitation")
