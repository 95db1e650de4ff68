"""Saved hand-overs are called shapes"""

from __future__ import annotations

from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.rename_table("hand_overs", "shapes")


def downgrade() -> None:
    op.rename_table("shapes", "hand_overs")
