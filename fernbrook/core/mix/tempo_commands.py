"""Commands on the tempo of a mix beyond a single transition."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from fernbrook.core.mix.changing import Id, Tracks, index_of, rule, with_entry
from fernbrook.core.mix.entry import Bpm
from fernbrook.core.mix.mix import Mix, TempoMark
from fernbrook.core.value import Command


class HoldTempo(Command):
    """Play some entries, or all where ``entry_ids`` is None, at one tempo; without one, each at its own again."""

    kind: Literal["hold_tempo"] = "hold_tempo"
    entry_ids: tuple[Id, ...] | None = Field(default=None, max_length=500)
    bpm: Bpm | None


class SetTempoMarks(Command):
    """Set the tempo by hand at some beats; all marks that there were are replaced."""

    kind: Literal["set_tempo_marks"] = "set_tempo_marks"
    marks: tuple[TempoMark, ...] = Field(max_length=1000)


@rule.register
def _(command: HoldTempo, mix: Mix, tracks: Tracks) -> Mix:
    for entry_id in [e.id for e in mix.entries] if command.entry_ids is None else command.entry_ids:
        mix = with_entry(mix, entry_id, tempo=command.bpm)
    return mix


@rule.register
def _(command: SetTempoMarks, mix: Mix, tracks: Tracks) -> Mix:
    for mark in command.marks:
        index_of(mix, mark.entry_id)
    return mix.model_copy(update={"tempo_marks": command.marks})
