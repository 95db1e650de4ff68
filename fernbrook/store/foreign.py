"""A database that comes from elsewhere: it is looked at before anything of it is used, and does nothing by itself."""

from __future__ import annotations

import sqlite3
from pathlib import Path

from alembic.util import CommandError
from sqlalchemy import JSON, URL, Engine, create_engine, inspect, text
from sqlalchemy.exc import DatabaseError

from fernbrook.errors import FernbrookError
from fernbrook.store.database import migrate
from fernbrook.store.jobs import OPEN, JobState
from fernbrook.store.tables import Base

STOPPED = "It was under way when the library was backed up."
ALSO = {"alembic_version", "sqlite_sequence"}
"""Tables that a library has beside its own."""


class ForeignError(FernbrookError):
    """A database that is no library, or not a whole one."""


def examine(path: Path) -> None:
    """See that a database is a whole library, bring it to the present version, and stop the work that waits in it.

    Raises
    ------
    ForeignError
        When it is damaged, of a newer version, has other tables or columns, refers to what is not there, or would do
        something by itself (triggers).
    """
    try:
        _check_whole(path)
        engine = create_engine(URL.create("sqlite", database=str(path)))
        try:
            migrate(engine)
            found = inspect(engine)
            for table in Base.metadata.sorted_tables:
                names = {c["name"] for c in found.get_columns(table.name)} if found.has_table(table.name) else set()
                if lost := {c.name for c in table.columns} - names:
                    raise ForeignError(f"its table ‘{table.name}’ has no ‘{sorted(lost)[0]}’")
                for column in (c.name for c in table.columns if isinstance(c.type, JSON)):
                    _check_json(engine, table.name, column)
        finally:
            engine.dispose()
        _stop_jobs(path)
    except CommandError as error:
        raise ForeignError("its database was written by a newer Fernbrook") from error
    except (sqlite3.DatabaseError, DatabaseError) as error:
        raise ForeignError("its database is damaged") from error
    finally:
        for beside in ("-wal", "-shm", "-journal"):
            path.with_name(path.name + beside).unlink(missing_ok=True)


def _check_json(engine: Engine, table: str, column: str) -> None:
    """See that a column can be read: one that cannot would take every list down that it is part of."""
    with engine.connect() as connection:
        found = connection.execute(
            text(f'SELECT 1 FROM "{table}" WHERE "{column}" IS NOT NULL AND NOT json_valid("{column}") LIMIT 1')
        )
        if found.first() is not None:
            raise ForeignError(f"its table ‘{table}’ cannot be read")


def _check_whole(path: Path) -> None:
    connection = sqlite3.connect(path)
    try:
        connection.execute("PRAGMA trusted_schema=OFF")
        connection.execute("PRAGMA journal_mode=DELETE")
        strange = connection.execute(
            "SELECT type, name FROM sqlite_master WHERE type NOT IN ('table', 'index') ORDER BY name"
        ).fetchone()
        if strange:
            raise ForeignError(f"its database has a {strange[0]}, ‘{str(strange[1])[:80]}’, which no library has")
        known = {t.name for t in Base.metadata.sorted_tables} | ALSO
        tables = {str(name) for (name,) in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
        if others := {t for t in tables - known if not t.startswith("sqlite_stat")}:
            raise ForeignError(f"its database has a table ‘{sorted(others)[0][:80]}’, which no library has")
        if "alembic_version" not in tables:
            raise ForeignError("its database is no library")
        if connection.execute("PRAGMA integrity_check(1)").fetchone() != ("ok",):
            raise ForeignError("its database is damaged")
        if connection.execute("PRAGMA foreign_key_check").fetchone() is not None:
            raise ForeignError("its database refers to what is not in it")
    finally:
        connection.close()


def _stop_jobs(path: Path) -> None:
    """Work that waited or ran elsewhere does not begin here unasked: its orders may be anybody's."""
    connection = sqlite3.connect(path)
    try:
        places = ", ".join("?" for _ in OPEN)
        with connection:
            connection.execute(
                f"UPDATE jobs SET state = ?, error = ? WHERE state IN ({places})",
                (JobState.INTERRUPTED.value, STOPPED, *(s.value for s in OPEN)),
            )
    finally:
        connection.close()
