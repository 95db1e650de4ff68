"""The inserts of a part in a row, each block of one made of blocks of the one before it."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from fernbrook.core.mix.curves import controls_of
from fernbrook.core.plan import RATE, Part
from fernbrook.render.blocks import BLOCK, Kept
from fernbrook.render.processors.equaliser import Equaliser
from fernbrook.render.processors.filter import Filter
from fernbrook.render.processors.insert import Insert, Sound, Turned
from fernbrook.render.processors.width import Width

INSERTS: tuple[Callable[[Part], Insert], ...] = (
    lambda part: Equaliser(part.crossovers),
    lambda _: Filter(),
    lambda _: Width(),
)
"""How each insert is prepared, in the order in which the sound goes through them. Only the first may hear ahead: what
feeds the others comes in whole blocks, and one more of them would have to be made."""

Spans = Callable[[int, int], Sound]
"""The sound from one sample up to another, shape (n, 2)."""


class Chain:
    """The sound of a part after all of its inserts, by the number of its block."""

    def __init__(self, part: Part, played: Spans) -> None:
        """``played`` gives the sound of the part before them, of spans that go forwards."""
        spans = played
        for prepare in INSERTS:
            self._blocks = Kept(_Stage(part, prepare(part), spans), 3)
            spans = _spans_of(self._blocks)

    def __call__(self, number: int) -> Sound:
        """A block, shape (BLOCK, 2)."""
        return self._blocks(number)


def turned_in(part: Part, start: int, end: int) -> list[Turned]:
    """The automations that reach into a span, over it."""
    reaching = [a for a in part.automations if a.start_s * RATE < end and start < a.end_s * RATE]
    return [Turned.over(a, part.tempo, start, end) for a in reaching]


class _Stage:
    """One insert, by blocks."""

    def __init__(self, part: Part, insert: Insert, before: Spans) -> None:
        self._part = part
        self._insert = insert
        self._before = before
        self._controls = controls_of(insert.kind)

    def __call__(self, number: int) -> Sound:
        start, end = number * BLOCK, (number + 1) * BLOCK
        insert, reaching = self._insert, turned_in(self._part, start, end)
        if not any(t.moves(*self._controls) for t in reaching):
            return self._before(start, end)
        turned = turned_in(self._part, start - insert.warm_up, end) if insert.warm_up else reaching
        signal = self._before(start - insert.warm_up - insert.context, end + insert.context)
        return insert.process(signal, [t for t in turned if t.moves(*self._controls)])


def _spans_of(blocks: Callable[[int], Sound]) -> Spans:
    """Spans cut from blocks."""

    def spans(start: int, end: int) -> Sound:
        first, last = start // BLOCK, (end - 1) // BLOCK
        if first == last:
            return blocks(first)[start - first * BLOCK : end - first * BLOCK]
        return np.concatenate([blocks(n) for n in range(first, last + 1)])[start - first * BLOCK : end - first * BLOCK]

    return spans
