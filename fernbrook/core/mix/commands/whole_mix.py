"""Commands on a mix as a whole."""

from __future__ import annotations

from typing import Literal

from pydantic import Field
from typing_extensions import override

from fernbrook.core.mix.commands.command import CommandError, MixCommand
from fernbrook.core.mix.commands.pair_command import refused
from fernbrook.core.mix.model import Crossovers, Loudness, Mix, Naming, Untouched
from fernbrook.core.mix.transitions import SavedShape, transition_of
from fernbrook.core.track import Tracks


class RenameMix(MixCommand):
    """Give the mix another name."""

    kind: Literal["rename_mix"] = "rename_mix"
    name: str = Field(min_length=1, max_length=200)

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        return mix.model_copy(update={"name": self.name.strip() or mix.name})

    @override
    def words(self, naming: Naming) -> str:
        return "rename the mix"


class SetTarget(MixCommand):
    """Set the loudness that entries without a gain of their own are brought to; None leaves all as they are."""

    kind: Literal["set_target"] = "set_target"
    lufs: float | None = Field(ge=-40.0, le=0.0)

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        return mix.model_copy(update={"target_lufs": self.lufs})

    @override
    def words(self, naming: Naming) -> str:
        return "set the target loudness"


class SetLoudness(MixCommand):
    """Choose what makes tracks equally loud."""

    kind: Literal["set_loudness"] = "set_loudness"
    loudness: Loudness

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        return mix.model_copy(update={"loudness": self.loudness})

    @override
    def words(self, naming: Naming) -> str:
        return "choose what is equally loud"


class SetLimiting(MixCommand):
    """Allow the limiter so many dB of each track's peaks."""

    kind: Literal["set_limiting"] = "set_limiting"
    db: float = Field(ge=0.0, le=12.0)

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        return mix.model_copy(update={"limiting_db": self.db})

    @override
    def words(self, naming: Naming) -> str:
        return f"allow {self.db:g} dB of limiting"


class SetCrossovers(MixCommand):
    """Set where the bands of the mix's equaliser meet."""

    kind: Literal["set_crossovers"] = "set_crossovers"
    crossovers: Crossovers

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        return mix.model_copy(update={"crossovers": self.crossovers})

    @override
    def words(self, naming: Naming) -> str:
        return "set the equaliser's bands"


class SetUntouched(MixCommand):
    """Choose what a transition is that nobody has shaped."""

    kind: Literal["set_untouched"] = "set_untouched"
    untouched: Untouched

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        if isinstance(self.untouched, SavedShape):
            for beats in (0.25, 4.0, 32.0, 128.0):
                with refused():
                    transition_of(self.untouched.fitted(beats, 4.0), ("", ""), 0.0, 0.0, beats)
        return mix.without_transitions(mix.kept).model_copy(update={"untouched": self.untouched})

    @override
    def words(self, naming: Naming) -> str:
        return "choose what an untouched transition is"


class MarkAsMeant(MixCommand):
    """Say of a warning that it is meant, or that it is not."""

    kind: Literal["mark_as_meant"] = "mark_as_meant"
    key: str = Field(min_length=1, max_length=100)
    meant: bool

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        others = tuple(key for key in mix.meant if key != self.key)
        return mix.model_copy(update={"meant": (*others, self.key) if self.meant else others})

    @override
    def words(self, naming: Naming) -> str:
        return f"mark a warning as {'meant' if self.meant else 'not meant'}"


class SettlePlaces(MixCommand):
    """Decide on the places that were kept over an upgrade: place again by the present rules, or leave them."""

    kind: Literal["settle_places"] = "settle_places"
    again: bool

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        if not mix.kept:
            raise CommandError("Those transitions have been decided on already.")
        return mix.without_transitions(mix.kept) if self.again else mix.model_copy(update={"kept": ()})

    @override
    def words(self, naming: Naming) -> str:
        return f"{'place again' if self.again else 'leave as they are'} what nobody shaped"
