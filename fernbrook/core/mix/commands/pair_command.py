"""What all commands on the transition between two neighbours have in common."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from pydantic import ValidationError

from fernbrook.core.mix.commands.command import CommandError, Id, MixCommand, index_of
from fernbrook.core.mix.model import Mix
from fernbrook.core.mix.placing import Placed, Span, placed, spans_of
from fernbrook.core.mix.transitions import Side, Transition
from fernbrook.core.track import Tracks
from fernbrook.core.value import what_is_wrong

PARTED = "Those two entries are not neighbours any more: the order has changed."


class PairCommand(MixCommand):
    """A command on the transition between two neighbours."""

    out_id: Id
    in_id: Id

    @property
    def pair(self) -> tuple[str, str]:
        """The ids of the two entries."""
        return (self.out_id, self.in_id)

    def id_of(self, side: Side) -> str:
        """The id of the entry on a side."""
        return self.out_id if side is Side.OUTGOING else self.in_id


def resolved(mix: Mix, pair: tuple[str, str], tracks: Tracks) -> tuple[Placed, Span, Span]:
    """The transition between two neighbours where it lies, and the sounding spans of both.

    Raises
    ------
    CommandError
        When the two are no neighbours.
    """
    index = index_of(mix, pair[0])
    if index + 1 >= len(mix.entries) or mix.entries[index + 1].id != pair[1]:
        raise CommandError(PARTED)
    spans = spans_of(mix, tracks)
    return placed(mix, spans)[index], spans[index], spans[index + 1]


def said(command: MixCommand, *names: str) -> dict[str, object]:
    """Those fields of a command that are not None: what it says, and no more. Two that come quickly one after the other
    from a page that knows of neither's effect do not take each other back."""
    return {name: value for name in names if (value := getattr(command, name)) is not None}


def checked(old: Transition, **update: object) -> Transition:
    """The transition with some fields replaced, validated as a whole."""
    fields = {name: getattr(old, name) for name in Transition.model_fields} | update
    with refused():
        return Transition.model_validate(fields)


@contextmanager
def refused() -> Iterator[None]:
    """What is no sound value is a command that cannot be done, in the words of the value."""
    try:
        yield
    except ValueError as error:
        raise CommandError(_plain(error)) from error
    except (OverflowError, ZeroDivisionError) as error:
        raise CommandError("That lies further out than can be counted. Nothing was changed.") from error


def _plain(error: ValueError) -> str:
    """The first message of a validation error, without its framing."""
    text = what_is_wrong(error) if isinstance(error, ValidationError) else str(error)
    return text[:1].upper() + text[1:] + "."
