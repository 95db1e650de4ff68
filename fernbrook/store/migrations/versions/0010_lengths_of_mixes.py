"""How long mixes are, kept with them: a list of many need not plan each"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def upgrade() -> None:
    with op.batch_alter_table("mixes", schema=None) as batch_op:
        batch_op.add_column(sa.Column("entries", sa.Integer(), nullable=True))
        batch_op.add_column(sa.Column("duration_s", sa.Float(), nullable=True))
        batch_op.add_column(sa.Column("planned_of", sa.String(length=32), nullable=True))


def downgrade() -> None:
    with op.batch_alter_table("mixes", schema=None) as batch_op:
        batch_op.drop_column("planned_of")
        batch_op.drop_column("duration_s")
        batch_op.drop_column("entries")
