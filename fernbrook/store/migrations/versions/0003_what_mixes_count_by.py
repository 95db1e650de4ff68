"""What mixes count by: each state of a mix remembers the revision of each track's grid that its beats are of; voices"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    with op.batch_alter_table("revisions", schema=None) as batch_op:
        batch_op.add_column(sa.Column("counted_by", sa.JSON(), nullable=True))
    with op.batch_alter_table("tracks", schema=None) as batch_op:
        batch_op.add_column(sa.Column("voice", sa.JSON(), nullable=True))


def downgrade() -> None:
    with op.batch_alter_table("revisions", schema=None) as batch_op:
        batch_op.drop_column("counted_by")
    with op.batch_alter_table("tracks", schema=None) as batch_op:
        batch_op.drop_column("voice")
