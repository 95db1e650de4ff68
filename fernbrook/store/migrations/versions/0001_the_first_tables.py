"""The first tables"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "jobs",
        sa.Column("id", sa.String(length=16), nullable=False),
        sa.Column("kind", sa.String(length=16), nullable=False),
        sa.Column("subject", sa.String(length=16), nullable=False),
        sa.Column("title", sa.Text(), nullable=False),
        sa.Column("order", sa.JSON(), nullable=False),
        sa.Column("state", sa.String(length=16), nullable=False),
        sa.Column("progress", sa.Double(), nullable=False),
        sa.Column("error", sa.Text(), nullable=True),
        sa.Column("result", sa.JSON(), nullable=True),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("started_at", sa.DateTime(timezone=True), nullable=True),
        sa.Column("finished_at", sa.DateTime(timezone=True), nullable=True),
        sa.PrimaryKeyConstraint("id"),
    )
    with op.batch_alter_table("jobs", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_jobs_kind"), ["kind"], unique=False)
        batch_op.create_index(batch_op.f("ix_jobs_state"), ["state"], unique=False)
        batch_op.create_index(batch_op.f("ix_jobs_subject"), ["subject"], unique=False)

    op.create_table(
        "mixes",
        sa.Column("id", sa.String(length=16), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("head", sa.Integer(), nullable=True),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("changed_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["head"], ["revisions.id"], ondelete="SET NULL", use_alter=True),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_table(
        "tracks",
        sa.Column("id", sa.String(length=16), nullable=False),
        sa.Column("content_hash", sa.String(length=64), nullable=False),
        sa.Column("file_name", sa.Text(), nullable=False),
        sa.Column("path", sa.Text(), nullable=False),
        sa.Column("title", sa.Text(), nullable=False),
        sa.Column("artist", sa.Text(), nullable=False),
        sa.Column("key_tag", sa.String(length=16), nullable=True),
        sa.Column("bpm_tag", sa.Double(), nullable=True),
        sa.Column("format", sa.String(length=16), nullable=False),
        sa.Column("coding", sa.Text(), nullable=False),
        sa.Column("rate", sa.Integer(), nullable=False),
        sa.Column("channels", sa.Integer(), nullable=False),
        sa.Column("duration_s", sa.Double(), nullable=False),
        sa.Column("bytes", sa.Integer(), nullable=False),
        sa.Column("added_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("hidden", sa.Boolean(), nullable=False),
        sa.Column("grid", sa.JSON(), nullable=True),
        sa.Column("bpm", sa.Double(), nullable=True),
        sa.Column("steady", sa.Boolean(), nullable=False),
        sa.Column("grid_by_hand", sa.Boolean(), nullable=False),
        sa.Column("clarity", sa.Double(), nullable=True),
        sa.Column("loudness_lufs", sa.Double(), nullable=True),
        sa.Column("true_peak_dbtp", sa.Double(), nullable=True),
        sa.Column("sound_start_s", sa.Double(), nullable=False),
        sa.Column("sound_end_s", sa.Double(), nullable=True),
        sa.Column("analysis_version", sa.Integer(), nullable=True),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("content_hash"),
    )
    with op.batch_alter_table("tracks", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_tracks_added_at"), ["added_at"], unique=False)

    op.create_table(
        "revisions",
        sa.Column("id", sa.Integer(), autoincrement=True, nullable=False),
        sa.Column("mix_id", sa.String(length=16), nullable=False),
        sa.Column("parent", sa.Integer(), nullable=True),
        sa.Column("label", sa.Text(), nullable=False),
        sa.Column("command", sa.JSON(), nullable=True),
        sa.Column("state", sa.LargeBinary(), nullable=False),
        sa.Column("track_ids", sa.Text(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["mix_id"], ["mixes.id"], ondelete="CASCADE"),
        sa.ForeignKeyConstraint(["parent"], ["revisions.id"], ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("id"),
    )
    with op.batch_alter_table("revisions", schema=None) as batch_op:
        batch_op.create_index("ix_revisions_mix_parent", ["mix_id", "parent"], unique=False)


def downgrade() -> None:
    with op.batch_alter_table("revisions", schema=None) as batch_op:
        batch_op.drop_index("ix_revisions_mix_parent")

    op.drop_table("revisions")
    with op.batch_alter_table("tracks", schema=None) as batch_op:
        batch_op.drop_index(batch_op.f("ix_tracks_added_at"))

    op.drop_table("tracks")
    op.drop_table("mixes")
    with op.batch_alter_table("jobs", schema=None) as batch_op:
        batch_op.drop_index(batch_op.f("ix_jobs_subject"))
        batch_op.drop_index(batch_op.f("ix_jobs_state"))
        batch_op.drop_index(batch_op.f("ix_jobs_kind"))

    op.drop_table("jobs")
