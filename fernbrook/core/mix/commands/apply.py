"""The commands that there are, and the one way in which they change a mix."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated

from pydantic import Field

from fernbrook.core.mix.commands import (
    edits,
    entry,
    layers,
    order,
    put_pair,
    shapes,
    takes,
    tempo,
    transition,
    whole_mix,
)
from fernbrook.core.mix.commands.command import MixCommand
from fernbrook.core.mix.commands.pair_command import refused
from fernbrook.core.mix.model import Mix
from fernbrook.core.mix.placing import with_held_cues
from fernbrook.core.track import Tracks
from fernbrook.core.value import one_of_all

if TYPE_CHECKING:
    AnyMixCommand = MixCommand
else:
    MODULES = (edits, entry, layers, order, put_pair, shapes, takes, tempo, transition, whole_mix)
    AnyMixCommand = Annotated[one_of_all(MixCommand, *map(vars, MODULES)), Field(discriminator="kind")]


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
