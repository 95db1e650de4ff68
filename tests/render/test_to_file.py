"""A file is as loud as was wished, and no peak passes the ceiling, as it is heard: after the limiter, and decoded."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import soundfile

from fernbrook.audio.files.decoded import loudness_of
from fernbrook.audio.files.output import OutputFormat
from fernbrook.core.mix import commands as c
from fernbrook.core.track import Skip
from fernbrook.render.to_file import Rendering, render_to_file
from tests.conftest import Made
from tests.render.test_effects import steady, written
from tests.render.test_render import Deck
from tests.tones import RATE


def bursts(seconds: float, seed: int) -> np.ndarray:
    """Hits over a quiet bed: what a limiter has to do with when it is made loud."""
    rng = np.random.default_rng(seed)
    sound = 0.03 * rng.standard_normal((round(seconds * RATE), 2))
    decay = np.exp(-np.arange(RATE // 4) / (0.03 * RATE))[:, None]
    for at in range(0, len(sound) - RATE // 4, RATE // 2):
        sound[at : at + RATE // 4] += 0.8 * decay * rng.standard_normal((RATE // 4, 2)).clip(-1, 1)
    return sound.clip(-1, 1)


@pytest.fixture(scope="module")
def deck(tmp_path_factory: pytest.TempPathFactory) -> Deck:
    folder = tmp_path_factory.mktemp("loud")
    one, two = written(folder, "one", bursts(24.0, 1), 120.0), written(folder, "two", bursts(24.0, 2), 120.0)
    return Deck(one, two).do(c.PlaceTransition(out_id="e1", in_id="e2", out_at=32.0, in_at=0.0, beats=8.0))


@pytest.fixture(scope="module")
def music(first: Made) -> Deck:
    """Two phrases of a track at its own tempo."""
    deck = Deck(first)
    return deck.do(c.PutEdits(entry_id="e1", edits=(Skip(id="s", start=64.0, end=1000.0),)))


LOSSY = [OutputFormat.MP3_320, OutputFormat.VORBIS, OutputFormat.OPUS, OutputFormat.AAC]


@pytest.mark.parametrize(
    ("output", "wished"),
    [(OutputFormat.WAV_24, -24.0), (OutputFormat.FLAC_16, -9.0), *((o, w) for o in LOSSY for w in (-20.0, -12.0))],
)
def test_what_is_heard_is_as_loud_as_was_wished(
    music: Deck, tmp_path: Path, output: OutputFormat, wished: float
) -> None:
    deck = music
    target = tmp_path / f"mix{output.suffix}"
    shares: list[float] = []
    render_to_file(deck.plan, deck.paths, target, output, shares.append, Rendering(loudness_lufs=wished))
    heard = loudness_of(target)
    assert heard.integrated_lufs == pytest.approx(wished, abs=0.1)
    assert heard.true_peak_dbtp <= -1.0 + 0.1
    assert shares == sorted(shares)
    assert shares[-1] == 1.0
    assert [p.name for p in tmp_path.iterdir()] == [target.name]


@pytest.mark.parametrize("output", [OutputFormat.MP3_V0, OutputFormat.MP3_320, OutputFormat.OPUS])
def test_the_ceiling_holds_for_what_is_decoded(tmp_path: Path, output: OutputFormat) -> None:
    loud = written(tmp_path, "loud", (steady(seconds=12.0) * 8).clip(-1, 1), 120.0)
    target = tmp_path / f"mix{output.suffix}"
    render_to_file(Deck(loud).plan, Deck(loud).paths, target, output, lambda _: None, Rendering(ceiling_dbtp=-1.0))
    assert loudness_of(target).true_peak_dbtp <= -1.0 + 0.1


def test_what_loses_nothing_and_has_no_wish_is_what_is_heard(deck: Deck, tmp_path: Path) -> None:
    target = tmp_path / "mix.wav"
    render_to_file(deck.plan, deck.paths, target, OutputFormat.WAV_32_FLOAT, lambda _: None)
    assert np.array_equal(soundfile.read(target, dtype="float32")[0], deck.render())


@pytest.mark.parametrize("wished", [-14.0, -9.0])
def test_what_the_limiter_takes_of_hits_is_made_up_for(deck: Deck, tmp_path: Path, wished: float) -> None:
    target = tmp_path / "mix.wav"
    render_to_file(deck.plan, deck.paths, target, OutputFormat.WAV_24, lambda _: None, Rendering(loudness_lufs=wished))
    assert loudness_of(target).integrated_lufs == pytest.approx(wished, abs=0.1)


def test_silence_and_a_part_and_what_cannot_be_reached_are_written_all_the_same(deck: Deck, tmp_path: Path) -> None:
    part = Rendering(spans=((5 * RATE, 9 * RATE),), loudness_lufs=-16.0)
    render_to_file(deck.plan, deck.paths, tmp_path / "a.wav", OutputFormat.WAV_24, lambda _: None, part)
    assert soundfile.info(tmp_path / "a.wav").frames == 4 * RATE
    assert loudness_of(tmp_path / "a.wav").integrated_lufs == pytest.approx(-16.0, abs=0.1)
    joined = Rendering(spans=((0, 5 * RATE), (9 * RATE, 14 * RATE)), loudness_lufs=-16.0)
    render_to_file(deck.plan, deck.paths, tmp_path / "b.wav", OutputFormat.WAV_24, lambda _: None, joined)
    assert loudness_of(tmp_path / "b.wav").integrated_lufs == pytest.approx(-16.0, abs=0.1)
    quiet = written(tmp_path, "quiet", np.zeros((6 * RATE, 2)), 120.0)
    for wished in (-9.0, -5.0):
        how = Rendering(loudness_lufs=wished)
        render_to_file(
            Deck(quiet).plan, Deck(quiet).paths, tmp_path / "c.wav", OutputFormat.WAV_24, lambda _: None, how
        )
    render_to_file(
        deck.plan, deck.paths, tmp_path / "d.wav", OutputFormat.WAV_24, lambda _: None, Rendering(loudness_lufs=-5.0)
    )
    assert loudness_of(tmp_path / "d.wav").true_peak_dbtp <= -0.9
