"""Opening the database: SQLite with a write-ahead log and foreign keys, brought to the present schema."""

from __future__ import annotations

import os
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from threading import Lock

from alembic import command
from alembic.config import Config
from alembic.util import CommandError
from sqlalchemy import URL, Engine, create_engine, event
from sqlalchemy.engine.interfaces import DBAPIConnection
from sqlalchemy.exc import DatabaseError
from sqlalchemy.orm import Session, sessionmaker
from sqlalchemy.pool import ConnectionPoolEntry

from fernbrook.disk import writing
from fernbrook.errors import FernbrookError
from fernbrook.store.stamps import Stamps

MIGRATIONS = Path(__file__).parent / "migrations"
PRIVATE = 0o600


class UnreadableError(FernbrookError):
    """A database that cannot be opened; it is as it was."""

    def __init__(self, path: Path, error: Exception) -> None:
        if isinstance(error, CommandError):
            words = "was written by a newer Fernbrook. Use that one, or a copy of the folder from before."
        elif "readonly" in str(error) or "unable to open" in str(error):
            words = "cannot be written to. Give yourself the right to, or choose another folder with --data."
        else:
            words = "is damaged. Bring back a backup of it: fernbrook restore FILE --data FOLDER."
        super().__init__(f"The library in {path.parent} {words}")


class Database:
    """Sessions for reading and for writing. Writers take turns: what one has read stays true until it writes."""

    def __init__(self, path: Path) -> None:
        """Open a database, or begin one.

        Raises
        ------
        UnreadableError
            When it is damaged, of a newer version, or cannot be written to.
        """
        path.parent.mkdir(parents=True, exist_ok=True)
        self._path = path
        _make_private(path)
        self._engine = create_engine(URL.create("sqlite", database=str(path)), connect_args={"timeout": 20})
        event.listen(self._engine, "connect", _configure)
        try:
            with writing("the library was not opened", path):
                migrate(self._engine)
        except (DatabaseError, CommandError) as error:
            self._engine.dispose()
            raise UnreadableError(path, error) from error
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


def _make_private(path: Path) -> None:
    """See that a database, and with it its log, is for this user's eyes only."""
    with suppress(OSError):  # a disk without permissions, or one that is full: opening it tells
        os.close(os.open(path, os.O_RDWR | os.O_CREAT, PRIVATE))
        path.chmod(PRIVATE)


def migrate(engine: Engine) -> None:
    """Bring the schema up to date: all of it, or nothing.

    SQLite changes a table by making it again and dropping the old one. With foreign keys in force that would delete
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
