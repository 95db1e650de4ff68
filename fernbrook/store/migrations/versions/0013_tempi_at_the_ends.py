"""A track that means its change of tempo has the tempi at which it comes and goes"""

from __future__ import annotations

import json

import sqlalchemy as sa
from alembic import op
from pydantic import ValidationError

from fernbrook.core.track import Grid

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None

COLUMNS = ("comes_bpm", "leaves_bpm")


def upgrade() -> None:
    with op.batch_alter_table("tracks") as tracks:
        for name in COLUMNS:
            tracks.add_column(sa.Column(name, sa.Float(), nullable=True))
    connection = op.get_bind()
    moving = "SELECT id, grid, sound_start_s, sound_end_s, duration_s FROM tracks WHERE grid IS NOT NULL AND NOT steady"
    for track, stored, start_s, end_s, duration_s in connection.execute(sa.text(moving)).all():
        try:
            grid = Grid.model_validate(json.loads(stored))
        except (ValidationError, ValueError, TypeError):
            continue
        comes, leaves = grid.tempi_at_ends(start_s, end_s or duration_s)
        if comes is not None:
            said = {"id": track, "comes": comes, "leaves": leaves}
            connection.execute(
                sa.text("UPDATE tracks SET comes_bpm = :comes, leaves_bpm = :leaves WHERE id = :id"), said
            )


def downgrade() -> None:
    with op.batch_alter_table("tracks") as tracks:
        for name in COLUMNS:
            tracks.drop_column(name)
