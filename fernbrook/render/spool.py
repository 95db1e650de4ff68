"""A mix before its limiter, kept on disk while it is brought to a loudness: what comes after is tried as often as it
takes, and the mix itself is rendered once."""

from __future__ import annotations

import shutil
from collections.abc import Callable, Iterator, Mapping, Sequence
from concurrent.futures import Future
from contextlib import contextmanager
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from fernbrook.core.plan import Plan
from fernbrook.disk import full, writing
from fernbrook.render.blocks import BLOCK
from fernbrook.render.renderer import Listen, sums
from fernbrook.whole import under_way

VALUES = 2 * BLOCK


class Spool:
    """Blocks of a mix before its limiter, as ``limited`` asks for them; 32-bit floats on disk."""

    def __init__(self, kept: NDArray[np.float32], places: Mapping[int, int]) -> None:
        self._kept = kept
        self._places = places

    def sum(self, number: int) -> NDArray[np.float64]:
        """Block ``number``; silence where the mix has none."""
        place = self._places.get(number)
        if place is None:
            return np.zeros((BLOCK, 2))
        return np.asarray(self._kept[place], dtype=np.float64)

    def begin(self, number: int) -> Future[NDArray[np.float64]]:
        """The same; it is there already."""
        future: Future[NDArray[np.float64]] = Future()
        future.set_result(self.sum(number))
        return future


@contextmanager
def spooled(
    plan: Plan,
    paths: Mapping[str, Path],
    spans: Sequence[tuple[int, int]],
    listen: Listen,
    beside: Path,
    report: Callable[[float], None],
) -> Iterator[Spool]:
    """Some spans of a mix, rendered into a file beside another one, which goes when the block is left.

    Raises
    ------
    DiskFullError
        When there is no room for it: 21 MB a minute.
    """
    most = sum((end - 1) // BLOCK - start // BLOCK + 3 for start, end in spans)
    what = f"‘{beside.name}’ was not written"
    if shutil.disk_usage(beside.parent).free < most * VALUES * 4:
        raise full(what)
    with under_way(beside) as folder, writing(what, beside):
        file = folder / "mix.f32"
        places: dict[int, int] = {}
        with file.open("wb") as out:
            for number, block in sums(plan, paths, spans, listen):
                places[number] = len(places)
                out.write(np.ascontiguousarray(block, dtype=np.float32).tobytes())
                report(len(places) / max(most, 1))
        kept = np.memmap(file, np.float32, "r", shape=(len(places), BLOCK, 2))
        try:
            yield Spool(kept, places)
        finally:
            del kept
