"""Values that take time to make, kept for who asks next; safe to be asked for from several threads at a time."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Hashable
from threading import Lock
from typing import Generic, TypeVar

K = TypeVar("K", bound=Hashable)
V = TypeVar("V")


class KeptValues(Generic[K, V]):
    """The values that were used last. Whoever gets one leaves it as it is.

    Parameters
    ----------
    most : how much is kept, as ``weigh`` has it
    weigh : how much a value counts; as one where nothing is said
    """

    def __init__(self, most: float, weigh: Callable[[V], float] = lambda _: 1.0) -> None:
        self._most = most
        self._weigh = weigh
        self._weight = 0.0
        self._values: OrderedDict[K, V] = OrderedDict()
        self._making: dict[K, Lock] = {}
        self._lock = Lock()

    def value(self, key: K, make: Callable[[], V]) -> V:
        """The value of a key, made where it is not kept: once, whoever else asks for it meanwhile."""
        with self._lock:
            if key in self._values:
                self._values.move_to_end(key)
                return self._values[key]
            turn = self._making.setdefault(key, Lock())
        with turn:
            with self._lock:
                if key in self._values:
                    return self._values[key]
            try:
                made = make()
                self.put(key, made)
            finally:
                with self._lock:
                    self._making.pop(key, None)
        return made

    def get(self, key: K) -> V | None:
        """The value of a key; None where it is not kept."""
        with self._lock:
            if key in self._values:
                self._values.move_to_end(key)
            return self._values.get(key)

    def put(self, key: K, value: V) -> None:
        """Keep a value; those that were used longest ago go to make room. One at least is kept."""
        with self._lock:
            if key in self._values:
                self._weight -= self._weigh(self._values.pop(key))
            self._values[key] = value
            self._weight += self._weigh(value)
            while self._weight > self._most and len(self._values) > 1:
                self._weight -= self._weigh(self._values.popitem(last=False)[1])

    def drop(self, key: K) -> None:
        """Keep it no longer."""
        with self._lock:
            if key in self._values:
                self._weight -= self._weigh(self._values.pop(key))
