"""Opening the database: SQLite with a write-ahead log and foreign keys, brought to the present schema."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from threading import Lock

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine, event
from sqlalchemy.engine.interfaces import DBAPIConnection
from sqlalchemy.orm import Session, sessionmaker
from sqlalchemy.pool import ConnectionPoolEntry

from fernbrook.disk import writing
from fernbrook.store.stamps import Stamps

MIGRATIONS = Path(__file__).parent / "migrations"


class Database:
    """Sessions for reading and for writing. Writers take turns: what one has read stays true until it writes."""

    def __init__(self, path: Path) -> None:
        path.parent.mkdir(parents=True, exist_ok=True)
        self._path = path
        self._engine = create_engine(f"sqlite:///{path}", connect_args={"timeout": 20})
        event.listen(self._engine, "connect", _configure)
        migrate(self._engine)
        self._sessions = sessionmaker(self._engine, expire_on_commit=False)
        self._stamps = Stamps(self._engine, self._sessions)
        self._writing = Lock()

    @contextmanager
    def read(self) -> Iterator[Session]:
        """A session to look things up with."""
        with self._sessions() as session:
            yield session

    @contextmanager
    def write(self) -> Iterator[Session]:
        """A session whose changes are kept when the block ends well, and none of them when it does not.

        Raises
        ------
        DiskFullError
            When there is no room for them.
        """
        with self._writing, writing("the change was not kept", self._path), self._sessions.begin() as session:
            yield session

    def close(self) -> None:
        """Let go of the file."""
        self._engine.dispose()


def migrate(engine: Engine) -> None:
    """Bring the schema up to date: all of it, or nothing.

    SQLite changes a table by making it anew and dropping the old one. With foreign keys in force that would delete
    whatever refers to its rows, the history of all tracks for one.
    """
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    with engine.connect() as connection:
        connection.exec_driver_sql("PRAGMA foreign_keys=OFF")
        connection.exec_driver_sql("BEGIN IMMEDIATE")
        config.attributes["connection"] = connection
        command.upgrade(config, "head")
        connection.commit()
        connection.exec_driver_sql("PRAGMA foreign_keys=ON")


def _configure(connection: DBAPIConnection, _: ConnectionPoolEntry) -> None:
    cursor = connection.cursor()
    cursor.execute("PRAGMA journal_mode=WAL")
    cursor.execute("PRAGMA foreign_keys=ON")
    cursor.execute("PRAGMA synchronous=NORMAL")
    cursor.close()
