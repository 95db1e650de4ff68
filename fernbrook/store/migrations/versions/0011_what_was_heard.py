"""What was heard of mixes, kept with them: transitions that nobody shaped stay where they were over an upgrade"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def upgrade() -> None:
    with op.batch_alter_table("mixes", schema=None) as batch_op:
        batch_op.add_column(sa.Column("heard", sa.LargeBinary(), nullable=True))
        batch_op.add_column(sa.Column("heard_by", sa.JSON(), nullable=True))
        batch_op.add_column(sa.Column("heard_rules", sa.Integer(), nullable=True))


def downgrade() -> None:
    with op.batch_alter_table("mixes", schema=None) as batch_op:
        batch_op.drop_column("heard_rules")
        batch_op.drop_column("heard_by")
        batch_op.drop_column("heard")
