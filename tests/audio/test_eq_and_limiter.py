from __future__ import annotations

import numpy as np
import pytest
from scipy.signal import butter, resample_poly, sosfilt

from fernbrook.audio.effects.eq import equalise
from fernbrook.audio.effects.limiter import LOOK_AHEAD_S, MARGIN_DB, after, before, limit
from fernbrook.audio.effects.zero_phase import CONTEXT
from fernbrook.audio.measures.true_peak import peak_per_sample
from fernbrook.render.blocks import BLOCK
from tests.listen import level_db

RATE = 44_100
N = 4 * RATE
EDGES = (250.0, 2500.0)


def _tone(hz: float) -> np.ndarray:
    t = np.arange(N + 2 * CONTEXT) / RATE
    return np.repeat(np.sin(2 * np.pi * hz * t)[:, None], 2, axis=1)


def _gains(low: float, mid: float, high: float) -> tuple[np.ndarray, ...]:
    return tuple(np.full(N, g) for g in (low, mid, high))


def test_neutral_bands_give_back_the_input_to_the_bit() -> None:
    noise = np.random.default_rng(0).standard_normal((N + 2 * CONTEXT, 2))
    assert np.array_equal(equalise(noise, *_gains(1, 1, 1), EDGES, RATE), noise[CONTEXT:-CONTEXT])


@pytest.mark.parametrize(
    ("hz", "gains", "expected_db"),
    [
        (60.0, (0, 1, 1), -95.0),
        (1000.0, (1, 0, 1), -45.0),
        (10_000.0, (1, 1, 0), -95.0),
        (60.0, (1, 0, 0), 0.0),
        (800.0, (0, 1, 0), 0.0),
        (10_000.0, (0, 0, 1), 0.0),
        (60.0, (0.5, 1, 1), -6.02),
    ],
)
def test_each_band_is_turned_alone(hz: float, gains: tuple[float, ...], expected_db: float) -> None:
    tone = _tone(hz)
    heard = equalise(tone, *_gains(*gains), EDGES, RATE)
    change = level_db(heard[RATE:-RATE]) - level_db(tone)
    if expected_db < -20:
        assert change < expected_db
    else:
        assert change == pytest.approx(expected_db, abs=0.1)


def test_a_band_that_is_turned_does_not_move_in_time() -> None:
    pulse = np.zeros((N + 2 * CONTEXT, 2))
    pulse[CONTEXT + RATE] = 1.0
    heard = equalise(pulse, *_gains(1, 0.3, 0.6), EDGES, RATE)[:, 0]
    around = heard[RATE - 2000 : RATE + 2001]
    assert np.allclose(around, around[::-1], atol=1e-12)


def test_context_is_long_enough_to_begin_anywhere() -> None:
    noise = np.random.default_rng(1).standard_normal((N + 2 * CONTEXT, 2))
    whole = equalise(noise, *_gains(0, 1, 0.5), EDGES, RATE)
    part = equalise(noise[RATE : 2 * RATE + 2 * CONTEXT], *(g[:RATE] for g in _gains(0, 1, 0.5)), EDGES, RATE)
    assert np.abs(part - whole[RATE : 2 * RATE]).max() < 1e-13


def _limited(sound: np.ndarray) -> np.ndarray:
    padded = np.concatenate((np.zeros((N, 2)), sound, np.zeros((after(RATE), 2))))
    return limit(padded, N, N + len(sound), -1.0, RATE)


def test_what_stays_below_the_ceiling_is_not_touched() -> None:
    quiet = 0.85 * np.sin(np.arange(N) / 9)[:, None] * np.ones((1, 2))
    assert np.array_equal(_limited(quiet), quiet)


def test_loud_material_stays_below_the_ceiling_between_samples_too() -> None:
    rng = np.random.default_rng(2)
    noise = sosfilt(butter(8, 18_000, fs=RATE, output="sos"), rng.standard_normal((N, 2)), axis=0)
    loud = 2.5 * noise * (1 + np.sin(np.arange(N) / 3000))[:, None]
    fine = resample_poly(_limited(loud), 8, 1, axis=0)
    assert 20 * np.log10(np.abs(fine).max()) < -0.9


def _hits(peak_db: float, seconds: int = 6) -> np.ndarray:
    """Drums pushed hard: noise bursts with steep attacks, four a second, over a bed of low level."""
    rng = np.random.default_rng(5)
    n = seconds * RATE
    t = np.arange(n) / RATE
    hits = rng.standard_normal((n, 2)) * np.exp(-((t % 0.25) / 0.03))[:, None]
    tone = np.sin(2 * np.pi * 11_000 * t)[:, None] * np.exp(-((t % 0.25) / 0.01))[:, None]
    return 10 ** (peak_db / 20) * (hits / 4 + tone) + 0.05 * rng.standard_normal((n, 2))


def _blockwise(sound: np.ndarray, block: int) -> np.ndarray:
    """Limited as the renderer does: block by block, with one block back and the start of the next."""
    padded = np.concatenate((np.zeros((block, 2)), sound, np.zeros((2 * block, 2))))
    blocks = []
    for at in range(block, len(sound), block):
        around = padded[at - block : at + block + after(RATE)]
        blocks.append(limit(around, block, 2 * block, -1.0, RATE))
    return np.concatenate(blocks)


@pytest.mark.parametrize("peak_db", [6.0, 12.0, 30.0, 48.0])
def test_the_ceiling_holds_between_the_samples_however_hard_it_is_pushed(peak_db: float) -> None:
    fine = resample_poly(_limited(_hits(peak_db)), 8, 1, axis=0)
    assert 20 * np.log10(np.abs(fine).max()) < -1.0 + 0.01


@pytest.mark.parametrize("peak_db", [18.0, 30.0, 48.0])
def test_the_gain_never_steps_at_the_border_of_a_block(peak_db: float) -> None:
    """One deep peak, then a steady tone: as it comes back, the gain moves no faster at borders than elsewhere."""
    sound = 0.4 * np.sin(2 * np.pi * 441 * np.arange(4 * BLOCK) / RATE)[:, None] * np.ones((1, 2))
    sound[BLOCK + 100 : BLOCK + 110] = 10 ** (peak_db / 20)
    heard = _blockwise(sound, BLOCK)
    n = len(heard)
    loud = np.abs(sound[:n, 0]) > 0.1
    gain_db = 20 * np.log10(np.abs(heard[loud, 0] / sound[:n][loud, 0]))
    at = np.flatnonzero(loud)
    back = (at > BLOCK + 400) & (at < BLOCK + 2 * BLOCK)
    rise = np.diff(gain_db[back]) / np.diff(at[back])
    border = np.abs(at[back][:-1] - 2 * BLOCK) < 50
    assert rise.min() > -1e-6
    assert rise[border].max() <= np.delete(rise, np.flatnonzero(border)).max()
    assert before(RATE) <= BLOCK
    assert np.array_equal(heard[2 * BLOCK + before(RATE) :], sound[2 * BLOCK + before(RATE) : n])


def test_the_gain_comes_back_after_a_peak() -> None:
    sound = 0.3 * np.ones((N, 2)) * np.sin(np.arange(N) / 5)[:, None]
    sound[RATE] = 3.0
    heard = _limited(sound)
    assert np.array_equal(heard[: RATE - 500], sound[: RATE - 500])
    assert np.array_equal(heard[RATE + RATE // 2 :], sound[RATE + RATE // 2 :])
    assert np.abs(heard[RATE - 10 : RATE + 10]).max() < 0.9


@pytest.mark.parametrize(("depth_db", "back_s"), [(3.0, 0.05), (6.0, 0.1), (12.0, 0.2)])
def test_the_way_back_takes_a_second_for_sixty_decibels(depth_db: float, back_s: float) -> None:
    sound = 0.3 * np.ones((N, 2)) * np.sin(2 * np.pi * 5 * np.arange(N) / RATE)[:, None]
    sound[RATE] = 10 ** ((depth_db - 1.0 - MARGIN_DB) / 20)
    lowered = np.flatnonzero(np.any(_limited(sound) != sound, axis=1))
    assert (lowered[-1] - RATE) / RATE == pytest.approx(back_s + LOOK_AHEAD_S, abs=1e-4)


def test_true_peak_finds_what_lies_between_samples() -> None:
    at_quarter = np.sin(np.pi / 2 * np.arange(4000) + np.pi / 4)[:, None]
    assert np.abs(at_quarter).max() == pytest.approx(0.7071, abs=1e-3)
    assert peak_per_sample(at_quarter)[100:-100].max() == pytest.approx(1.0, abs=0.02)
    assert np.array_equal(peak_per_sample(at_quarter, floor=10.0), np.abs(at_quarter[:, 0]))


@pytest.mark.parametrize("over_db", [0.02, 0.15, 1.0])
def test_what_is_hardly_over_the_ceiling_is_brought_down_to_it_and_no_further(over_db: float) -> None:
    ceiling = 10 ** ((-1.0 - MARGIN_DB) / 20)
    loud = _tone(441.0) * ceiling * 10 ** (over_db / 20)
    begin = before(RATE)
    heard = np.abs(limit(loud, begin, len(loud) - after(RATE), -1.0, RATE))
    assert heard.max() == pytest.approx(ceiling, rel=2e-4)
