"""Bars and beats as musicians count them."""

from __future__ import annotations

from fernbrook.core.track import BarLines


def bar_beat(beat: float, lines: BarLines) -> str:
    """A beat as bar and beat: beat 0 is 1.1, beat -1 the last of bar 0.

    >>> lines = BarLines.of([(0.0, 4.0)], 4.0)
    >>> bar_beat(0.0, lines), bar_beat(66.5, lines), bar_beat(-1.0, lines)
    ('1.1', '17.3.5', '0.4')
    """
    shown = round(beat * 2.0) / 2.0
    return f"{int(lines.bar_of(shown)) + 1}.{float(lines.within(shown)) + 1.0:g}"
