"""Commands on the takes of a transition: versions of it that are kept side by side."""

from __future__ import annotations

from typing import Literal

from pydantic import Field
from typing_extensions import override

from fernbrook.core.mix.commands.command import CommandError
from fernbrook.core.mix.commands.pair_command import PairCommand, resolved
from fernbrook.core.mix.model import Mix, Naming
from fernbrook.core.mix.transitions import MOST_TAKES, Take, Transition
from fernbrook.core.track import Tracks


class KeepTake(PairCommand):
    """Keep the transition as it is now. With the first take of a transition that was shaped by hand, the one that it
    would be by itself is kept too, so that there is something to compare it with."""

    kind: Literal["keep_take"] = "keep_take"
    name: str = Field(default="", max_length=60)

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        here = resolved(mix, self.pair, tracks)[0]
        if here.shaped and not mix.takes_of(self.pair):
            others = tuple(t for t in mix.transitions if t.pair != self.pair)
            untouched = resolved(mix.model_copy(update={"transitions": others}), self.pair, tracks)[0]
            mix = _kept(mix, untouched.transition, BY_ITSELF)
        return _kept(mix, here.transition, self.name.strip())

    @override
    def words(self, naming: Naming) -> str:
        return f"keep a take into {naming.entry(self.in_id)}"


class UseTake(PairCommand):
    """Put a take in the place of the transition. What that is now is kept as a take first, unless it is one."""

    kind: Literal["use_take"] = "use_take"
    number: int = Field(ge=1)

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        here = resolved(mix, self.pair, tracks)[0]
        take = _take(mix, self, self.number)
        if all(t.transition != here.transition for t in mix.takes_of(self.pair)):
            mix = _kept(mix, here.transition, "")
        return mix.with_transition(take.transition)

    @override
    def words(self, naming: Naming) -> str:
        return f"use take {self.number} into {naming.entry(self.in_id)}"


class DescribeTake(PairCommand):
    """Name a take, or note something about it. What is None stays."""

    kind: Literal["describe_take"] = "describe_take"
    number: int = Field(ge=1)
    name: str | None = Field(default=None, max_length=60)
    note: str | None = Field(default=None, max_length=500)

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        old = _take(mix, self, self.number)
        told = {n: value.strip() for n in ("name", "note") if (value := getattr(self, n)) is not None}
        new = old.model_copy(update=told)
        return mix.model_copy(update={"takes": tuple(new if t is old else t for t in mix.takes)})

    @override
    def words(self, naming: Naming) -> str:
        return f"describe take {self.number} into {naming.entry(self.in_id)}"


class DropTake(PairCommand):
    """Forget a take."""

    kind: Literal["drop_take"] = "drop_take"
    number: int = Field(ge=1)

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        dropped = _take(mix, self, self.number)
        return mix.model_copy(update={"takes": tuple(t for t in mix.takes if t is not dropped)})

    @override
    def words(self, naming: Naming) -> str:
        return f"forget take {self.number} into {naming.entry(self.in_id)}"


BY_ITSELF = "As placed automatically"


def _kept(mix: Mix, transition: Transition, name: str) -> Mix:
    """The mix with a transition among its takes; one that is among them already only gets the name."""
    takes = mix.takes_of(transition.pair)
    same = next((t for t in takes if t.transition == transition), None)
    if same is not None:
        named = same.model_copy(update={"name": name or same.name})
        return mix.model_copy(update={"takes": tuple(named if t is same else t for t in mix.takes)})
    if len(takes) >= MOST_TAKES:
        raise CommandError(f"There are {MOST_TAKES} takes of this transition already. Forget one first.")
    number = max((t.number for t in takes), default=0) + 1
    return mix.model_copy(update={"takes": (*mix.takes, Take(number=number, name=name, transition=transition))})


def _take(mix: Mix, command: PairCommand, number: int) -> Take:
    take = next((t for t in mix.takes_of(command.pair) if t.number == number), None)
    if take is None:
        raise CommandError(f"There is no take {number} of this transition any more.")
    return take
