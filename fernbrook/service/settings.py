"""Settings of the application that belong to a data folder and not to a page."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from fernbrook.analysis.separation.model import SeparationModel
from fernbrook.core.plan.rate import RATE
from fernbrook.core.track.stems import Stem
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

    def model_path(self) -> str | None:
        """Where the model lies that is to be used; None where tracks are taken apart by the program itself."""
        with self._database.read() as session:
            row = session.get(SettingRow, SEPARATION_MODEL)
            return str(row.value) if row else None

    def model(self) -> ModelSetting | None:
        """The model that is to be used, looked at; None where there is none."""
        path = self.model_path()
        if path is None:
            return None
        try:
            return ModelSetting(path, SeparationModel(Path(path), RATE).stems, "")
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
        with self._database.write() as session:
            row = session.get(SettingRow, SEPARATION_MODEL)
            if path is None:
                if row is not None:
                    session.delete(row)
            elif row is None:
                session.add(SettingRow(name=SEPARATION_MODEL, value=str(Path(path).expanduser())))
            else:
                row.value = str(Path(path).expanduser())
