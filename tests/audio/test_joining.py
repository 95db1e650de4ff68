"""Streams that are joined keep their power; a stream that is taken apart is the same when it is put together."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fernbrook.audio.sources.joining import Reel, joined

blocks_of = st.lists(st.integers(1, 400), min_size=1, max_size=12)


def cut(sound: np.ndarray, sizes: list[int]) -> list[np.ndarray]:
    """Sound in blocks of such sizes, over and over."""
    edges = np.cumsum(np.resize(sizes, len(sound)))
    return np.split(sound, edges[edges < len(sound)])


def noise(frames: int, seed: int) -> np.ndarray:
    return np.random.default_rng(seed).normal(size=(frames, 2)).astype(np.float32)


@given(blocks_of, blocks_of)
def test_pieces_are_joined_the_same_whatever_their_blocks(one: list[int], other: list[int]) -> None:
    pieces = [noise(3000, 1), noise(2500, 2), noise(1000, 3)]
    ways = [np.concatenate(list(joined([cut(p, sizes) for p in pieces], 400))) for sizes in (one, other)]
    assert np.array_equal(*ways)
    assert len(ways[0]) == 6500 - 2 * 400
    assert np.array_equal(ways[0][:2600], pieces[0][:2600])
    assert np.array_equal(ways[0][3000:4700], pieces[1][400:2100])
    assert np.array_equal(ways[0][5100:], pieces[2][400:])


def test_a_join_has_the_power_of_either_side() -> None:
    sound = np.concatenate(list(joined([[noise(60_000, 1)], [noise(60_000, 2)]], 40_000)))
    middle = sound[20_000:60_000].reshape(8, -1)
    assert np.abs(middle.std(axis=1) - 1.0).max() < 0.05


def test_over_a_join_the_one_goes_and_the_other_comes() -> None:
    goes, comes = noise(60_000, 1), noise(60_000, 2)
    join = np.concatenate(list(joined([[goes], [comes]], 40_000)))[20_000:60_000]
    for at, share in ((100, 0.0), (20_000, 0.5), (39_900, 1.0)):
        near = slice(at - 100, at + 100)
        left, right = goes[20_000:][near], comes[near]
        kept = [float((join[near] * x).sum() / (x * x).sum()) for x in (left, right)]
        assert kept == [
            pytest.approx(np.cos(share * np.pi / 2), abs=0.15),
            pytest.approx(np.sin(share * np.pi / 2), abs=0.15),
        ]


@given(blocks_of, st.lists(st.integers(0, 900), max_size=8))
def test_what_is_taken_from_a_reel_is_what_was_on_it(blocks: list[int], takes: list[int]) -> None:
    sound = noise(2000, 4)
    reel, at = Reel(cut(sound, blocks)), 0
    for frames in takes:
        taken = np.concatenate([np.zeros((0, 2), np.float32), *reel.take(frames)])
        assert np.array_equal(taken, sound[at : at + frames])
        at = min(at + frames, len(sound))
