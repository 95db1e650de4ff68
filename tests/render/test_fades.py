"""Transitions in which beats are not locked: fades and pauses, as they are heard."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from fernbrook.core.mix import commands as c
from fernbrook.core.mix.curves import Law
from fernbrook.core.mix.model import Fading
from fernbrook.core.mix.transitions import Kind
from fernbrook.core.plan import RATE
from fernbrook.core.track import Grid
from tests.listen import click, level_db
from tests.render.test_effects import Played, pair, steady, written
from tests.render.test_render import Deck


def faded(one: Played, two: Played, seconds: float = 10.0) -> Deck:
    deck = Deck(one, two)
    deck.do(c.SetKind(to=Kind.FADE, **pair(deck)))
    return deck.do(c.PlaceTransition(seconds=seconds, out_at=80.0, **pair(deck)))


@pytest.fixture(scope="module")
def two(tmp_path_factory: pytest.TempPathFactory) -> Deck:
    """Noises of 120 and 97.3 BPM, over ten seconds."""
    folder = tmp_path_factory.mktemp("fades")
    return faded(written(folder, "one", steady(seed=5), 120.0), written(folder, "two", steady(seed=6), 97.3))


def test_both_keep_their_own_speed_to_the_sample(two: Deck) -> None:
    t = two.plan.transitions[0]
    start, end = round(t.start_s * RATE), round(t.end_s * RATE)
    assert end - start == 10 * RATE
    sources = [steady(seed=5).astype(np.float32), steady(seed=6).astype(np.float32)]
    alone = two.render(start - RATE, start, 0)
    assert np.array_equal(alone, sources[0][start - RATE : start])
    after = two.render(end, end + RATE, 1)
    first = round(float(two.plan.entries[1].time_map.source_at(np.asarray(end / RATE))) * RATE)
    assert np.array_equal(after, sources[1][first : first + RATE])
    middle = two.render(start + 5 * RATE, start + 6 * RATE, 1)
    gain = np.sin(np.pi / 2 * (np.arange(5 * RATE, 6 * RATE) / (10 * RATE)))
    assert np.allclose(middle, sources[1][first - 5 * RATE : first - 4 * RATE] * gain[:, None], atol=1e-4)


def test_power_stays_even_and_nothing_clicks(two: Deck) -> None:
    t = two.plan.transitions[0]
    start, end = round(t.start_s * RATE), round(t.end_s * RATE)
    heard = two.render(start - 2 * RATE, end + 2 * RATE)
    levels = [level_db(heard[at : at + RATE]) for at in range(0, len(heard) - RATE, RATE // 2)]
    assert np.ptp(levels) < 0.5
    jumps = click(heard)
    assert jumps.max() < 1.3 * max(jumps[:RATE].max(), jumps[-RATE:].max())


def test_a_linear_fade_dips_by_three_decibels_in_its_middle(two: Deck) -> None:
    deck = Deck.__new__(Deck)
    deck.tracks, deck.paths, deck.mix = two.tracks, two.paths, two.mix
    deck.do(c.SetVolumeLaw(law=Law.LINEAR, **pair(deck)))
    t = deck.plan.transitions[0]
    middle = round((t.start_s + t.end_s) / 2 * RATE)
    span = (middle - RATE // 4, middle + RATE // 4)
    assert level_db(deck.render(*span)) - level_db(two.render(*span)) == pytest.approx(-3.0, abs=0.3)


def test_apart_one_ends_a_pause_and_the_other_starts(tmp_path: Path) -> None:
    deck = Deck(written(tmp_path, "one", steady(seconds=20.0), 120.0), written(tmp_path, "two", steady(), 133.0))
    deck.do(c.SetKind(to=Kind.APART, **pair(deck)))
    deck.do(c.PlaceTransition(seconds=2.5, **pair(deck)))
    assert deck.plan.transitions[0].end_s == pytest.approx(22.5)
    heard = deck.render(19 * RATE, 24 * RATE)
    assert np.array_equal(
        heard[: RATE // 2], steady(seconds=20.0).astype(np.float32)[19 * RATE : 19 * RATE + RATE // 2]
    )
    assert not heard[RATE + 10 : round(3.49 * RATE)].any()
    assert np.array_equal(heard[round(3.5 * RATE) :], steady().astype(np.float32)[: round(1.5 * RATE)])


def test_a_live_recording_between_fades_plays_as_it_was_recorded(tmp_path: Path) -> None:
    rng = np.random.default_rng(9)
    beats = np.arange(100.0)
    times = 0.5 * beats + np.cumsum(rng.normal(0.0, 0.004, 100))
    live = written(tmp_path, "live", steady(seconds=50.0, seed=7), 120.0)
    live = Played(live.facts.model_copy(update={"grid": Grid.through(times, beats)}), live.path)
    deck = Deck(written(tmp_path, "one", steady(), 120.0), live, written(tmp_path, "two", steady(seed=8), 126.0))
    deck.do(c.SetUntouched(untouched=Fading(seconds=5.0)))
    entry = deck.plan.entries[1]
    start, end = (round(s * RATE) for s in (entry.start_s + 6.0, entry.end_s - 6.0))
    first = round(float(entry.time_map.source_at(np.asarray(start / RATE))) * RATE)
    source = steady(seconds=50.0, seed=7).astype(np.float32)
    assert np.array_equal(deck.render(start, end), source[first : first + end - start])
