"""The blocks in which everything is rendered."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from typing import Generic, TypeVar

T = TypeVar("T")

BLOCK = 16_384
"""Samples in a block. Blocks lie at whole multiples from the start of the mix, wherever a render begins, so that each
is computed in the same way every time."""


class Kept(Generic[T]):
    """The last few results of a function of a block's number: what is asked for again is not made again."""

    def __init__(self, make: Callable[[int], T], most: int) -> None:
        self._make = make
        self._most = most
        self._made: OrderedDict[int, T] = OrderedDict()

    def __call__(self, number: int) -> T:
        """The result for a block."""
        if number not in self._made:
            self._made[number] = self._make(number)
            if len(self._made) > self._most:
                self._made.popitem(last=False)
        return self._made[number]
