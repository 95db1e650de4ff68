"""Markup of tracks: what the user changed by hand, with its history, and what the analysis found"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "track_revisions",
        sa.Column("id", sa.Integer(), autoincrement=True, nullable=False),
        sa.Column("track_id", sa.String(length=16), nullable=False),
        sa.Column("parent", sa.Integer(), nullable=True),
        sa.Column("label", sa.Text(), nullable=False),
        sa.Column("state", sa.LargeBinary(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["track_id"], ["tracks.id"], ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["parent"], ["track_revisions.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id"),
    )
    with op.batch_alter_table("track_revisions", schema=None) as batch_op:
        batch_op.create_index("ix_track_revisions_track_parent", ["track_id", "parent"], unique=False)
    with op.batch_alter_table("tracks", schema=None) as batch_op:
        batch_op.add_column(sa.Column("checked", sa.Boolean(), nullable=False, server_default=sa.false()))
        batch_op.add_column(sa.Column("markup_version", sa.Integer(), nullable=False, server_default="0"))
        batch_op.add_column(sa.Column("head", sa.Integer(), nullable=True))
        batch_op.add_column(sa.Column("doubts", sa.JSON(), nullable=True))
        batch_op.add_column(sa.Column("key", sa.String(length=4), nullable=True))
        batch_op.add_column(sa.Column("findings", sa.JSON(), nullable=True))
        batch_op.add_column(sa.Column("tempo_low", sa.Double(), nullable=True))
        batch_op.add_column(sa.Column("tempo_high", sa.Double(), nullable=True))
        batch_op.create_foreign_key("fk_tracks_head", "track_revisions", ["head"], ["id"], ondelete="SET NULL")


def downgrade() -> None:
    with op.batch_alter_table("tracks", schema=None) as batch_op:
        batch_op.drop_constraint("fk_tracks_head", type_="foreignkey")
        for column in ("checked", "markup_version", "head", "doubts", "key", "findings", "tempo_low", "tempo_high"):
            batch_op.drop_column(column)
    op.drop_table("track_revisions")
