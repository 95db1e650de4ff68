"""Commands on a mix as a whole."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from fernbrook.core.mix.changing import Tracks, rule
from fernbrook.core.mix.mix import Crossovers, Loudness, Mix, Untouched
from fernbrook.core.mix.pairs import refused
from fernbrook.core.mix.saved_hand_over import SavedHandOver
from fernbrook.core.mix.shaping import transition_of
from fernbrook.core.value import Command


class RenameMix(Command):
    """Give the mix another name."""

    kind: Literal["rename_mix"] = "rename_mix"
    name: str = Field(min_length=1, max_length=200)


class SetTarget(Command):
    """Set the loudness that entries without a gain of their own are brought to; None leaves all as they are."""

    kind: Literal["set_target"] = "set_target"
    lufs: float | None = Field(ge=-40.0, le=0.0)


class SetLoudness(Command):
    """Choose what makes tracks equally loud."""

    kind: Literal["set_loudness"] = "set_loudness"
    loudness: Loudness


class SetLimiting(Command):
    """Allow the limiter so many dB of each track's peaks."""

    kind: Literal["set_limiting"] = "set_limiting"
    db: float = Field(ge=0.0, le=12.0)


class SetCrossovers(Command):
    """Set where the bands of the mix's equaliser meet."""

    kind: Literal["set_crossovers"] = "set_crossovers"
    crossovers: Crossovers


class SetUntouched(Command):
    """Choose what a transition is that nobody has shaped."""

    kind: Literal["set_untouched"] = "set_untouched"
    untouched: Untouched


class MarkAsMeant(Command):
    """Say of a snag that it is meant, or that it is not."""

    kind: Literal["mark_as_meant"] = "mark_as_meant"
    key: str = Field(min_length=1, max_length=100)
    meant: bool


@rule.register
def _(command: MarkAsMeant, mix: Mix, tracks: Tracks) -> Mix:
    others = tuple(key for key in mix.meant if key != command.key)
    return mix.model_copy(update={"meant": (*others, command.key) if command.meant else others})


@rule.register
def _(command: RenameMix, mix: Mix, tracks: Tracks) -> Mix:
    return mix.model_copy(update={"name": command.name.strip() or mix.name})


@rule.register
def _(command: SetTarget, mix: Mix, tracks: Tracks) -> Mix:
    return mix.model_copy(update={"target_lufs": command.lufs})


@rule.register
def _(command: SetLoudness, mix: Mix, tracks: Tracks) -> Mix:
    return mix.model_copy(update={"loudness": command.loudness})


@rule.register
def _(command: SetLimiting, mix: Mix, tracks: Tracks) -> Mix:
    return mix.model_copy(update={"limiting_db": command.db})


@rule.register
def _(command: SetCrossovers, mix: Mix, tracks: Tracks) -> Mix:
    return mix.model_copy(update={"crossovers": command.crossovers})


@rule.register
def _(command: SetUntouched, mix: Mix, tracks: Tracks) -> Mix:
    if isinstance(command.untouched, SavedHandOver):
        for beats in (0.25, 4.0, 32.0, 128.0):
            with refused():
                transition_of(command.untouched.fitted(beats, 4.0), ("", ""), 0.0, 0.0, beats)
    return mix.without_transitions(mix.kept).model_copy(update={"untouched": command.untouched})
