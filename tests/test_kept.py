"""Kept values are made once, and stand being asked for by many at a time."""

from __future__ import annotations

import time
from concurrent.futures import ThreadPoolExecutor

import pytest

from fernbrook.kept import KeptValues


def test_the_values_that_were_used_last_are_kept() -> None:
    kept: KeptValues[str, int] = KeptValues(2)
    made: list[str] = []

    def make(key: str) -> int:
        made.append(key)
        return len(made)

    for key in ("a", "b", "a", "c", "a", "b"):
        kept.value(key, lambda key=key: make(key))
    assert made == ["a", "b", "c", "b"]
    assert (kept.get("a"), kept.get("c")) == (1, None)
    kept.drop("a")
    assert kept.get("a") is None


def test_what_weighs_more_takes_the_place_of_several_and_one_is_always_kept() -> None:
    kept: KeptValues[int, bytes] = KeptValues(10, len)
    for n in range(3):
        kept.put(n, bytes(4))
    assert [kept.get(n) for n in range(3)] == [None, bytes(4), bytes(4)]
    kept.put(3, bytes(50))
    assert [kept.get(n) is None for n in range(4)] == [True, True, True, False]
    kept.put(3, bytes(2))
    kept.put(4, bytes(8))
    assert kept.get(3) == bytes(2), "what was replaced does not weigh any more"


def test_many_threads_ask_for_many_values_and_each_is_made_once_at_a_time() -> None:
    kept: KeptValues[int, int] = KeptValues(8)
    under_way: set[int] = set()

    def make(key: int) -> int:
        assert key not in under_way, "two make the same value at a time"
        under_way.add(key)
        time.sleep(0.0005)
        under_way.discard(key)
        return key * key

    def ask(n: int) -> bool:
        key = (n * 7) % 40
        return kept.value(key, lambda: make(key)) == key * key

    with ThreadPoolExecutor(6) as threads:
        assert all(threads.map(ask, range(3000)))


def test_one_that_could_not_be_made_is_tried_again() -> None:
    kept: KeptValues[str, int] = KeptValues(2)

    def fail() -> int:
        raise OSError

    with pytest.raises(OSError):  # noqa: PT011
        kept.value("a", fail)
    assert kept.value("a", lambda: 5) == 5
