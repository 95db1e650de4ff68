"""Every change to a mix is one of these commands: a pure function ``(mix, command, tracks) -> mix``.

What each does stands with what it is about: the mix as a whole, its order, an entry, a transition.
"""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from fernbrook.core.mix.changing import CommandError, Tracks, rule
from fernbrook.core.mix.edit_commands import (
    CopyEdits,
    EditEntries,
    EntryEdits,
    PlayAsRecorded,
    PutEdits,
    RemoveEdits,
)
from fernbrook.core.mix.entry_commands import SetCount, SetGain, SetHomeTempo, SetKeyLock, SetKeyShift
from fernbrook.core.mix.held_cue import with_held_cues
from fernbrook.core.mix.kept_places import SettlePlaces
from fernbrook.core.mix.layer_commands import PutLayers, RemoveLayers
from fernbrook.core.mix.mix import Mix
from fernbrook.core.mix.mix_commands import (
    MarkAsMeant,
    RenameMix,
    SetCrossovers,
    SetLimiting,
    SetLoudness,
    SetTarget,
    SetUntouched,
)
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
from fernbrook.core.mix.pairs import PairCommand, refused
from fernbrook.core.mix.put_pair import PutPair
from fernbrook.core.mix.shape_commands import (
    ApplyHandOver,
    LaneCurve,
    Move,
    Pair,
    RecordRide,
    SetBreath,
    SetCurve,
    SetCurves,
    SetEffects,
    SetVolumeLaw,
    ShapeTransitions,
)
from fernbrook.core.mix.take_commands import DescribeTake, DropTake, KeepTake, UseTake
from fernbrook.core.mix.tempo_commands import HoldTempo, SetTempoMarks
from fernbrook.core.mix.transition_commands import (
    PlaceTransition,
    ResetTransition,
    SetKind,
    SetNudge,
    SetTempoPolicy,
    UseProposal,
)

__all__ = [
    "AddTracks",
    "ApplyHandOver",
    "Command",
    "CommandError",
    "CopyEdits",
    "DescribeTake",
    "DropTake",
    "DuplicateEntries",
    "EditEntries",
    "EntryEdits",
    "FixEntry",
    "HoldTempo",
    "KeepTake",
    "KeepTogether",
    "LaneCurve",
    "MarkAsMeant",
    "Move",
    "MoveEntries",
    "Pair",
    "PairCommand",
    "PlaceTransition",
    "PlayAsRecorded",
    "PutEdits",
    "PutLayers",
    "PutPair",
    "RecordRide",
    "RemoveEdits",
    "RemoveEntries",
    "RemoveLayers",
    "RenameMix",
    "ReplaceTrack",
    "ResetTransition",
    "Seat",
    "SetBreath",
    "SetCount",
    "SetCrossovers",
    "SetCurve",
    "SetCurves",
    "SetEffects",
    "SetGain",
    "SetHomeTempo",
    "SetKeyLock",
    "SetKeyShift",
    "SetKind",
    "SetLimiting",
    "SetLoudness",
    "SetNudge",
    "SetTarget",
    "SetTempoMarks",
    "SetTempoPolicy",
    "SetUntouched",
    "SetVolumeLaw",
    "SettlePlaces",
    "ShapeTransitions",
    "SortBy",
    "SortEntries",
    "Tracks",
    "UseOrder",
    "UseProposal",
    "UseTake",
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
    | PutPair
    | SetGain
    | SetKeyLock
    | SetKeyShift
    | SetHomeTempo
    | SetCount
    | PutEdits
    | EditEntries
    | RemoveEdits
    | PlayAsRecorded
    | CopyEdits
    | PutLayers
    | RemoveLayers
    | PlaceTransition
    | SetTempoPolicy
    | SetCurve
    | ApplyHandOver
    | ResetTransition
    | SetCrossovers
    | MarkAsMeant
    | SetUntouched
    | SettlePlaces
    | RecordRide
    | SetBreath
    | SetCurves
    | SetEffects
    | SetVolumeLaw
    | ShapeTransitions
    | DescribeTake
    | DropTake
    | KeepTake
    | UseTake
    | HoldTempo
    | SetTempoMarks
    | SetKind
    | UseProposal
    | SetNudge,
    Field(discriminator="kind"),
]


def apply(mix: Mix, command: Command, tracks: Tracks) -> Mix:
    """The mix after a command.

    Raises
    ------
    CommandError
        When the command names what is not there, or asks for what cannot be. The mix is as it was.
    """
    with refused():
        changed = rule(command, mix, tracks)
        return mix if changed == mix else with_held_cues(mix, changed, tracks)
