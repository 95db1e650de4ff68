"""What a kept file was when it was last known to be right; no number that is none; voices are read from the markup"""

from __future__ import annotations

import json
import math
from typing import Any

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None

MOST_DB = 200.0
LEVELS = ("loudness_lufs", "true_peak_dbtp")


def upgrade() -> None:
    with op.batch_alter_table("tracks", schema=None) as batch_op:
        batch_op.add_column(sa.Column("kept_bytes", sa.Integer(), nullable=True))
        batch_op.add_column(sa.Column("kept_mtime_ns", sa.BigInteger(), nullable=True))
        batch_op.add_column(sa.Column("kept_hash", sa.String(length=64), nullable=True))
        batch_op.drop_column("voice")
    connection = op.get_bind()
    for column in LEVELS:
        connection.execute(sa.text(f"UPDATE tracks SET {column} = NULL WHERE abs({column}) > {MOST_DB}"))
    for table, column in (("tracks", "findings"), ("jobs", "result"), ("jobs", "order")):
        _mend(connection, table, column)


def _mend(connection: sa.Connection, table: str, column: str) -> None:
    """Put nothing in place of each number that is none in a column of JSON."""
    rows = connection.execute(
        sa.text(f'SELECT id, "{column}" FROM {table} WHERE "{column}" LIKE \'%Infinity%\' OR "{column}" LIKE \'%NaN%\'')
    )
    for key, stored in rows.all():
        mended = json.dumps(_finite(json.loads(stored)))
        connection.execute(
            sa.text(f'UPDATE {table} SET "{column}" = :mended WHERE id = :id'), {"mended": mended, "id": key}
        )


def _finite(value: Any) -> Any:
    if isinstance(value, float):
        return value if math.isfinite(value) and abs(value) < 1e15 else None
    if isinstance(value, dict):
        return {k: _finite(v) for k, v in value.items()}
    if isinstance(value, list):  # a list of numbers has no gaps: nothing is heard there
        return [0.0 if (mended := _finite(v)) is None else mended for v in value]
    return value


def downgrade() -> None:
    with op.batch_alter_table("tracks", schema=None) as batch_op:
        batch_op.add_column(sa.Column("voice", sa.JSON(), nullable=True))
        for column in ("kept_bytes", "kept_mtime_ns", "kept_hash"):
            batch_op.drop_column(column)
