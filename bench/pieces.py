"""Pieces that hurt: composed by code, played by a General MIDI synthesiser, every beat known.

Not the demo's generator: shuffles in twelve-eight, swing with brushes, six-eight, waltzes with hemiolas, half-time
choruses, four on the floor at 175, one-drop, two-step, rolling breaks, gallops, fills, ballads without drums. Pieces
with an even number may be fitted to; the others are held back and only reported. Needs Debian's ``fluidsynth`` and
``fluid-soundfont-gm``.
"""

from __future__ import annotations

import shutil
import subprocess
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from bench.styles import CRASH, DRUMS, LOW_TOM, SNARE, STRAIGHT, STYLES, THIRD, THIRDS, THREES, TOM, Bar, Notes

FOLDER = Path(__file__).parents[1] / ".demo" / "pieces"
SOUNDFONT = Path("/usr/share/sounds/sf2/FluidR3_GM.sf2")
RATE = 44_100
TICKS = 960
"""Of a quarter note; the score counts 120 of those a minute, whatever the tempo: a tick is half a millisecond."""
LEAD_IN_S = 0.3
PROGRESSIONS = (
    (0, 0, 0, 0, 5, 5, 0, 0, 7, 5, 0, 7),
    (0, 5, 7, 5),
    (0, 7, 9, 5),
    (2, 7, 0, 9),
    (0, 0, 10, 5),
    (0, 8, 3, 10),
    (0, 0, 0, 0),
    (0, 0, 5, 5, 0, 0, 7, 7),
)


@dataclass(frozen=True)
class Piece:
    """One piece: how its bars are made, how fast, how loosely."""

    number: int
    style: str
    bpm: float
    per_bar: int = 4
    bars: int = 36
    loose_s: float = 0.004
    programs: tuple[int, int, int] = (33, 27, 0)
    minor: bool = False
    felt: tuple[float, ...] = (1.0,)
    """Multiples of the written tempo that are felt as well."""
    tones: str = ""
    """The style of all but the drums, where it is another one."""
    levels: tuple[int, int, int, int] = (100, 100, 100, 100)
    """Volumes of bass, chords, lead and drums, of 127."""

    @property
    def name(self) -> str:
        return f"{self.number:02d} {self.style} {self.bpm:g}"

    @property
    def path(self) -> Path:
        return FOLDER / f"{self.name}.flac"

    @property
    def beats_s(self) -> NDArray[np.float64]:
        """Every beat as written."""
        return np.asarray(LEAD_IN_S + np.arange(self.bars * self.per_bar, dtype=np.float64) * 60.0 / self.bpm)


_PLAYED: tuple[tuple[str, tuple[float, ...], dict[str, object]], ...] = (
    ("rock", (92.0, 118.0, 144.3, 168.0), {"programs": (33, 29, 30)}),
    ("punk", (174.0, 186.0, 196.0), {"programs": (34, 30, 29), "felt": (1.0, 0.5)}),
    ("double kick", (152.0, 180.5), {"programs": (34, 30, 30), "felt": (1.0, 0.5)}),
    ("gallop", (126.0, 160.0), {"programs": (34, 30, 30), "minor": True}),
    ("shuffle", (88.0, 112.0, 128.0, 156.0), {"programs": (33, 26, 66)}),
    ("slow blues", (62.0, 74.0), {"bars": 24, "programs": (33, 16, 26)}),
    ("swing", (108.0, 132.0, 164.0, 192.0), {"programs": (32, 0, 65), "loose_s": 0.009, "felt": (1.0, 0.5)}),
    ("jazz waltz", (118.0, 150.0), {"per_bar": 3, "programs": (32, 0, 11), "loose_s": 0.008}),
    ("waltz", (96.0, 168.0), {"per_bar": 3, "programs": (32, 21, 40)}),
    ("hemiola", (126.0, 104.0), {"per_bar": 3, "programs": (33, 24, 73)}),
    ("six-eight", (58.0, 72.5), {"per_bar": 2, "bars": 44, "programs": (33, 25, 40), "felt": (1.0, 2.0)}),
    ("funk", (96.0, 104.0, 112.5), {"programs": (36, 27, 61)}),
    ("floor", (124.0, 140.0, 172.0, 178.0), {"programs": (38, 81, 80), "loose_s": 0.0, "minor": True}),
    ("one drop", (72.0, 78.0), {"programs": (33, 27, 16), "felt": (1.0, 2.0)}),
    ("two-step", (132.0, 136.0), {"programs": (38, 4, 80), "loose_s": 0.002, "minor": True}),
    ("breaks", (164.0, 174.0), {"programs": (38, 89, 80), "loose_s": 0.002, "minor": True, "felt": (1.0, 0.5)}),
    ("half-time", (140.0, 92.0), {"programs": (34, 30, 29), "felt": (1.0, 0.5)}),
    ("bossa", (126.0, 144.0), {"programs": (32, 24, 73), "felt": (1.0, 0.5)}),
    ("train", (104.0, 116.0), {"programs": (32, 25, 105), "felt": (1.0, 2.0)}),
    ("ballad", (68.0, 84.0), {"programs": (32, 0, 40), "bars": 26, "loose_s": 0.006, "felt": (1.0, 2.0)}),
    ("comping", (94.0, 122.0), {"programs": (32, 4, 56), "loose_s": 0.006}),
    ("soul", (84.0, 98.0), {"programs": (33, 16, 66)}),
)
PIECES: tuple[Piece, ...] = tuple(
    Piece(number, style, bpm, **more)  # type: ignore[arg-type]
    for number, (style, bpm, more) in enumerate((s, b, m) for s, tempi, m in _PLAYED for b in tempi)
)


def crossed(count: int, seed: int = 7) -> tuple[Piece, ...]:
    """Pieces for fitting: the drums of one style with the tones of another, at any tempo, level and sound."""
    rng = np.random.default_rng(seed)
    pieces = []
    for i in range(count):
        group, per_bar = ((STRAIGHT, 4), (STRAIGHT, 4), (THIRDS, 4), (THREES, 3))[i % 4 if i % 8 != 7 else 0]
        names = list(group)
        drums, tones = (names[int(rng.integers(len(names)))] for _ in range(2))
        low, high = (max(group[drums][0], group[tones][0]), min(group[drums][1], group[tones][1]))
        if high < low * 1.05:
            tones, (low, high) = drums, group[drums]
        pieces.append(
            Piece(
                number=100 + i,
                style=drums,
                bpm=round(float(low * (high / low) ** rng.uniform()), int(rng.integers(0, 3))),
                per_bar=per_bar,
                bars=28,
                loose_s=float(rng.choice([0.0, 0.003, 0.006, 0.010])),
                programs=(
                    int(rng.choice([32, 33, 34, 36, 38])),
                    int(rng.choice([0, 4, 16, 24, 26, 29, 30, 48, 89])),
                    int(rng.choice([11, 40, 56, 65, 73, 80, 81])),
                ),
                minor=bool(rng.integers(2)),
                tones=tones,
                levels=(
                    int(rng.integers(80, 125)),
                    int(rng.integers(70, 120)),
                    int(rng.integers(60, 120)),
                    int(rng.integers(75, 127)),
                ),
            )
        )
    return tuple(pieces)


def composed(piece: Piece) -> Notes:
    """All notes of a piece, in beats, as its players mean them."""
    rng = np.random.default_rng(1000 + piece.number)
    chords = PROGRESSIONS[piece.number % len(PROGRESSIONS)]
    key = (piece.number * 7 + 2) % 12
    make = STYLES[piece.style]
    notes: Notes = []
    for number in range(piece.bars):
        bar = Bar(
            start=float(number * piece.per_bar),
            number=number,
            root=key + chords[number // (2 if len(chords) == 4 and piece.number % 3 == 0 else 1) % len(chords)],
            third=3 if piece.minor else 4,
            rng=rng,
            drums=number >= (0, 2, 4, 8)[piece.number % 4] and piece.style not in ("ballad", "comping"),
            full=number // 8 % 3 != 0,
        )
        make(bar)
        if piece.tones and piece.tones != piece.style:
            beaten = [n for n in bar.notes if n[2] == DRUMS]
            bar.notes = []
            STYLES[piece.tones](bar)
            bar.notes = beaten + [n for n in bar.notes if n[2] != DRUMS]
        if bar.drums and number % 8 == 7 and piece.per_bar == 4 and piece.style not in ("ballad", "comping"):
            bar.notes = [n for n in bar.notes if not (n[2] == DRUMS and n[0] >= bar.start + 3)]
            for i, at in enumerate(np.arange(3, 4, THIRD if piece.style in ("shuffle", "swing", "soul") else 0.25)):
                bar.hit((SNARE, TOM, TOM, LOW_TOM)[i % 4], float(at), v=100)
        if bar.drums and number % 8 == 0:
            bar.hit(CRASH, 0, v=96)
        notes += bar.notes
    return notes


def made(pieces: tuple[Piece, ...] = PIECES) -> tuple[Piece, ...]:
    """The pieces, played where they were not yet; none where the synthesiser or its sounds are missing."""
    if not are_playable():
        return ()
    FOLDER.mkdir(parents=True, exist_ok=True)
    with ThreadPoolExecutor(2) as pool:
        list(pool.map(lambda p: play(p, composed(p), p.path), [p for p in pieces if not p.path.exists()]))
    return pieces


def are_playable() -> bool:
    """Whether the synthesiser and its sounds are there."""
    return shutil.which("fluidsynth") is not None and SOUNDFONT.exists()


def play(piece: Piece, notes: Notes, target: Path) -> None:
    """Play notes as a piece is played, into a file."""
    score, part = target.with_suffix(".mid"), target.with_suffix(".part")
    _write_score(piece, notes, score)
    command = ["fluidsynth", "-ni", "-q", "-g", "0.5", "-r", str(RATE), "-T", "flac", "-F", str(part)]
    subprocess.run([*command, str(SOUNDFONT), str(score)], check=True, capture_output=True)
    score.unlink()
    part.rename(target)


def _write_score(piece: Piece, notes: Notes, path: Path) -> None:
    """Notes as a Standard MIDI File; its players are late or early a little."""
    import mido

    rng = np.random.default_rng(piece.number)
    tick_s = 60.0 / 120.0 / TICKS
    settings = [mido.Message("program_change", channel=c, program=p) for c, p in enumerate(piece.programs)]
    for channel, level in zip((0, 1, 2, DRUMS), piece.levels, strict=True):
        settings.append(mido.Message("control_change", channel=channel, control=7, value=level))
    events = [(0, 0, message) for message in settings]
    for at, length, channel, pitch, velocity in notes:
        start = LEAD_IN_S + at * 60.0 / piece.bpm + rng.normal(0, piece.loose_s)
        begin = max(1, round(start / tick_s))
        end = begin + max(1, round(length * 60.0 / piece.bpm / tick_s))
        events.append((begin, 2, mido.Message("note_on", channel=channel, note=pitch, velocity=velocity)))
        events.append((end, 1, mido.Message("note_off", channel=channel, note=pitch)))
    track, now = mido.MidiTrack(), 0
    for tick, _, message in sorted(events, key=lambda e: e[:2]):
        track.append(message.copy(time=tick - now))
        now = tick
    mido.MidiFile(type=0, ticks_per_beat=TICKS, tracks=[track]).save(path)
