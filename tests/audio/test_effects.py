"""What the filter, the echo and the reverb are made of, each against what is known of it."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.signal import butter, fftconvolve, sosfilt

from fernbrook.audio.effects.convolver import Response
from fernbrook.audio.effects.echo import DULL_HZ, OPEN_HZ, repeats
from fernbrook.audio.effects.reverb import room
from fernbrook.audio.effects.sweep import BUTTERWORTH_Q, HIGHEST_Q, swept
from fernbrook.audio.stretch.kept_blocks import KeptBlocks, key_of
from tests.listen import level_db

RATE = 44_100
BLOCK = 512


def noise(count: int, seed: int = 1) -> np.ndarray:
    return np.random.default_rng(seed).standard_normal((count, 2))


@given(length=st.integers(1, 5 * BLOCK), blocks=st.integers(1, 12), seed=st.integers(0, 99))
def test_a_convolution_in_parts_is_the_convolution(length: int, blocks: int, seed: int) -> None:
    impulse, sound = noise(length, seed), noise(blocks * BLOCK, seed + 1)
    response = Response(impulse, BLOCK)
    padded = np.concatenate((sound, np.zeros((response.blocks * BLOCK, 2))))
    parts = [padded[i : i + BLOCK] for i in range(0, len(padded), BLOCK)]
    spectra = [response.spectrum(a, b) for a, b in zip([np.zeros((BLOCK, 2)), *parts], parts, strict=False)]
    heard = np.concatenate([response.convolved(spectra[: n + 1][::-1]) for n in range(len(parts))])
    expected = fftconvolve(sound, impulse, axes=0)
    off = heard[: len(expected)] - expected[: len(heard)]
    assert 20.0 * np.log10(np.sqrt(np.mean(off**2) / np.mean(expected**2))) < -120.0


def test_silence_among_the_blocks_is_silence() -> None:
    response = Response(noise(3 * BLOCK), BLOCK)
    block = noise(BLOCK, 2)
    spectrum = response.spectrum(np.zeros((BLOCK, 2)), block)
    nothing = response.spectrum(np.zeros((BLOCK, 2)), np.zeros((BLOCK, 2)))
    assert np.array_equal(response.convolved([None, spectrum]), response.convolved([nothing, spectrum]))
    assert not response.convolved([None, None]).any()


@pytest.mark.parametrize("passes_high", [False, True])
@pytest.mark.parametrize("hz", [200.0, 1000.0, 4000.0])
def test_at_rest_the_filter_is_a_butterworth_of_fourth_order(hz: float, passes_high: bool) -> None:
    sound = noise(RATE)
    steady, whole = np.full(RATE, hz), np.ones(RATE)
    ours = swept(sound, steady, whole, 0.0, passes_high, RATE)
    theirs = sosfilt(butter(4, hz, "highpass" if passes_high else "lowpass", fs=RATE, output="sos"), sound, axis=0)
    assert np.allclose(ours, theirs, atol=1e-9)


def test_what_does_not_go_through_the_filter_is_the_sound_itself() -> None:
    sound = noise(4000)
    share = np.zeros(4000)
    share[2000:] = 0.5
    out = swept(sound, np.full(4000, 300.0), share, 0.6, False, RATE)
    assert np.array_equal(out[:2000], sound[:2000])
    assert not np.array_equal(out[2000:], sound[2000:])


@given(resonance=st.floats(0.0, 1.0), low=st.floats(30.0, 200.0))
def test_no_filter_rings_for_longer_than_it_is_warmed_up(resonance: float, low: float) -> None:
    pulse = np.zeros((RATE, 2))
    pulse[0] = 1.0
    for passes_high in (False, True):
        out = swept(pulse, np.full(RATE, low), np.ones(RATE), resonance, passes_high, RATE)
        assert np.abs(out[16_384:]).max() < 1e-7


@pytest.mark.parametrize("length_s", [0.5, 2.0, 6.0])
def test_a_room_falls_by_sixty_decibels_and_is_as_loud_as_what_goes_in(length_s: float) -> None:
    impulse = room(length_s, 1.0, RATE)
    assert len(impulse) == round(length_s * RATE)
    assert np.sum(impulse**2, axis=0) == pytest.approx([1.0, 1.0])
    left = np.cumsum(impulse[::-1] ** 2, axis=0)[::-1].mean(axis=1)
    fall = 10 * np.log10(left / left[0])
    tenth, half = (int(share * len(impulse)) for share in (0.1, 0.5))
    assert (fall[half] - fall[tenth]) / (0.4 * length_s) == pytest.approx(-60.0 / length_s, rel=0.12)
    assert abs(impulse[-1]).max() < 1e-6


def test_a_dark_room_loses_its_highs_sooner() -> None:
    def share_of_highs(colour: float) -> float:
        late = room(2.0, colour, RATE)[RATE // 2 : RATE]
        power = np.abs(np.fft.rfft(late[:, 0])) ** 2
        hz = np.fft.rfftfreq(len(late), 1 / RATE)
        return float(power[hz > 4000].sum() / power.sum())

    dark, middle, bright = (share_of_highs(colour) for colour in (0.0, 0.5, 1.0))
    assert dark < 0.1 * middle < 0.1 * bright
    deep = np.abs(np.fft.rfft(room(2.0, 0.5, RATE)[:, 0])) ** 2
    assert deep[: round(100 * 2.0)].sum() < 1e-3 * deep.sum()


@given(apart=st.floats(500.0, 5000.0), feedback=st.floats(0.0, 0.9), damping=st.floats(0.0, 1.0))
def test_an_echo_is_where_it_should_be_and_falls_by_its_feedback(apart: float, feedback: float, damping: float) -> None:
    count = 5
    impulse = repeats(apart, feedback, damping, count, float(RATE))[:, 0]
    n = np.arange(len(impulse))
    for k in range(1, count + 1):
        near = np.abs(n - k * apart) < 200
        weight = impulse[near].sum()
        assert weight == pytest.approx(feedback ** (k - 1), abs=1e-6)
        if weight > 1e-3:
            assert (impulse[near] * n[near]).sum() / weight == pytest.approx(k * apart, abs=0.2)


def test_each_repeat_is_duller_and_damping_makes_it_so() -> None:
    def cutoff(damping: float, k: int) -> float:
        impulse = repeats(4000.0, 1.0, damping, 4, float(RATE))[:, 0]
        pulse = impulse[k * 4000 - 300 : k * 4000 + 301]
        level = np.abs(np.fft.rfft(pulse, 65_536))
        return float(np.argmax(level < level[0] / np.sqrt(2)) * RATE / 65_536)

    assert cutoff(1.0, 1) == pytest.approx(DULL_HZ, rel=0.02)
    assert cutoff(1.0, 4) == pytest.approx(DULL_HZ / 2, rel=0.02)
    assert cutoff(0.0, 2) == pytest.approx(OPEN_HZ / np.sqrt(2), rel=0.15)


def test_kept_blocks_are_made_once_and_the_oldest_go_first() -> None:
    kept = KeptBlocks(3 * 8000)
    made: list[int] = []

    def block(n: int) -> np.ndarray:
        def make() -> np.ndarray:
            made.append(n)
            return np.full((1000, 2), n, dtype=np.float32)

        return kept.value(n, make)

    for n in (1, 2, 3, 1, 4, 1, 2):
        assert block(n)[0, 0] == n
    assert made == [1, 2, 3, 4, 2]


def test_a_block_is_known_by_where_it_reads_its_source() -> None:
    frames, times = np.arange(8), np.linspace(0.0, 1.0, 8)
    key = key_of("a", frames, times, ())
    assert key == key_of("a", frames.copy(), times.copy(), ())
    for other in (
        key_of("b", frames, times, ()),
        key_of("a", frames + 1, times, ()),
        key_of("a", frames, times + 1e-9, ()),
        key_of("a", frames, times, ("join",)),
    ):
        assert other != key


def _swept_tone(
    hz: float, cutoff: float, *, share: float = 1.0, resonance: float = 0.0, high: bool = False
) -> np.ndarray:
    t = np.arange(2 * RATE) / RATE
    tone = np.repeat(np.sin(2 * np.pi * hz * t)[:, None], 2, axis=1)
    n = len(tone)
    return swept(tone, np.full(n, cutoff), np.full(n, share), resonance, high, RATE)[RATE:]


@pytest.mark.parametrize("resonance", [0.0, 0.5, 1.0])
def test_a_filter_resonates_by_even_steps_of_its_quality(resonance: float) -> None:
    """At its cut-off each section's gain is its Q; the second's goes from Butterworth's to the highest by octaves."""
    first, second = BUTTERWORTH_Q
    wanted = 20 * np.log10(first * second * (HIGHEST_Q / second) ** resonance)
    heard = level_db(_swept_tone(2000.0, 2000.0, resonance=resonance)) - level_db(np.array([np.sqrt(0.5)]))
    assert heard == pytest.approx(wanted, abs=0.1)


def test_a_filter_that_is_nearly_open_lets_the_highs_through() -> None:
    assert level_db(_swept_tone(9000.0, 18_000.0)) == pytest.approx(level_db(np.array([np.sqrt(0.5)])), abs=0.2)


@pytest.mark.parametrize("high", [False, True])
def test_half_a_filter_is_half_of_what_went_through_it_and_half_of_what_passed_by(high: bool) -> None:
    whole, half, none = (_swept_tone(700.0, 1000.0, share=share, high=high) for share in (1.0, 0.5, 0.0))
    assert np.allclose(half, (whole + none) / 2, atol=1e-9)
    assert not np.allclose(whole, none, atol=0.05)
