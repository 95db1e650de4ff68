"""Every change to a mix is one of these commands: a pure function ``(mix, command, tracks) -> mix``.

What each does, and what it is called, stands with what it is about: the mix as a whole, its order, an entry, a
transition.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated

from pydantic import Field

from fernbrook.core.mix.changing import (
    CommandError as CommandError,
)
from fernbrook.core.mix.changing import (
    MixCommand,
)
from fernbrook.core.mix.changing import (
    Tracks as Tracks,
)
from fernbrook.core.mix.edit_commands import (
    CopyEdits as CopyEdits,
)
from fernbrook.core.mix.edit_commands import (
    EditEntries as EditEntries,
)
from fernbrook.core.mix.edit_commands import (
    EntryEdits as EntryEdits,
)
from fernbrook.core.mix.edit_commands import (
    PlayAsRecorded as PlayAsRecorded,
)
from fernbrook.core.mix.edit_commands import (
    PutEdits as PutEdits,
)
from fernbrook.core.mix.edit_commands import (
    RemoveEdits as RemoveEdits,
)
from fernbrook.core.mix.entry_commands import (
    SetCount as SetCount,
)
from fernbrook.core.mix.entry_commands import (
    SetGain as SetGain,
)
from fernbrook.core.mix.entry_commands import (
    SetHomeTempo as SetHomeTempo,
)
from fernbrook.core.mix.entry_commands import (
    SetKeyLock as SetKeyLock,
)
from fernbrook.core.mix.entry_commands import (
    SetKeyShift as SetKeyShift,
)
from fernbrook.core.mix.held_cue import with_held_cues
from fernbrook.core.mix.kept_places import (
    SettlePlaces as SettlePlaces,
)
from fernbrook.core.mix.layer_commands import (
    PutLayers as PutLayers,
)
from fernbrook.core.mix.layer_commands import (
    RemoveLayers as RemoveLayers,
)
from fernbrook.core.mix.mix import Mix
from fernbrook.core.mix.mix_commands import (
    MarkAsMeant as MarkAsMeant,
)
from fernbrook.core.mix.mix_commands import (
    RenameMix as RenameMix,
)
from fernbrook.core.mix.mix_commands import (
    SetCrossovers as SetCrossovers,
)
from fernbrook.core.mix.mix_commands import (
    SetLimiting as SetLimiting,
)
from fernbrook.core.mix.mix_commands import (
    SetLoudness as SetLoudness,
)
from fernbrook.core.mix.mix_commands import (
    SetTarget as SetTarget,
)
from fernbrook.core.mix.mix_commands import (
    SetUntouched as SetUntouched,
)
from fernbrook.core.mix.order_commands import (
    AddTracks as AddTracks,
)
from fernbrook.core.mix.order_commands import (
    DuplicateEntries as DuplicateEntries,
)
from fernbrook.core.mix.order_commands import (
    FixEntry as FixEntry,
)
from fernbrook.core.mix.order_commands import (
    KeepTogether as KeepTogether,
)
from fernbrook.core.mix.order_commands import (
    MoveEntries as MoveEntries,
)
from fernbrook.core.mix.order_commands import (
    RemoveEntries as RemoveEntries,
)
from fernbrook.core.mix.order_commands import (
    ReplaceTrack as ReplaceTrack,
)
from fernbrook.core.mix.order_commands import (
    Seat as Seat,
)
from fernbrook.core.mix.order_commands import (
    SortBy as SortBy,
)
from fernbrook.core.mix.order_commands import (
    SortEntries as SortEntries,
)
from fernbrook.core.mix.order_commands import (
    UseOrder as UseOrder,
)
from fernbrook.core.mix.pairs import (
    PairCommand as PairCommand,
)
from fernbrook.core.mix.pairs import (
    refused,
)
from fernbrook.core.mix.put_pair import (
    PutPair as PutPair,
)
from fernbrook.core.mix.shape_commands import (
    ApplyHandOver as ApplyHandOver,
)
from fernbrook.core.mix.shape_commands import (
    LaneCurve as LaneCurve,
)
from fernbrook.core.mix.shape_commands import (
    Move as Move,
)
from fernbrook.core.mix.shape_commands import (
    Pair as Pair,
)
from fernbrook.core.mix.shape_commands import (
    RecordRide as RecordRide,
)
from fernbrook.core.mix.shape_commands import (
    SetBreath as SetBreath,
)
from fernbrook.core.mix.shape_commands import (
    SetCurve as SetCurve,
)
from fernbrook.core.mix.shape_commands import (
    SetCurves as SetCurves,
)
from fernbrook.core.mix.shape_commands import (
    SetEffects as SetEffects,
)
from fernbrook.core.mix.shape_commands import (
    SetVolumeLaw as SetVolumeLaw,
)
from fernbrook.core.mix.shape_commands import (
    ShapeTransitions as ShapeTransitions,
)
from fernbrook.core.mix.take_commands import (
    DescribeTake as DescribeTake,
)
from fernbrook.core.mix.take_commands import (
    DropTake as DropTake,
)
from fernbrook.core.mix.take_commands import (
    KeepTake as KeepTake,
)
from fernbrook.core.mix.take_commands import (
    UseTake as UseTake,
)
from fernbrook.core.mix.tempo_commands import (
    HoldTempo as HoldTempo,
)
from fernbrook.core.mix.tempo_commands import (
    SetTempoMarks as SetTempoMarks,
)
from fernbrook.core.mix.transition_commands import (
    PlaceTransition as PlaceTransition,
)
from fernbrook.core.mix.transition_commands import (
    ResetTransition as ResetTransition,
)
from fernbrook.core.mix.transition_commands import (
    SetKind as SetKind,
)
from fernbrook.core.mix.transition_commands import (
    SetNudge as SetNudge,
)
from fernbrook.core.mix.transition_commands import (
    SetTempoPolicy as SetTempoPolicy,
)
from fernbrook.core.mix.transition_commands import (
    UseProposal as UseProposal,
)
from fernbrook.core.value import one_of_all

if TYPE_CHECKING:
    AnyMixCommand = MixCommand
else:
    AnyMixCommand = Annotated[one_of_all(MixCommand), Field(discriminator="kind")]


def apply(mix: Mix, command: AnyMixCommand, tracks: Tracks) -> Mix:
    """The mix after a command.

    Raises
    ------
    CommandError
        When the command names what is not there, or asks for what cannot be. The mix is as it was.
    """
    with refused():
        changed = command.rule(mix, tracks)
        return mix if changed == mix else with_held_cues(mix, changed, tracks)
