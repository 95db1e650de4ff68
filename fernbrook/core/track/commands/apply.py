"""The commands that there are, and the one way in which they change a track."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated

from pydantic import Field, ValidationError

from fernbrook.core.track.commands import grid, marks, playing
from fernbrook.core.track.commands.command import MarkupCommand
from fernbrook.core.track.markup import Markup, MarkupError
from fernbrook.core.value import one_of_all, what_is_wrong

if TYPE_CHECKING:
    AnyMarkupCommand = MarkupCommand
else:
    MODULES = (grid, marks, playing)
    AnyMarkupCommand = Annotated[one_of_all(MarkupCommand, *map(vars, MODULES)), Field(discriminator="kind")]


def apply(markup: Markup, command: MarkupCommand) -> Markup:
    """The track after a command.

    Raises
    ------
    MarkupError
        When the command cannot be done.
    """
    try:
        return command.rule(markup)
    except ValueError as error:
        words = what_is_wrong(error) if isinstance(error, ValidationError) else str(error)
        raise MarkupError(words) from error
