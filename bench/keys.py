"""Keys of club tracks composed for it (``bench/keyed.py``), as the whole analysis finds them.

Beside what is felt to be the usual way: mean constant-Q chroma against the profiles of Krumhansl and Kessler.
"""

from __future__ import annotations

from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context

import numpy as np

from bench import keyed
from bench.analysis import krumhansl, spelt
from bench.rows import Row
from fernbrook.analysis.analyse import analyse
from fernbrook.analysis.confidence import SURE_KEY

EVERY = 4
"""Of each half, every so manieth track is analysed as a whole."""
Result = tuple[bool, float, float, float]


def rows() -> Iterator[Row]:
    """The score of MIREX of each half, and how the doubts fit."""
    some = [t for t in keyed.made() if t.number // 2 % EVERY == 0]
    with ProcessPoolExecutor(2, mp_context=get_context("spawn")) as pool:
        results = list(pool.map(_measured, some))
    for held, name in ((False, "trained on"), (True, "held back")):
        half = [r for r in results if r[0] is held]
        if half:
            yield from _half(name, half)


def _half(name: str, half: list[Result]) -> Iterator[Row]:
    ours, theirs = (float(np.mean([r[i] for r in half])) for i in (1, 3))
    yield Row(f"keys, weighted, {len(half)} {name}", f"{ours:.2f}", f"librosa's chroma {theirs:.2f}", "0.93")
    wrong, right = ([r for r in half if (r[1] == 1.0) is ok] for ok in (False, True))
    doubted, needless = (sum(r[2] < SURE_KEY for r in some) for some in (wrong, right))
    figure = f"{doubted} of {len(wrong)}; {needless} of {len(right)}"
    yield Row(f"wrong keys that are doubted; right ones doubted, {name}", figure, "-", "90 %; 10 %")


def _measured(track: keyed.Keyed) -> Result:
    import librosa
    import mir_eval

    found = analyse(track.path).reading.key
    sound, rate = librosa.load(track.path, sr=22_050, duration=120.0)
    theirs = krumhansl(librosa.feature.chroma_cqt(y=sound, sr=rate).mean(axis=1))

    def score(key: str) -> float:
        return float(mir_eval.key.weighted_score(spelt(track.key.name), spelt(key)))

    return (
        track.number % 2 == 1,
        score(found.key.name) if found else 0.0,
        found.confidence if found else 0.0,
        score(theirs),
    )
