"""Keys as a walk round the circle of fifths that is not wrapped: a neighbour is one step away, a clash up to six."""

from __future__ import annotations

from collections.abc import Sequence

from fernbrook.core.track import Key, fifths_between


def key_walk(keys: Sequence[Key | None]) -> list[int | None]:
    """Where each key lies, in fifths; the first known one at its place on the circle from C, and on from there by the
    shorter way. Major and relative minor lie at one place.

    >>> key_walk([Key.parse("F"), Key.parse("Am"), None, Key.parse("Em"), Key.parse("F#")])
    [-1, 0, None, 1, 6]
    """
    places: list[int | None] = []
    last: tuple[Key, int] | None = None
    for key in keys:
        if key is None:
            places.append(None)
            continue
        at = fifths_between(Key(tonic=0, minor=False), key) if last is None else last[1] + fifths_between(last[0], key)
        last = (key, at)
        places.append(at)
    return places
