"""What every change to a mix has in common: a command is a value, and its rule a pure function of the mix."""

from __future__ import annotations

from collections.abc import Mapping
from functools import singledispatch
from typing import Annotated

from pydantic import StringConstraints

from fernbrook.core.mix.entry import Entry
from fernbrook.core.mix.mix import Mix
from fernbrook.core.track.facts import TrackFacts
from fernbrook.core.value import Value
from fernbrook.errors import RefusedError

Tracks = Mapping[str, TrackFacts]
Id = Annotated[str, StringConstraints(max_length=32)]


class CommandError(RefusedError):
    """The command cannot be done to this mix; the message says why and what would do."""


@singledispatch
def rule(command: Value, mix: Mix, tracks: Tracks) -> Mix:
    """The mix after a command; each kind of command registers its own rule here."""
    raise TypeError(f"not a command: {type(command).__name__}")


def index_of(mix: Mix, entry_id: str) -> int:
    """The place of an entry that a command names."""
    index = mix.index_of(entry_id)
    if index is None:
        raise CommandError("That entry is not in the mix any more.")
    return index


def with_entry(mix: Mix, entry_id: str, **update: object) -> Mix:
    """The mix with some fields of an entry replaced, validated as a whole."""
    index = index_of(mix, entry_id)
    entry = Entry.model_validate({**mix.entries[index].model_dump(), **update})
    return mix.model_copy(update={"entries": (*mix.entries[:index], entry, *mix.entries[index + 1 :])})
