"""Hand-overs that were saved under a name, and names for points in the history of a mix"""

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
    with op.batch_alter_table("revisions", schema=None) as batch_op:
        batch_op.add_column(sa.Column("name", sa.Text(), nullable=False, server_default=""))


def downgrade() -> None:
    with op.batch_alter_table("revisions", schema=None) as batch_op:
        batch_op.drop_column("name")
    op.drop_table("hand_overs")
