"""Club tracks of which the key is known: modes, loops that begin away from home, basses that stay, chords that do not.

A parallel seventh chord on every step has no key, so these are composed on the steps of a scale. A track is its drums,
a bass, chords and a lead in one mode; some have no chords, some a bass on one note under chords that move, some loops
that never begin on the tonic. Those with an even number may be fitted to; the others are held back and only reported.
"""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from bench.pieces import FOLDER as PIECES_FOLDER
from bench.pieces import Piece, are_playable, play
from bench.styles import CRASH, DRUMS, STYLES, Bar, Notes
from fernbrook.core.track import Grid, Key

FOLDER = PIECES_FOLDER.with_name("keyed")
LEAD_IN_S = 0.3
SCALES = {
    "minor": (0, 2, 3, 5, 7, 8, 10),
    "dorian": (0, 2, 3, 5, 7, 9, 10),
    "phrygian": (0, 1, 3, 5, 7, 8, 10),
    "harmonic": (0, 2, 3, 5, 7, 8, 11),
    "major": (0, 2, 4, 5, 7, 9, 11),
    "mixolydian": (0, 2, 4, 5, 7, 9, 10),
}
LOOPS = {
    "minor": (
        (0, 5, 2, 6), (0, 6, 5, 6), (0, 3, 5, 6), (0, 3, 0, 4), (0, 0, 5, 6), (0, 0, 0, 0), (5, 6, 0, 0), (0, 2, 6, 3),
    ),
    "dorian": ((0, 3, 0, 3), (0, 0, 3, 3), (0, 6, 3, 0), (0, 2, 3, 6)),
    "phrygian": ((0, 1, 0, 1), (0, 0, 1, 0), (0, 1, 6, 0)),
    "harmonic": ((0, 3, 4, 0), (0, 5, 4, 4), (0, 0, 4, 0)),
    "major": (
        (0, 4, 5, 3), (0, 3, 0, 4), (0, 3, 4, 3), (0, 5, 3, 4), (0, 0, 3, 3), (3, 4, 0, 0), (0, 2, 3, 4), (0, 0, 0, 0),
    ),
    "mixolydian": ((0, 6, 3, 0), (0, 0, 6, 3), (0, 6, 0, 3)),
}  # fmt: skip
"""Steps of the scale on which the chords of a loop stand."""
DRUMMED = ("floor", "techno", "two-step", "breaks", "half-time", "funk", "one drop")
TEMPI = {
    "floor": (116.0, 140.0), "techno": (126.0, 145.0), "two-step": (128.0, 138.0), "breaks": (160.0, 176.0),
    "half-time": (136.0, 150.0), "funk": (98.0, 118.0), "one drop": (70.0, 80.0),
}  # fmt: skip
FORM = ((8, "d"), (8, "db"), (16, "dbcl"), (8, "cl"), (16, "dbcl"), (8, "db"), (4, "d"))
"""Bars of each part, and which of drums, bass, chords and lead play in it."""


@dataclass(frozen=True)
class Keyed:
    """One track: what it plays, in which mode, on which tonic."""

    number: int
    mode: str
    tonic: int
    style: str
    bpm: float
    loop: tuple[int, ...]
    bars_each: int
    bass: str
    """``root``, ``pedal``, ``riff`` or ``none``."""
    chords: str
    """``triads``, ``sevenths``, ``power``, ``none``."""
    held: bool
    """Whether chords are held, or played as the style plays them."""
    programs: tuple[int, int, int]
    levels: tuple[int, int, int, int]
    lead: float

    @property
    def name(self) -> str:
        return f"{self.number:02d} {self.style} {self.mode}"

    @property
    def path(self) -> Path:
        return FOLDER / f"{self.name}.flac"

    @property
    def key(self) -> Key:
        """The truth: a mode with a minor third counts as minor."""
        return Key(tonic=self.tonic, minor=SCALES[self.mode][2] == 3)

    @property
    def grid(self) -> Grid:
        """The true grid."""
        return Grid.constant(self.bpm, LEAD_IN_S)


def _made_up(number: int) -> Keyed:
    rng = np.random.default_rng(9000 + number)
    mode = str(rng.choice(list(SCALES), p=[0.38, 0.12, 0.08, 0.06, 0.26, 0.1]))
    style = DRUMMED[int(rng.integers(len(DRUMMED)))]
    chords = str(rng.choice(["triads", "sevenths", "power", "none"], p=[0.45, 0.35, 0.1, 0.1]))
    bass = str(rng.choice(["root", "pedal", "riff", "none"], p=[0.45, 0.15, 0.32, 0.08]))
    return Keyed(
        number=number,
        mode=mode,
        tonic=int(rng.integers(12)),
        style=style,
        bpm=round(float(rng.uniform(*TEMPI[style])), 1),
        loop=LOOPS[mode][int(rng.integers(len(LOOPS[mode])))],
        bars_each=int(rng.choice([1, 2, 4], p=[0.4, 0.4, 0.2])),
        bass="riff" if chords == "none" else bass,
        chords=chords,
        held=bool(rng.integers(2)),
        programs=(
            int(rng.choice([33, 36, 38, 39, 87])),
            int(rng.choice([0, 4, 16, 50, 81, 89, 90])),
            int(rng.choice([11, 73, 80, 81, 5])),
        ),
        levels=(
            int(rng.integers(90, 125)),
            int(rng.integers(60, 115)),
            int(rng.integers(60, 110)),
            int(rng.integers(90, 127)),
        ),
        lead=float(rng.choice([0.0, 0.3, 0.6])),
    )


KEYED = tuple(_made_up(number) for number in range(240))


def composed(track: Keyed) -> Notes:
    """All notes of a track, in beats."""
    rng = np.random.default_rng(9500 + track.number)
    scale = SCALES[track.mode]
    riff = _riff(rng)
    notes: Notes = []
    number = 0
    for bars, plays in FORM:
        for n in range(bars):
            step = track.loop[number // track.bars_each % len(track.loop)]
            bar = Bar(start=number * 4.0, number=number, root=track.tonic, third=3, rng=rng)
            STYLES[track.style](bar) if track.style != "techno" else STYLES["floor"](bar)
            drums = [x for x in bar.notes if x[2] == DRUMS] if "d" in plays else []
            places = sorted({(x[0] - bar.start, x[1]) for x in bar.notes if x[2] == 1})
            bar.notes = drums
            if n == 0 and "d" in plays:
                bar.hit(CRASH, 0, v=96)
            if "b" in plays:
                _bass(bar, track, scale, step, riff)
            if "c" in plays and track.chords != "none":
                _chord(bar, track, scale, step, [(0.0, 3.9)] if track.held or not places else places)
            if "l" in plays and track.lead and number % 4 != 3:
                _lead(bar, track, scale, step)
            notes += bar.notes
            number += 1
    return notes


def _pitch(scale: tuple[int, ...], step: int) -> int:
    return scale[step % 7] + 12 * (step // 7)


def _riff(rng: np.random.Generator) -> list[tuple[float, float, int]]:
    """A bar of bass on steps around the chord's: places, lengths, steps from it."""
    places = sorted(rng.choice(np.arange(1, 16), int(rng.integers(3, 7)), replace=False) / 4.0)
    steps = rng.choice([0, 0, 0, 2, 4, 6, 7, -1], len(places))
    return [(0.0, 0.4, 0), *((float(p), 0.22, int(s)) for p, s in zip(places, steps, strict=True))]


def _low(track: Keyed, pitch: int) -> int:
    return 36 + (track.tonic + 4) % 12 - 4 + pitch


def _bass(bar: Bar, track: Keyed, scale: tuple[int, ...], step: int, riff: list[tuple[float, float, int]]) -> None:
    if track.bass == "none":
        return
    if track.bass == "riff":
        for at, length, away in riff:
            bar.note(0, _low(track, _pitch(scale, (step + away) if track.chords != "none" else away)), at, length, 100)
        return
    pitch = 0 if track.bass == "pedal" else _pitch(scale, step) - (12 if _pitch(scale, step) > 7 else 0)
    for at in (0.5, 1.5, 2.5, 3.5) if track.style in ("floor", "techno") else (0.0, 0.75, 2.5):
        bar.note(0, _low(track, pitch), at, 0.45, 100)


def _chord(bar: Bar, track: Keyed, scale: tuple[int, ...], step: int, places: list[tuple[float, float]]) -> None:
    tones = {"triads": (0, 2, 4), "sevenths": (0, 2, 4, 6), "power": (0, 4)}[track.chords]
    for at, length in places:
        for tone in tones:
            bar.note(1, 55 + (track.tonic + _pitch(scale, step + tone) - 7) % 12, at, length, 76)


def _lead(bar: Bar, track: Keyed, scale: tuple[int, ...], step: int) -> None:
    steps = (0, 1, 2, 4, 5) if scale[2] == 4 else (0, 2, 3, 4, 6)
    for at in np.arange(0, 4, 0.5):
        if bar.rng.random() < track.lead:
            choice = int(bar.rng.choice(steps)) if bar.rng.random() < 0.6 else step + int(bar.rng.choice((0, 2, 4)))
            bar.note(2, 67 + (track.tonic + _pitch(scale, choice)) % 12, float(at), 0.45, 82)


def made(some: tuple[Keyed, ...] = KEYED) -> tuple[Keyed, ...]:
    """The tracks, played where they were not yet; none where the synthesiser or its sounds are missing."""
    if not are_playable():
        return ()
    FOLDER.mkdir(parents=True, exist_ok=True)
    with ThreadPoolExecutor(2) as pool:
        list(pool.map(_make, [t for t in some if not t.path.exists()]))
    return some


def _make(track: Keyed) -> None:
    piece = Piece(track.number, track.style, track.bpm, loose_s=0.0, programs=track.programs, levels=track.levels)
    play(piece, composed(track), track.path)
