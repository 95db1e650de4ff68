"""Commands on one entry."""

from __future__ import annotations

from typing import Literal

from fernbrook.core.mix.changing import Id, Tracks, index_of, rule, with_entry
from fernbrook.core.mix.entry import Bpm, Count, GainDb, KeyShift
from fernbrook.core.mix.mix import Mix
from fernbrook.core.value import Command


class SetGain(Command):
    """Set an entry's gain; None brings it to the target loudness."""

    kind: Literal["set_gain"] = "set_gain"
    entry_id: Id
    gain_db: GainDb | None


class SetKeyLock(Command):
    """Keep an entry's pitch when its tempo changes, or let it follow."""

    kind: Literal["set_key_lock"] = "set_key_lock"
    entry_id: Id
    key_lock: bool


class SetKeyShift(Command):
    """Move an entry's pitch by semitones."""

    kind: Literal["set_key_shift"] = "set_key_shift"
    entry_id: Id
    semitones: KeyShift


class SetHomeTempo(Command):
    """Set the tempo at which an entry plays between its transitions; None is its own."""

    kind: Literal["set_home_tempo"] = "set_home_tempo"
    entry_id: Id
    bpm: Bpm | None


class SetCount(Command):
    """Set how many beats of the mix one beat of the entry's grid is."""

    kind: Literal["set_count"] = "set_count"
    entry_id: Id
    count: Count


@rule.register
def _(command: SetGain, mix: Mix, tracks: Tracks) -> Mix:
    return with_entry(mix, command.entry_id, gain_db=command.gain_db)


@rule.register
def _(command: SetKeyLock, mix: Mix, tracks: Tracks) -> Mix:
    return with_entry(mix, command.entry_id, key_lock=command.key_lock)


@rule.register
def _(command: SetKeyShift, mix: Mix, tracks: Tracks) -> Mix:
    return with_entry(mix, command.entry_id, key_shift=command.semitones)


@rule.register
def _(command: SetHomeTempo, mix: Mix, tracks: Tracks) -> Mix:
    return with_entry(mix, command.entry_id, tempo=command.bpm)


@rule.register
def _(command: SetCount, mix: Mix, tracks: Tracks) -> Mix:
    return counted(mix, command.entry_id, command.count)


def counted(mix: Mix, entry_id: str, count: Count) -> Mix:
    """The mix with an entry counted otherwise: what was placed on its beats moves along."""
    factor = count / mix.entries[index_of(mix, entry_id)].count
    changed = with_entry(mix, entry_id, count=count)
    moved = []
    for t in mix.transitions:
        update = {}
        if t.out_id == entry_id:
            update["out_at"] = t.out_at * factor
        if t.in_id == entry_id:
            update["in_at"] = t.in_at * factor
        moved.append(t.model_copy(update=update) if update else t)
    return changed.model_copy(update={"transitions": tuple(moved)})
