"""What a library is looked through by: more of the tags, lists, saved filters, pairings, and steps to undo"""

from __future__ import annotations

from typing import Any

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def _columns() -> tuple[sa.Column[Any], ...]:
    return (
        sa.Column("album", sa.Text(), nullable=False, server_default=""),
        sa.Column("genre", sa.Text(), nullable=False, server_default=""),
        sa.Column("comment", sa.Text(), nullable=False, server_default=""),
        sa.Column("year", sa.Integer(), nullable=True),
        sa.Column("bit_rate", sa.Integer(), nullable=True),
        sa.Column("tags", sa.JSON(), nullable=True),
        sa.Column("energy", sa.Float(), nullable=True),
        sa.Column("voice_share", sa.Float(), nullable=True),
        sa.Column("cue_marks", sa.JSON(), nullable=True),
        sa.Column("offered", sa.Text(), nullable=True),
        sa.Column("next_hash", sa.String(length=64), nullable=True),
        sa.Column("stamp", sa.Integer(), nullable=False, server_default="0"),
    )


def upgrade() -> None:
    with op.batch_alter_table("tracks", schema=None) as batch_op:
        for column in _columns():
            batch_op.add_column(column)
        batch_op.create_index("ix_tracks_stamp", ["stamp"])
    op.create_table(
        "lists",
        sa.Column("id", sa.String(length=16), primary_key=True),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("place", sa.Integer(), nullable=False),
        sa.Column("track_ids", sa.JSON(), nullable=False),
    )
    op.create_table(
        "filters",
        sa.Column("id", sa.String(length=16), primary_key=True),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("place", sa.Integer(), nullable=False),
        sa.Column("search", sa.Text(), nullable=False),
    )
    op.create_table(
        "pairings",
        sa.Column("first", sa.String(length=16), sa.ForeignKey("tracks.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("second", sa.String(length=16), sa.ForeignKey("tracks.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("note", sa.Text(), nullable=False),
    )
    op.create_table(
        "file_fields",
        sa.Column("track_id", sa.String(length=16), sa.ForeignKey("tracks.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("before", sa.JSON(), nullable=False),
    )
    op.create_table(
        "library_steps",
        sa.Column("id", sa.Integer(), primary_key=True, autoincrement=True),
        sa.Column("label", sa.Text(), nullable=False),
        sa.Column("before", sa.JSON(), nullable=False),
        sa.Column("after", sa.JSON(), nullable=False),
        sa.Column("undone", sa.Boolean(), nullable=False),
        sa.Column("created_at", sa.DateTime(), nullable=False),
    )


def downgrade() -> None:
    for table in ("library_steps", "file_fields", "pairings", "filters", "lists"):
        op.drop_table(table)
    with op.batch_alter_table("tracks", schema=None) as batch_op:
        batch_op.drop_index("ix_tracks_stamp")
        for column in _columns():
            batch_op.drop_column(column.name)
