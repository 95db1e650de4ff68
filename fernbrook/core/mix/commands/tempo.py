"""Commands on the tempo of a mix beyond a single transition."""

from __future__ import annotations

from typing import Literal

from pydantic import Field
from typing_extensions import override

from fernbrook.core.mix.commands.command import Id, MixCommand, index_of, with_entry
from fernbrook.core.mix.entries import Bpm
from fernbrook.core.mix.model import Mix, Naming, TempoMark
from fernbrook.core.track import Tracks


class HoldTempo(MixCommand):
    """Play some entries, or all where ``entry_ids`` is None, at one tempo; without one, each at its own again."""

    kind: Literal["hold_tempo"] = "hold_tempo"
    entry_ids: tuple[Id, ...] | None = Field(default=None, max_length=500)
    bpm: Bpm | None

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        for entry_id in [e.id for e in mix.entries] if self.entry_ids is None else self.entry_ids:
            mix = with_entry(mix, entry_id, tempo=self.bpm)
        return mix

    @override
    def words(self, naming: Naming) -> str:
        whose = "the whole mix" if self.entry_ids is None else naming.entries(self.entry_ids)
        return f"play {whose} at {self.bpm:g} BPM" if self.bpm else f"give {whose} its own tempo"


class SetTempoMarks(MixCommand):
    """Set the tempo by hand at some beats; all marks that there were are replaced."""

    kind: Literal["set_tempo_marks"] = "set_tempo_marks"
    marks: tuple[TempoMark, ...] = Field(max_length=1000)

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        for mark in self.marks:
            index_of(mix, mark.entry_id)
        return mix.model_copy(update={"tempo_marks": self.marks})

    @override
    def words(self, naming: Naming) -> str:
        return "set the tempo by hand"
