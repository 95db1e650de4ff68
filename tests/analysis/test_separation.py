"""Taking tracks apart: on made songs whose stems are known."""

from __future__ import annotations

from functools import cache

import numpy as np
import pytest

from fernbrook.analysis.separation import voice
from fernbrook.analysis.separation.bands import split
from fernbrook.analysis.separation.masking import against_the_rest, masked
from fernbrook.analysis.separation.pitch import pitched
from fernbrook.analysis.separation.separate import Separated, separate
from fernbrook.analysis.separation.slots import Slots
from fernbrook.analysis.voice import weights
from fernbrook.core.track import Grid, Section, SectionKind, VoiceSpan
from fernbrook.core.track.grid import Anchor

RATE = 44_100
BPM = 120.0
GRID = Grid.constant(BPM, 0.0)
BARS = 24
BAR_S = 4 * 60.0 / BPM
CLEAN = (Section(kind=SectionKind.BEAT, start=0.0, end=32.0), Section(kind=SectionKind.FULL, start=32.0, end=96.0))
SUNG = (VoiceSpan(start=56.0, end=64.0), VoiceSpan(start=72.0, end=80.0))


WANDERING = tuple(Anchor(time_s=t, beat=b) for t, b in ((0.31, 0.0), (2.0, 4.0), (4.9, 8.0), (7.1, 15.0)))


def si_sdr(found: np.ndarray, truth: np.ndarray) -> float:
    """How far a stem stands above what is wrong with it, in dB, whatever its level (J. Le Roux et al., SDR: half-baked
    or well done?, ICASSP 2019)."""
    e, r = found.ravel().astype(float), truth.ravel().astype(float)
    target = np.dot(e, r) / np.dot(r, r) * r
    return float(10 * np.log10(np.dot(target, target) / np.dot(e - target, e - target)))


@cache
def song() -> dict[str, np.ndarray]:
    """Eight bars of drums alone, then bass and chords as well, and two phrases of a voice."""
    rng = np.random.default_rng(7)
    n = round(BARS * BAR_S * RATE)
    t = np.arange(n) / RATE
    drums, bass, chords = np.zeros(n), np.zeros(n), np.zeros(n)
    hit = np.arange(round(0.3 * RATE)) / RATE
    kick = np.exp(-hit * 12) * np.sin(2 * np.pi * (50 * hit + 3 * (1 - np.exp(-hit * 40))))
    hat = np.exp(-hit * 60) * np.diff(rng.standard_normal(len(hit) + 1))
    for beat in range(BARS * 4):
        for sound, offset, level in ((kick, 0.0, 0.8), (hat, 0.5, 0.15)):
            at = round(((beat + offset) * 60 / BPM + rng.normal(0, 0.001)) * RATE)
            if 0 <= at < n - len(hit):
                drums[at : at + len(hit)] += level * rng.uniform(0.9, 1.0) * sound
    roots = [55.0, 65.4, 49.0, 73.4]
    for bar in range(8, BARS):
        span = slice(round(bar * BAR_S * RATE), round((bar + 1) * BAR_S * RATE))
        root = roots[bar % 4]
        bass[span] = 0.25 * np.sin(2 * np.pi * root * t[span])
        chords[span] = sum(0.08 * np.sin(2 * np.pi * root * k * t[span] + k) for k in (4, 5, 6, 8, 10))
    voice = np.zeros(n)
    for start, end in ((s.start, s.end) for s in SUNG):
        span = slice(round(start * 0.5 * RATE), round(end * 0.5 * RATE))
        pitch = 330 * 2 ** (np.sin(2 * np.pi * 5.5 * t[span]) / 24 + np.floor(t[span] * 2) % 3 / 6)
        phase = 2 * np.pi * np.cumsum(pitch) / RATE
        voice[span] = sum(0.2 / k * np.sin(k * phase) for k in range(1, 8))
    return {k: np.repeat(v[:, None], 2, axis=1).astype(np.float32) for k, v in
            {"drums": drums, "bass": bass, "music": chords, "voice": voice}.items()}  # fmt: skip


def taken_apart(*, clean: bool) -> Separated:
    sound = np.asarray(sum(song().values()), dtype=np.float32)
    return separate(sound, GRID, CLEAN if clean else CLEAN[1:], SUNG, RATE)


@pytest.mark.slow
@pytest.mark.parametrize(("clean", "drums", "bass"), [(True, 12.0, 9.0), (False, 7.0, 4.0)])
def test_drums_and_bass_come_apart_best_where_drums_are_alone(clean: bool, drums: float, bass: float) -> None:
    found = taken_apart(clean=clean)
    assert found.is_clean is clean
    assert si_sdr(found.drums, song()["drums"]) > drums
    assert si_sdr(found.bass, song()["bass"]) > bass
    assert 0.0 < found.coherent <= 1.2


def test_a_note_that_is_held_with_vibrato_is_steady() -> None:
    a_bin, seconds = RATE / 2048, np.arange(200) * 512 / RATE
    hz = 220.0 * 2.0 ** (0.4 / 12 * np.sin(2 * np.pi * 5.5 * seconds))
    bins = np.arange(1025) * a_bin
    levels = sum(np.exp(-0.5 * ((bins[None] - k * hz[:, None]) / 22.0) ** 2) / k for k in range(1, 9))
    assert pitched(np.asarray(levels, np.float32), a_bin, 8000.0).steady.min() > 0.9


@pytest.mark.slow
@pytest.mark.parametrize("by_network", [True, False])
def test_the_voice_is_turned_down_where_somebody_sings_and_only_there(
    by_network: bool, monkeypatch: pytest.MonkeyPatch
) -> None:
    if by_network and not weights.are_installed():
        pytest.skip("the weights of the network are not installed")
    monkeypatch.setattr(voice, "are_installed", lambda: by_network)
    found = taken_apart(clean=True)
    assert found.by_network is by_network
    sung = slice(round(28.5 * RATE), round(31.5 * RATE))
    left = (sum(song().values()) - found.voice)[sung].ravel()

    def kept_db(name: str) -> float:
        part = song()[name][sung].ravel().astype(float)
        return float(20 * np.log10(abs(np.dot(left, part)) / np.dot(part, part)))

    assert kept_db("voice") < -8.0
    assert kept_db("music") > -3.0
    assert abs(kept_db("drums")) < 0.5
    assert not found.voice[: 20 * RATE].any()
    assert not found.voice[45 * RATE :].any()


def test_slots_and_bands_add_up_to_the_sound() -> None:
    sound = np.random.default_rng(1).standard_normal((4 * RATE, 2)).astype(np.float32)
    assert np.allclose(sum(split(sound, RATE)), sound, atol=1e-5)
    slots = Slots.of(Grid.constant(97.3, 0.31), len(sound), RATE)
    total = np.zeros(len(sound) + slots.length)
    for i in range(slots.count):
        window, begin = slots.window(i), int(slots.starts[i])
        if begin >= 0:
            total[begin : begin + len(window)] += window[: len(total) - begin]
    middle = total[RATE : 3 * RATE]
    assert np.allclose(middle, 1.0, atol=1e-6)


def test_a_pitch_is_followed_as_it_glides_and_what_lies_between_is_left() -> None:
    """Two octaves of a glide with eight harmonics, and a lone tone between them that is not sung."""
    a_bin, frames = RATE / 2048, 300
    hz = 150.0 * 2.0 ** (np.arange(frames) / frames * 1.5)
    bins = np.arange(1025) * a_bin
    levels = np.zeros((frames, 1025), np.float32)
    for k in range(1, 9):
        levels += np.exp(-0.5 * ((bins[None] - k * hz[:, None]) / 22.0) ** 2) / k
    levels += 0.4 * np.exp(-0.5 * ((bins[None] - 2.5 * hz[:, None]) / 22.0) ** 2)
    found = pitched(levels.astype(np.float32), a_bin, 8000.0)
    own = found.shares
    assert found.steady[40:-40].max() < 0.2
    rows = np.arange(20, frames - 20)
    on = [own[rows, np.rint(k * hz[rows] / a_bin).astype(int)].mean() for k in (1, 2, 3)]
    between = own[rows, np.rint(2.5 * hz[rows] / a_bin).astype(int)].mean()
    assert min(on) > 0.8
    assert between < 0.4
    assert not pitched(np.zeros((5, 1025), np.float32), a_bin, 8000.0).shares.any()


@pytest.mark.parametrize("first_beat_s", [0.0, 0.004, 0.0199, 0.0201, 0.13, 0.49, 3.7])
@pytest.mark.parametrize("bpm", [61.3, 122.0, 174.2])
def test_a_grid_may_begin_anywhere(first_beat_s: float, bpm: float) -> None:
    """The first slots reach before the sound: what is taken for them there is silence, and as long as they are."""
    rng = np.random.default_rng(3)
    sound = (0.1 * rng.standard_normal((round(9.3 * RATE), 2))).astype(np.float32)
    for grid in (Grid.constant(bpm, first_beat_s), Grid(anchors=WANDERING, bpm_before=bpm, bpm_after=bpm)):
        found = separate(sound, grid, (), (), RATE)
        assert found.drums.shape == found.bass.shape == found.voice.shape == sound.shape
        assert np.isfinite(found.drums).all()


def test_a_mask_that_lets_all_through_changes_nothing_and_two_that_share_add_up() -> None:
    rng = np.random.default_rng(8)
    sound = rng.standard_normal((30_000, 2)).astype(np.float32)
    guess = (sound * np.float32(0.7)).astype(np.float32)
    whole = masked(sound, guess, lambda _, spectra, __: np.ones(spectra.shape, np.float32))
    assert np.abs(whole - sound).max() < 1e-4
    one, rest = (masked(sound, g, against_the_rest) for g in (guess, sound - guess))
    assert np.abs(one + rest - sound).max() < 1e-4
