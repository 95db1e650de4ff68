"""Saved hand-overs are called shapes, and the plate of a clear-by cue says ‘alone’"""

from __future__ import annotations

import json

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.rename_table("hand_overs", "shapes")
    _say("clear", "alone")


def downgrade() -> None:
    _say("alone", "clear")
    op.rename_table("shapes", "hand_overs")


def _say(before: str, now: str) -> None:
    """Rename what stands on plates: a role alone, or before a name."""
    connection = op.get_bind()
    rows = connection.execute(sa.text("SELECT id, cue_marks FROM tracks WHERE cue_marks IS NOT NULL")).all()
    for track, stored in rows:
        marks = json.loads(stored)
        said = [[at, now + plate[len(before) :] if _is(plate, before) else plate] for at, plate in marks or []]
        if said != marks:
            changed = {"id": track, "marks": json.dumps(said)}
            connection.execute(sa.text("UPDATE tracks SET cue_marks = :marks WHERE id = :id"), changed)


def _is(plate: str, role: str) -> bool:
    return plate == role or plate.startswith(f"{role} · ")
