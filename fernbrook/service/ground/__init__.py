"""What every use case stands on: news, ids, turns, undo, settings, tokens."""

from fernbrook.service.ground.events import Events
from fernbrook.service.ground.ids import new_id
from fernbrook.service.ground.settings import Settings
from fernbrook.service.ground.tokens import Tokens
from fernbrook.service.ground.turns import OvertakenError, Turns
from fernbrook.service.ground.undoing import Steps, Undoing, steps

__all__ = [
    "Events",
    "OvertakenError",
    "Settings",
    "Steps",
    "Tokens",
    "Turns",
    "Undoing",
    "new_id",
    "steps",
]
