"""Everything that can be refused or go wrong in words for the user. All layers raise from here; the API and the command
line translate once."""

from __future__ import annotations


class FernbrookError(Exception):
    """Something that the user is told; the message says what is wrong, with what, and what to do."""


class NotFoundError(FernbrookError):
    """What was asked for is not there."""


class RefusedError(FernbrookError):
    """It is there, but this cannot be done to it."""


class InUseError(FernbrookError):
    """Something else still needs it."""


class StaleError(FernbrookError):
    """The change was made to an older version than the present one; nothing was done."""

    def __init__(self, version: int) -> None:
        super().__init__(
            "It was changed elsewhere in the meantime (another tab?). It has been brought up to date; "
            "nothing of that other change is lost. Make your change again."
        )
        self.version = version


class AudioFileError(FernbrookError):
    """An audio file that cannot be used."""


class DiskFullError(FernbrookError):
    """There is no room for what was to be written; what was there before is untouched."""
