"""Settings of the application that belong to a data folder and not to a page."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

from fernbrook.analysis.separation.model import SeparationModel
from fernbrook.analysis.voice.weights import are_installed
from fernbrook.core.plan import RATE
from fernbrook.core.track import Stem
from fernbrook.errors import RefusedError
from fernbrook.store.database import Database
from fernbrook.store.tables import SettingRow

SEPARATION_MODEL = "separation_model"


@dataclass(frozen=True)
class ModelSetting:
    """The model by which tracks are taken apart: where it lies, what it gives, and what is wrong with it."""

    path: str
    stems: tuple[Stem, ...]
    problem: str


class Settings:
    """What is set, and setting it."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def get(self, name: str) -> str | None:
        """A setting by its name; None where it was never set."""
        with self._database.read() as session:
            row = session.get(SettingRow, name)
            return str(row.value) if row else None

    def put(self, name: str, value: str | None) -> None:
        """Set it, or forget it."""
        with self._database.write() as session:
            row = session.get(SettingRow, name)
            if value is None:
                if row is not None:
                    session.delete(row)
            elif row is None:
                session.add(SettingRow(name=name, value=value))
            else:
                row.value = value

    @property
    def hears_voices(self) -> bool:
        """Whether the trained network is installed that hears voices."""
        return are_installed()

    def model_path(self) -> str | None:
        """Where the model lies that is to be used; None where tracks are taken apart by the program itself."""
        return self.get(SEPARATION_MODEL)

    def model(self) -> ModelSetting | None:
        """The model that is to be used, looked at; None where there is none."""
        path = self.model_path()
        if path is None:
            return None
        try:
            return ModelSetting(path, _stems_of(path, _stamp(path)), "")
        except RefusedError as error:
            return ModelSetting(path, (), str(error))

    def use_model(self, path: str | None) -> None:
        """Take tracks apart by a model from now on, or by the program itself.

        Raises
        ------
        ModelError
            When the file is no model that keeps to the contract. The setting is as it was.
        """
        if path is not None:
            SeparationModel(Path(path).expanduser(), RATE)
        self.put(SEPARATION_MODEL, None if path is None else str(Path(path).expanduser()))


def _stamp(path: str) -> tuple[int, int] | None:
    """Size and time of a file; None where it is not there."""
    try:
        found = Path(path).stat()
    except (OSError, ValueError):
        return None
    return found.st_size, found.st_mtime_ns


@lru_cache(maxsize=4)
def _stems_of(path: str, _stamp: tuple[int, int] | None) -> tuple[Stem, ...]:
    """What a model gives; looked at once for each state of its file, for a large one takes seconds to load."""
    return SeparationModel(Path(path), RATE).stems
