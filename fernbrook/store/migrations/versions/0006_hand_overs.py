"""Hand-overs that were saved under a name"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "hand_overs",
        sa.Column("id", sa.String(length=16), primary_key=True),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("state", sa.LargeBinary(), nullable=False),
        sa.Column("created_at", sa.DateTime(), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("hand_overs")
