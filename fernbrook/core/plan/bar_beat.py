"""Bars and beats as musicians count them."""

from __future__ import annotations

import math


def bar_beat(beat: float, bar: float) -> str:
    """A beat as bar and beat: beat 0 is 1.1, beat -1 the last of bar 0.

    >>> bar_beat(0.0, 4.0), bar_beat(66.5, 4.0), bar_beat(-1.0, 4.0)
    ('1.1', '17.3.5', '0.4')
    """
    shown = round(beat * 2.0) / 2.0
    number = math.floor(shown / bar)
    within = shown - number * bar + 1.0
    return f"{number + 1}.{within:g}"
