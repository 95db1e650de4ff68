"""What every change to a mix has in common: a command is a value, with its rule and its words."""

from __future__ import annotations

from abc import ABC, abstractmethod
from typing import Annotated

from pydantic import StringConstraints

from fernbrook.core.mix.entries import Entry
from fernbrook.core.mix.model import Mix, Naming
from fernbrook.core.track import Tracks
from fernbrook.core.value import Command
from fernbrook.errors import RefusedError

Id = Annotated[str, StringConstraints(max_length=32)]


class CommandError(RefusedError):
    """The command cannot be done to this mix; the message says why and what would do."""


class MixCommand(Command, ABC):
    """A change to a mix. What a command lacks of its rule or its words, the type checker and its first use refuse."""

    @abstractmethod
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        """The mix after it.

        Raises
        ------
        CommandError
            When the command names what is not there, or asks for what cannot be.
        """

    @abstractmethod
    def words(self, naming: Naming) -> str:
        """What it is called in the history, with the titles of what it is about: 'move the mix-in of ‘Heliconia’'."""


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
