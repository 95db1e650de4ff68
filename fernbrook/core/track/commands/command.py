"""What every change to a track by hand is."""

from __future__ import annotations

from abc import ABC, abstractmethod

from fernbrook.core.track.markup import Markup
from fernbrook.core.value import Command


class MarkupCommand(Command, ABC):
    """A change to a track. What a command lacks of its rule or its words, the type checker and its first use refuse."""

    @abstractmethod
    def rule(self, markup: Markup) -> Markup:
        """The track after it.

        Raises
        ------
        ValueError
            When it cannot be done.
        """

    @abstractmethod
    def words(self) -> str:
        """What it is called in the history: 'slide the grid by 10 ms'."""
