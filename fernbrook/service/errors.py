"""What the service refuses, in words for the user."""

from __future__ import annotations


class ServiceError(Exception):
    """A request that cannot be met; the message says what is wrong and what to do."""


class NotFoundError(ServiceError):
    """What was asked for is not there."""


class RefusedError(ServiceError):
    """It is there, but this cannot be done to it."""


class InUseError(ServiceError):
    """Something else still needs it."""


class StaleError(ServiceError):
    """The change was made to an older version than the present one; nothing was done."""

    def __init__(self, version: int) -> None:
        super().__init__(
            "The mix was changed elsewhere in the meantime (another tab?). It has been brought up to date; "
            "nothing of that other change is lost. Make your change again."
        )
        self.version = version
