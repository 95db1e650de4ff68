"""Functions that give the same value again for the very same arguments.

A mix is changed in one place at a time, and all its values are immutable: what a command leaves alone are the same
objects as before. What follows from them need not be worked out again, nor compared: a plan takes the time of what
changed in it.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from typing import Any, ParamSpec, TypeVar

import numpy as np

P = ParamSpec("P")
V = TypeVar("V")

MOST = 2000
"""So many values of a function are kept at least, and no more than twice as many."""
PLAIN = frozenset((float, int, str, bool, type(None), np.float64))


def remembered(make: Callable[P, V]) -> Callable[P, V]:
    """A pure function that keeps what it made last.

    Numbers and strings are the same when they are equal, tuples when all in them is the same, anything else only when
    it is the same object. So arguments must be immutable, or never be changed.
    """
    young: dict[Any, tuple[Any, V]] = {}
    old: dict[Any, tuple[Any, V]] = {}

    @wraps(make)
    def value(*args: P.args, **kwargs: P.kwargs) -> V:
        nonlocal young, old
        key = _key((args, tuple(kwargs.items()))) if kwargs else _key(args)
        known = young.get(key) or old.get(key)
        if known is None:
            # The arguments are kept beside it: while they are, no other object can have their identities.
            known = ((args, kwargs), make(*args, **kwargs))
        if key not in young:
            if len(young) >= MOST:
                young, old = {}, young
            young[key] = known
        return known[1]

    return value


def _key(argument: Any) -> Any:
    kind = type(argument)
    if kind in PLAIN:
        return argument
    if kind is tuple:
        return tuple(map(_key, argument))
    # Below all numbers that are arguments, so that none is taken for it.
    return -id(argument)
