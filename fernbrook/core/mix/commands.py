"""Every change to a mix is one of these commands: a pure function ``(mix, command, tracks) -> mix``.

What each does stands with what it is about: the mix as a whole, its order, an entry, a transition.
"""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from fernbrook.core.mix.changing import CommandError, Tracks, rule
from fernbrook.core.mix.entry_commands import SetCount, SetGain, SetHomeTempo, SetKeyLock, SetKeyShift
from fernbrook.core.mix.mix import Mix
from fernbrook.core.mix.mix_commands import RenameMix, SetLimiting, SetLoudness, SetTarget
from fernbrook.core.mix.order_commands import (
    AddTracks,
    DuplicateEntries,
    FixEntry,
    KeepTogether,
    MoveEntries,
    RemoveEntries,
    ReplaceTrack,
    Seat,
    SortBy,
    SortEntries,
    UseOrder,
)
from fernbrook.core.mix.transition_commands import (
    ApplyHandOver,
    PairCommand,
    PlaceTransition,
    ResetTransition,
    SetCurve,
    SetTempoPolicy,
)

__all__ = [
    "AddTracks",
    "ApplyHandOver",
    "Command",
    "CommandError",
    "DuplicateEntries",
    "FixEntry",
    "KeepTogether",
    "MoveEntries",
    "PairCommand",
    "PlaceTransition",
    "RemoveEntries",
    "RenameMix",
    "ReplaceTrack",
    "ResetTransition",
    "Seat",
    "SetCount",
    "SetCurve",
    "SetGain",
    "SetHomeTempo",
    "SetKeyLock",
    "SetKeyShift",
    "SetLimiting",
    "SetLoudness",
    "SetTarget",
    "SetTempoPolicy",
    "SortBy",
    "SortEntries",
    "Tracks",
    "UseOrder",
    "apply",
]

Command = Annotated[
    RenameMix
    | SetTarget
    | SetLoudness
    | SetLimiting
    | AddTracks
    | RemoveEntries
    | MoveEntries
    | DuplicateEntries
    | ReplaceTrack
    | KeepTogether
    | FixEntry
    | SortEntries
    | UseOrder
    | SetGain
    | SetKeyLock
    | SetKeyShift
    | SetHomeTempo
    | SetCount
    | PlaceTransition
    | SetTempoPolicy
    | SetCurve
    | ApplyHandOver
    | ResetTransition,
    Field(discriminator="kind"),
]


def apply(mix: Mix, command: Command, tracks: Tracks) -> Mix:
    """The mix after a command.

    Raises
    ------
    CommandError
        When the command names what is not there, or asks for what cannot be. The mix is as it was.
    """
    return rule(command, mix, tracks)
