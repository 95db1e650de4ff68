"""The stretch by itself, along simple maps: what must not be heard of it, and that it may begin anywhere."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.signal import hilbert, oaconvolve
from scipy.signal.windows import blackmanharris

from fernbrook.audio.stretch.attacks import find_attacks
from fernbrook.audio.stretch.bands import CONTEXT, full_rate, split
from fernbrook.audio.stretch.held_map import HeldMap, Join
from fernbrook.audio.stretch.stretcher import HIGH_HOLD_S, HOP, LOW_HOLD_S, REACH, Stretcher
from tests import tones
from tests.listen import level_db
from tests.tones import RATE, Sound

BLOCK = 300
"""Frames of a block: 3.5 s."""


class Steady:
    """A map of one speed."""

    def __init__(self, speed: float) -> None:
        self.speed = speed

    def source_at(self, mix_times: np.ndarray) -> np.ndarray:
        return np.asarray(mix_times) * self.speed

    def mix_at(self, source_times: np.ndarray) -> np.ndarray:
        return np.asarray(source_times) / self.speed


def _stretcher(sound: Sound, speed: float, joins: tuple[Join, ...] = (), leave: int | None = None) -> Stretcher:
    def read(start: int, frames: int) -> np.ndarray:
        out = np.zeros((frames, 2), dtype=np.float32)
        begin, end = max(start, 0), min(start + frames, len(sound))
        if end > begin:
            out[begin - start : end - start] = sound[begin:end]
        return out

    last = int(len(sound) / speed / HOP) + 20
    lines = np.arange(-16, last, BLOCK)
    borders = np.concatenate((lines, [last])) if leave is None else np.array([*lines[lines < leave - 50], leave, last])
    return Stretcher(read, Steady(speed), borders, joins, RATE)


def _stretched(sound: Sound, speed: float) -> Sound:
    return _stretcher(sound, speed).render(0, int(len(sound) / speed) // HOP * HOP)


def _inner(sound: np.ndarray) -> np.ndarray:
    return sound[RATE // 2 : -RATE]


def test_speed_one_gives_back_the_source() -> None:
    noise = np.random.default_rng(0).uniform(-0.5, 0.5, (400 * HOP, 2)).astype(np.float32)
    assert np.abs(_stretched(noise, 1.0) - noise).max() < 2e-6


@settings(max_examples=15)
@given(st.floats(50, 2000), st.sampled_from([0.75, 0.96, 1.06, 1.33]))
def test_a_lone_tone_keeps_its_level_across_the_ends_of_blocks(hz: float, speed: float) -> None:
    sound = tones.stereo(0.4 * np.sin(2 * np.pi * hz * tones.seconds(10.0)))
    level = 20 * np.log10(np.abs(hilbert(_stretched(sound, speed)[:, 0])) / 0.4)
    assert np.abs(_inner(level)).max() < 0.1


@pytest.mark.parametrize(("root", "harmonics", "most_db"), [(82.4, 4, -33.0), (261.6, 4, -48.0)])
def test_nothing_sounds_between_the_partials_of_a_chord(root: float, harmonics: int, most_db: float) -> None:
    hz = tones.chord(root, harmonics)
    for speed in (0.96, 1.06):
        heard = _inner(_stretched(tones.partials(hz, 16.0), speed))[:, 0]
        power = np.abs(np.fft.rfft(heard * blackmanharris(len(heard)))) ** 2
        away = np.abs(np.fft.rfftfreq(len(heard), 1 / RATE)[:, None] - hz).min(axis=1) > 4.0
        assert 10 * np.log10(power[away].sum() / power.sum()) < most_db


def test_pitch_stays() -> None:
    heard = _inner(_stretched(tones.partials(np.array([330.0]), 8.0), 1.12))
    spectrum = np.abs(np.fft.rfft(heard[:, 0] * np.hanning(len(heard))))
    assert np.argmax(spectrum) * RATE / len(heard) == pytest.approx(330.0, abs=0.3)


def test_stereo_image_stands() -> None:
    wave = 0.4 * np.sin(2 * np.pi * 330.0 * tones.seconds(6.0))
    sound = np.stack([wave, 0.5 * np.roll(wave, 30)], axis=1).astype(np.float32)
    heard = _inner(_stretched(sound, 1.06))
    assert level_db(heard[:, 0]) - level_db(heard[:, 1]) == pytest.approx(6.02, abs=0.1)
    lag = np.argmax(np.correlate(heard[RATE : RATE + 4000, 1], heard[RATE + 60 : RATE + 3940, 0], "valid"))
    assert lag - 60 == pytest.approx(30, abs=1)


@pytest.mark.parametrize("speed", [0.75, 0.96, 1.06, 1.33])
def test_a_hat_between_beats_begins_as_sharply_as_it_did(speed: float) -> None:
    times = np.arange(1, 16) * 0.37
    heard = _stretched(tones.hats(times, 6.5), speed)
    for at in np.rint(times / speed * RATE).astype(int):
        before = level_db(heard[at - 1800 : at - 60])
        assert before < level_db(heard[at : at + 1800]) - 45.0
        first = np.flatnonzero(np.abs(heard[at - 200 : at + 400, 0]) > 0.05)[0] - 200
        assert abs(first) < 60


@pytest.mark.parametrize("speed", [0.75, 0.96, 1.06, 1.33])
def test_a_bass_drum_does_not_sound_before_it_is_hit(speed: float) -> None:
    times = np.arange(1, 12) * 0.5
    heard = _stretched(tones.kicks(times, 6.5), speed)
    for at in np.rint(times / speed * RATE).astype(int):
        hit = level_db(heard[at : at + 2600])
        left_of_the_last = 20 * np.log10(np.exp(-(0.5 / speed - 0.06) / 0.12))
        assert level_db(heard[at - 2600 : at - 20]) < max(hit - 26.0, hit + left_of_the_last + 3.0)


def test_where_it_meets_a_copy_every_partial_keeps_its_level() -> None:
    hz = tones.chord(220.0, 3)
    sound = tones.partials(hz, 14.0)
    speed, leave_s = 0.96, 6.0
    leave = round(leave_s * RATE) // HOP
    joins = (Join(leave_s, (REACH + HOP) / RATE, np.inf),)
    heard = _stretcher(sound, speed, joins, leave).render(0, 9 * RATE // HOP * HOP)
    lead = round(leave_s * speed * RATE) - round(leave_s * RATE)
    after = round(leave_s * RATE) + REACH
    assert np.abs(heard[after : after + RATE] - sound[after + lead :][:RATE]).max() < 1e-4
    n = np.arange(len(heard))
    for f in hz:
        window = np.hanning(RATE // 2)
        level = np.abs(
            oaconvolve(heard[5 * RATE :, 0] * np.exp(-2j * np.pi * f * n[5 * RATE :] / RATE), window, "valid")
        )
        assert np.abs(20 * np.log10(level / level[-1])).max() < 0.5


@settings(max_examples=12)
@given(st.integers(0, 700 * HOP), st.integers(1, 20_000))
def test_rendering_may_begin_anywhere(start: int, length: int) -> None:
    fresh = _stretcher(_NOISE, 1.05).render(start, start + length)
    assert np.array_equal(fresh, _WHOLE[start : start + length])


_NOISE = np.random.default_rng(1).uniform(-0.5, 0.5, (9 * RATE, 2)).astype(np.float32)
_WHOLE = _stretcher(_NOISE, 1.05).render(0, 740 * HOP)


def test_silence_stays_silent_and_sound_returns_after_it() -> None:
    sound = tones.partials(np.array([440.0]), 6.0)
    sound[RATE : 2 * RATE] = 0.0
    heard = _stretched(sound, 1.03)
    assert not np.abs(heard[round(1.2 * RATE) : round(1.75 * RATE)]).max() > 1e-6
    assert level_db(heard[3 * RATE : 4 * RATE]) == pytest.approx(level_db(sound[3 * RATE : 5 * RATE]), abs=0.2)


def test_blocks_need_two_borders_in_order() -> None:
    with pytest.raises(ValueError, match="two borders"):
        Stretcher(lambda _, n: np.zeros((n, 2), np.float32), Steady(1.0), np.array([5]), (), RATE)


def test_the_bands_are_in_sum_the_signal() -> None:
    noise = np.random.default_rng(2).uniform(-0.5, 0.5, (2, 20_000)).astype(np.float32)
    _, low, first, high = split(noise, 1003)
    begin = first - 1003
    assert begin <= CONTEXT
    assert np.abs(high + full_rate(low) - noise[:, begin : begin + high.shape[1]]).max() < 1e-6


def test_attacks_are_found_where_they_are_and_nowhere_else() -> None:
    times = np.arange(1, 16) * 0.37 + 0.011
    pad = tones.partials(tones.pad(), 7.0)
    for sound in (tones.hats(times, 7.0, level=0.1) + pad, tones.kicks(times, 7.0) + pad):
        found = find_attacks(np.ascontiguousarray(sound.T), 0) / RATE
        late = found[np.abs(found[:, None] - times).argmin(axis=0)] - times
        assert np.abs(late).max() < 0.004
        assert len(found) <= len(times) + 2
    for still in (pad, tones.voice(7.0), tones.partials(np.array([55.0, 110.0]), 7.0), _NOISE[: 7 * RATE]):
        assert len(find_attacks(np.ascontiguousarray(still.T), 0)) <= 3


def test_attacks_are_the_same_whatever_span_is_looked_at() -> None:
    sound = np.ascontiguousarray((tones.hats(np.arange(1, 30) * 0.21, 7.0) + tones.partials(tones.pad(), 7.0)).T)
    whole, part = find_attacks(sound, 0), find_attacks(sound[:, 70_001:220_000], 70_001)
    inside = (whole > 80_000) & (whole < 210_000)
    assert np.array_equal(whole[inside], part[(part > 80_000) & (part < 210_000)])


@given(
    st.floats(0.6, 1.7),
    st.lists(st.floats(0.0, 10.0), max_size=60).map(sorted),
    st.floats(0.005, 0.04),
)
def test_a_held_map_never_goes_back_nor_far_from_the_true_one(speed: float, attacks: list[float], hold: float) -> None:
    true = Steady(speed)
    joins = (Join(8.0 / speed, 0.1, np.inf),)
    held = HeldMap(true, np.array(attacks), joins, hold)
    times = np.linspace(-0.5, 8.0 / speed, 6000)
    source = held.source_at(times)
    assert np.all(np.diff(source) > -1e-9)
    assert np.abs(source - true.source_at(times)).max() <= abs(speed - 1.0) * max(hold, 0.1) + 1e-9
    alone = [a for a in attacks if all(abs(a - b) > 0.4 for b in attacks if b != a) and attacks.count(a) == 1 and a < 7]
    for a in alone:
        at = a / speed
        around = held.source_at(np.array([at - hold, at, at + hold]))
        assert np.allclose(around, [a - hold, a, a + hold], atol=1e-9)


@given(
    st.floats(0.12, 4.0),
    st.lists(st.floats(0.02, 0.6), min_size=1, max_size=30),
    st.sampled_from([LOW_HOLD_S, HIGH_HOLD_S]),
    st.booleans(),
)
def test_however_much_a_track_is_slowed_its_map_rises(
    speed: float, apart_s: list[float], hold_s: float, meets: bool
) -> None:
    """A map that stood still for a hop would have a partial turn by nothing in no time."""
    attacks = np.cumsum(apart_s)
    length_s = (attacks[-1] + 0.5) / speed
    joins = [Join(0.0, np.inf, REACH / RATE)] if meets else []
    held = HeldMap(Steady(speed), attacks, joins, hold_s)
    times = np.arange(0.0, length_s, HOP / RATE)
    assert np.diff(held.source_at(times)).min(initial=1.0) > 0.0


def test_a_stretch_that_is_shorter_than_what_its_joins_hold_is_heard() -> None:
    rng = np.random.default_rng(2)
    sound = (0.1 * rng.standard_normal((4 * RATE, 2))).astype(np.float32)

    def read(start: int, frames: int) -> np.ndarray:
        padded = np.zeros((frames, 2), np.float32)
        low, high = max(start, 0), min(start + frames, len(sound))
        padded[low - start : high - start] = sound[low:high]
        return padded

    for speed in (0.3, 0.5, 0.9, 1.3, 3.0):
        for length in (2, 5, 9, 20, 40):
            borders = np.array([60, 80 + length])
            joins = [Join(70 * HOP / RATE, np.inf, REACH / RATE), Join((70 + length) * HOP / RATE, 0.1, np.inf)]
            made = Stretcher(read, Steady(speed), borders, joins, RATE).render(50 * HOP, 130 * HOP)
            assert np.isfinite(made).all()
            assert np.abs(made).max() > 0.01
