"""States as they are stored: JSON with a version, brought to the present one by a chain of small upgrades.

When a stored model changes its shape: raise its ``version`` by one, add the function that turns the JSON of the version
before into the new one to ``upgrades.py``, and an example of the new version to ``tests/store/examples``. Examples of
all versions are read in the tests; none is ever deleted.
"""

from __future__ import annotations

import json
import zlib
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Generic, TypeVar

from pydantic import BaseModel, ValidationError

from fernbrook.core.value import what_is_wrong
from fernbrook.errors import FernbrookError, RefusedError

Json = dict[str, Any]
Upgrade = Callable[[Json], Json]
M = TypeVar("M", bound=BaseModel)


class OutOfBoundsError(RefusedError):
    """A value that was changed to one that none may have, and would not be read again."""


class NewerStateError(FernbrookError):
    """The state was written by a newer Fernbrook."""


@dataclass(frozen=True)
class Stored(Generic[M]):
    """How one kind of model is stored.

    ``upgrades[n]`` turns the JSON of version n into that of version n + 1; the present version is one more than the
    last of them. What carries no version is of version 1.
    """

    model: type[M]
    upgrades: dict[int, Upgrade]

    @property
    def version(self) -> int:
        """The version that is written."""
        return max(self.upgrades, default=0) + 1

    def to_json(self, value: M) -> Json:
        """A value with its version.

        Raises
        ------
        OutOfBoundsError
            When it could not be read again.
        """
        state = value.model_dump(mode="json")
        try:
            self.model.model_validate_json(json.dumps(state))
        except ValidationError as error:
            raise OutOfBoundsError(
                f"That lies further out than can be counted: {what_is_wrong(error)}. Nothing was changed."
            ) from error
        return {"version": self.version, "state": state}

    def from_json(self, stored: Json) -> M:
        """A value of any version that there has been.

        Raises
        ------
        NewerStateError
            When it is of a version that is not known yet.
        """
        version, state = (stored["version"], stored["state"]) if "version" in stored else (1, stored)
        if version > self.version:
            raise NewerStateError(
                f"This data folder was written by a newer Fernbrook (state {version}, this one reads up to "
                f"{self.version}). Use that one, or a copy of the folder from before."
            )
        for older in range(version, self.version):
            state = self.upgrades[older](state)
        return self.model.model_validate_json(json.dumps(state))

    def to_bytes(self, value: M) -> bytes:
        """A value with its version, deflated."""
        return zlib.compress(json.dumps(self.to_json(value), separators=(",", ":")).encode())

    def from_bytes(self, stored: bytes) -> M:
        """The inverse of ``to_bytes``; raises as ``from_json`` does."""
        return self.from_json(json.loads(zlib.decompress(stored)))
