"""Thirty short tracks of all kinds, made to measure the analysis with: what each is, and the truth about it."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from multiprocessing import get_context
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from scipy.signal import lfilter

from fernbrook.audio.pace import interpolate, margin
from fernbrook.demo import make
from fernbrook.demo.song import Section, Song, Truth
from fernbrook.demo.tones import RATE

FOLDER = Path(__file__).parents[1] / ".demo" / "battery"
WOBBLE_HZ = 33.3 / 60.0
Sound = NDArray[np.float32]


def _sections(text: str) -> tuple[Section, ...]:
    """``"beat 8, full 16"`` as sections."""
    return tuple(Section(kind, int(bars)) for kind, bars in (part.split() for part in text.split(", ")))


CLUB = _sections("beat 8, bass 8, full 16, break 8, full 16, outro 8")
ROCK = _sections("full 8, bass 8, full 16, break 4, full 16, outro 4")


def _noisy(sound: Sound) -> Sound:
    """Hiss and rumble 18 dB under the music."""
    rng = np.random.default_rng(5)
    hiss = rng.standard_normal(sound.shape)
    rumble = lfilter([0.02], [1.0, -0.98], rng.standard_normal(sound.shape), axis=0) * 4.0
    level = float(np.sqrt(np.mean(sound**2))) * 10.0 ** (-18.0 / 20.0)
    return np.asarray(sound + level * (hiss + rumble) / np.std(hiss + rumble), dtype=np.float32)


def _eight_bit(sound: Sound) -> Sound:
    """Eight bits at 22 kHz, steps held."""
    held = np.repeat(sound[::2], 2, axis=0)[: len(sound)]
    return np.asarray(np.round(held * 127.0) / 127.0, dtype=np.float32)


def _wobbling(sound: Sound) -> Sound:
    """A turntable whose platter is off its centre: 0.25 % of speed, up and down once a turn."""
    n = np.arange(len(sound))
    sway = 0.0025 / (2.0 * np.pi * WOBBLE_HZ) * np.sin(2.0 * np.pi * WOBBLE_HZ * n / RATE)
    pad = margin() + round(0.01 * RATE)
    return interpolate(np.pad(sound, ((pad, pad + 2), (0, 0))), n + sway * RATE + pad).astype(np.float32)


@dataclass(frozen=True)
class Case:
    """One track of the battery."""

    kind: str
    song: Song
    spoil: Callable[[Sound], Sound] | None = None

    @property
    def path(self) -> Path:
        return FOLDER / self.song.file

    def truth(self) -> Truth:
        return make.read_truth(FOLDER, self.song)


def _case(number: int, kind: str, bpm: float, spoil: Callable[[Sound], Sound] | None = None, **recipe: object) -> Case:
    base = Song(
        title=kind,
        artist="Battery",
        bpm=bpm,
        tonic=(number * 5 + 2) % 12,
        minor=number % 3 != 0,
        chords=((0, 5, 3, 4), (0, 3, 5, 4), (0, 6, 5, 6), (0, 3, 6, 2))[number % 4],
        sections=CLUB,
        seed=100 + number,
        file=f"{number:02d} {kind}.flac",
        tone=(number * 0.37) % 1.0,
    )
    return Case(kind, replace(base, **recipe), spoil)  # type: ignore[arg-type]


CASES: tuple[Case, ...] = (
    _case(1, "slow broken", 70.0, beat="broken", sections=_sections("beat 4, full 16, break 4, full 16, outro 4")),
    _case(2, "slow rock", 82.0, beat="rock", sections=ROCK),
    _case(3, "swing", 126.0, swing=0.3),
    _case(4, "half-time", 140.0, beat="half"),
    _case(5, "fast broken", 174.0, beat="broken"),
    _case(6, "odd tempo", 165.3, beat="broken"),
    _case(7, "hundredths", 123.45),
    _case(8, "syncopated", 126.0, beat="syncopated"),
    _case(9, "sparse", 110.0, beat="sparse"),
    _case(10, "long pads", 100.0, sections=_sections("beat 8, full 8, break 24, beatless 8, full 16, outro 8")),
    _case(11, "noise", 118.0, _noisy),
    _case(12, "eight bits", 132.0, _eight_bit),
    _case(13, "wobble", 124.0, _wobbling),
    _case(14, "live rock", 104.0, beat="rock", wander=0.012, loose_s=0.006, sections=ROCK),
    _case(15, "live broken", 92.0, beat="broken", wander=0.02, loose_s=0.008, sections=ROCK),
    _case(16, "faster in the middle", 120.0, second_bpm=126.0),
    _case(17, "slower in the middle", 150.0, beat="rock", second_bpm=138.0, sections=ROCK),
    _case(18, "pick-up", 130.0, pick_up_beats=1.5),
    _case(19, "long pick-up", 108.0, beat="syncopated", pick_up_beats=3.0),
    _case(20, "waltz", 96.0, beat="waltz"),
    _case(21, "fast rock", 160.0, beat="rock", sections=ROCK, drive=3.0),
    _case(22, "faster rock", 180.0, beat="rock", sections=ROCK, drive=3.0),
    _case(23, "loud", 145.0, drive=6.0, peak_db=-0.1),
    _case(24, "slow syncopated", 98.7, beat="syncopated"),
    _case(25, "beatless start", 128.0, intro_s=40.0),
    _case(26, "sung", 112.0, sings=True, minor=False),
    _case(27, "sung rock", 136.0, beat="rock", sings=True, sections=ROCK),
    _case(28, "live four", 122.0, wander=0.008, loose_s=0.004),
    _case(29, "slow swing", 90.0, beat="broken", swing=0.25),
    _case(30, "half a beat in", 134.5, beat="syncopated", pick_up_beats=0.5),
)


def made() -> tuple[Case, ...]:
    """All cases, their files made over all cores where they are not there yet."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    with ProcessPoolExecutor(mp_context=get_context("spawn")) as pool:
        list(pool.map(_made, range(len(CASES))))
    return CASES


def _made(number: int) -> None:
    case = CASES[number]
    make.make_once(case.song, FOLDER, case.spoil)
