"""Commands on one entry."""

from __future__ import annotations

from typing import Literal

from typing_extensions import override

from fernbrook.core.mix.commands.command import Id, MixCommand, index_of, with_entry
from fernbrook.core.mix.entries import Bpm, Count, Follows, GainDb, KeyShift
from fernbrook.core.mix.model import Mix, Naming
from fernbrook.core.track import Tracks


class SetGain(MixCommand):
    """Set an entry's gain; None brings it to the target loudness."""

    kind: Literal["set_gain"] = "set_gain"
    entry_id: Id
    gain_db: GainDb | None

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        return with_entry(mix, self.entry_id, gain_db=self.gain_db)

    @override
    def words(self, naming: Naming) -> str:
        return f"set the gain of {naming.entry(self.entry_id)}"


class SetKeyLock(MixCommand):
    """Keep an entry's pitch when its tempo changes, or let it follow."""

    kind: Literal["set_key_lock"] = "set_key_lock"
    entry_id: Id
    key_lock: bool

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        return with_entry(mix, self.entry_id, key_lock=self.key_lock)

    @override
    def words(self, naming: Naming) -> str:
        return f"switch key lock {'on' if self.key_lock else 'off'} for {naming.entry(self.entry_id)}"


class SetKeyShift(MixCommand):
    """Move an entry's pitch by semitones."""

    kind: Literal["set_key_shift"] = "set_key_shift"
    entry_id: Id
    semitones: KeyShift

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        return with_entry(mix, self.entry_id, key_shift=self.semitones)

    @override
    def words(self, naming: Naming) -> str:
        shift = f"{self.semitones:+d}".replace("-", "−") if self.semitones else "back"
        return f"shift the key of {naming.entry(self.entry_id)} {shift}"


class SetHomeTempo(MixCommand):
    """Set the tempo at which an entry plays between its transitions; None is its own."""

    kind: Literal["set_home_tempo"] = "set_home_tempo"
    entry_id: Id
    bpm: Bpm | None

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        return with_entry(mix, self.entry_id, tempo=self.bpm)

    @override
    def words(self, naming: Naming) -> str:
        return f"set the tempo of {naming.entry(self.entry_id)}"


class SetFollows(MixCommand):
    """Set what the tempo of an entry goes by between its transitions; None is as its track suggests."""

    kind: Literal["set_follows"] = "set_follows"
    entry_id: Id
    follows: Follows | None

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        return with_entry(mix, self.entry_id, follows=self.follows)

    @override
    def words(self, naming: Naming) -> str:
        name = naming.entry(self.entry_id)
        match self.follows:
            case Follows.OWN:
                return f"let {name} keep its own tempo"
            case Follows.STEADY:
                return f"make the tempo of {name} steady"
            case Follows.MIX:
                return f"let {name} go at the tempo of the mix"
            case None:
                return f"let {name} go as its track suggests"


class SetCount(MixCommand):
    """Set how many beats of the mix one beat of the entry's grid is."""

    kind: Literal["set_count"] = "set_count"
    entry_id: Id
    count: Count

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        return counted(mix, self.entry_id, self.count)

    @override
    def words(self, naming: Naming) -> str:
        return f"set the count of {naming.entry(self.entry_id)}"


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
