"""Club tracks of which every section is known: drums alone, breaks, rises, drops, in twelve styles.

Composed by code and played as ``bench/pieces.py`` are, drums and tones apart: so tones may duck under the bass drum,
and all of it is driven into a limiter, as records are. The bass drum of the same track is far stronger alone than under
everything else. Those with an even number may be tuned on; the others are held back and only reported.
"""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from functools import cached_property
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from scipy.signal import lfilter

from bench.pieces import FOLDER as PIECES_FOLDER
from bench.pieces import LEAD_IN_S, PROGRESSIONS, RATE, Piece, are_playable, play
from bench.styles import CLOSED, CRASH, DRUMS, KICK, OPEN, SHAKER, SNARE, STYLES, Bar, Notes
from fernbrook.core.track import Grid, Section, SectionKind

FOLDER = PIECES_FOLDER.with_name("arrangements")
Sound = NDArray[np.float32]
LIGHT = (CLOSED, SHAKER, OPEN)
"""Drums that may go on in a break."""


@dataclass(frozen=True)
class Arrangement:
    """One track: a style, the sections it goes through, how it is mixed."""

    number: int
    style: str
    bpm: float
    form: str
    """Kinds and bars, in order: ``beat 16, bass 8, full 32``."""
    programs: tuple[int, int, int]
    duck: float = 0.0
    """How much of the tones the bass drum takes away."""
    drive: float = 1.5
    kick: int = 100
    """The volume of the drums, of 127."""
    chords: int = 90
    pads: bool = False
    light: bool = False
    """Whether hats go on in breaks."""
    low_break: bool = False
    """Whether the bass goes on in breaks."""

    @property
    def name(self) -> str:
        return f"{self.number:02d} {self.style} {self.bpm:g}"

    @property
    def path(self) -> Path:
        return FOLDER / f"{self.name}.flac"

    @cached_property
    def parts(self) -> tuple[tuple[SectionKind, int], ...]:
        """Kinds and how many bars each lasts."""
        pairs = (part.split() for part in self.form.split(", "))
        return tuple((SectionKind(kind), int(bars)) for kind, bars in pairs)

    @property
    def sections(self) -> tuple[Section, ...]:
        """The truth."""
        found, at = [], 0.0
        for kind, bars in self.parts:
            found.append(Section(kind=kind, start=at, end=at + 4.0 * bars))
            at += 4.0 * bars
        return tuple(found)

    @property
    def grid(self) -> Grid:
        """The true grid."""
        return Grid.constant(self.bpm, LEAD_IN_S)


def _made_up(number: int) -> Arrangement:
    """An arrangement by its number: styles in turn, forms, sounds and levels by chance."""
    rng = np.random.default_rng(500 + number)
    style, low, high, programs = (
        ("floor", 118.0, 128.0, (38, 4, 80)),
        ("floor", 134.0, 142.0, (38, 81, 80)),
        ("techno", 128.0, 138.0, (39, 90, 81)),
        ("off-beat", 120.0, 128.0, (38, 16, 80)),
        ("breaks", 164.0, 176.0, (39, 89, 80)),
        ("two-step", 130.0, 136.0, (38, 4, 11)),
        ("half-time", 138.0, 144.0, (38, 90, 80)),
        ("off-beat", 136.0, 142.0, (39, 81, 81)),
        ("funk", 104.0, 116.0, (36, 7, 61)),
        ("techno", 122.0, 128.0, (38, 50, 11)),
        ("one drop", 70.0, 78.0, (33, 27, 16)),
        ("floor", 110.0, 118.0, (36, 5, 61)),
    )[number // 2 % 12]
    forms = (
        "beat 16, bass 8, full 16, break 8, rise 8, full 16, beat 16",
        "beat 8, full 16, break 16, full 16, bass 8, beat 8",
        "beatless 8, beat 8, bass 16, break 8, full 24, beat 8",
        "full 16, break 8, rise 4, full 16, break 16, full 8, beat 8",
        "bass 16, full 16, break 16, rise 8, full 16, bass 8, beatless 4",
        "beat 32, bass 16, full 24, break 8, full 16, beat 16",
    )
    return Arrangement(
        number=number,
        style=style,
        bpm=round(float(rng.uniform(low, high)), 2),
        form=forms[int(rng.integers(len(forms)))],
        programs=programs,
        duck=float(rng.choice([0.0, 0.3, 0.7])),
        drive=float(rng.choice([1.0, 2.0, 4.0])),
        kick=int(rng.integers(80, 127)),
        chords=int(rng.integers(70, 120)),
        pads=bool(rng.integers(2)),
        light=bool(rng.integers(3) == 0),
        low_break=bool(rng.integers(4) == 0),
    )


ARRANGEMENTS = tuple(_made_up(number) for number in range(36))


def made(some: tuple[Arrangement, ...] = ARRANGEMENTS) -> tuple[Arrangement, ...]:
    """The tracks, made where they were not yet; none where the synthesiser or its sounds are missing."""
    if not are_playable():
        return ()
    FOLDER.mkdir(parents=True, exist_ok=True)
    with ThreadPoolExecutor(2) as pool:
        list(pool.map(_make, [a for a in some if not a.path.exists()]))
    return some


def _composed(track: Arrangement) -> tuple[Notes, Notes, list[float]]:
    """Drums, tones, and the beats on which the bass drum falls."""
    rng = np.random.default_rng(2000 + track.number)
    chords = PROGRESSIONS[track.number % len(PROGRESSIONS)]
    drums: Notes = []
    tones: Notes = []
    number = 0
    for kind, bars in track.parts:
        for n in range(bars):
            root = (track.number * 5 + 2) % 12 + chords[number // 2 % len(chords)]
            bar = Bar(start=number * 4.0, number=number, root=root, third=3, rng=rng)
            _play_style(bar, track.style)
            if track.pads:
                bar.chord((0.0, 3.9), v=64)
            if kind is SectionKind.RISE:
                bar.notes = [x for x in bar.notes if x[2] == 1]
                step = 1.0 if n < bars // 2 else 0.5 if n < 3 * bars // 4 else 0.25
                bar.hit(SNARE, *np.arange(0, 4, step), v=50 + 60 * (n + 1) // bars)
                bar.hit(OPEN, *np.arange(0, 4, step), v=40 + 60 * (n + 1) // bars)
            if n == 0 and kind in (SectionKind.FULL, SectionKind.BREAK):
                bar.hit(CRASH, 0, v=100)
            drums += [x for x in bar.notes if x[2] == DRUMS and _is_hit(track, kind, x[3])]
            tones += [x for x in bar.notes if x[2] in _tones(track, kind)]
            number += 1
    return drums, tones, [x[0] for x in drums if x[3] == KICK]


def _play_style(bar: Bar, style: str) -> None:
    if style == "techno":
        bar.hit(KICK, 0, 1, 2, 3, v=118)
        bar.hit(CLOSED, *np.arange(0, 4, 0.25), v=60)
        bar.hit(OPEN, 0.5, 1.5, 2.5, 3.5, v=90)
        bar.bass(*((e, 0.2, 0) for e in np.arange(0.25, 4, 0.25) if e % 1), v=90)
        bar.chord((0.75, 0.2), (2.25, 0.2))
        bar.lead((0, 0.75, 1.5, 2.25, 3), 0.3, 0.5)
    elif style == "off-beat":
        bar.hit(KICK, 0, 1, 2, 3, v=100)
        bar.hit(OPEN, 0.5, 1.5, 2.5, 3.5, v=112)
        bar.hit(SNARE, 1, 3, v=70)
        bar.bass(*((e + 0.5, 0.45, 0) for e in range(4)), v=118)
        bar.chord(*((e + 0.5, 0.4) for e in range(4)), v=84)
        bar.lead((0.5, 1.5, 2.5, 3.5), 0.4, 0.5)
    else:
        STYLES[style](bar)


def _is_hit(track: Arrangement, kind: SectionKind, drum: int) -> bool:
    if kind in (SectionKind.BREAK, SectionKind.BEATLESS):
        return drum == CRASH or (kind is SectionKind.BREAK and track.light and drum in LIGHT)
    return True


def _tones(track: Arrangement, kind: SectionKind) -> tuple[int, ...]:
    if kind is SectionKind.BEAT:
        return ()
    if kind is SectionKind.BASS:
        return (0,)
    if kind is SectionKind.BREAK:
        return (0, 1, 2) if track.low_break else (1, 2)
    return (1,) if kind in (SectionKind.BEATLESS, SectionKind.RISE) else (0, 1, 2)


def stems(track: Arrangement) -> dict[str, Sound]:
    """Drums, bass and music of a track before they are driven into the limiter, so that they add up; shape (n, 2)."""
    drums, tones, kicks = _composed(track)
    length = _length(track)
    ducked = _ducked(track, kicks, length)[:, None]
    bass, music = ([x for x in tones if (x[2] == 0) is low] for low in (True, False))
    parts = {
        "drums": _played(track, drums, "drums"),
        "bass": _played(track, bass, "bass") * ducked,
        "music": _played(track, music, "music") * ducked,
    }
    scale = np.float32(0.5 / max(float(np.percentile(np.abs(np.asarray(sum(parts.values()))), 99.9)), 1e-6))
    return {name: part * scale for name, part in parts.items()}


def _make(track: Arrangement) -> None:
    import soundfile

    drums, tones, kicks = _composed(track)
    beaten, toned = _played(track, drums, "drums"), _played(track, tones, "tones")
    mixed = beaten + toned * _ducked(track, kicks, len(beaten))[:, None]
    loud = np.tanh(mixed * np.float32(track.drive / max(float(np.percentile(np.abs(mixed), 99.9)), 1e-6)))
    part = track.path.with_suffix(".part")
    soundfile.write(part, loud * np.float32(0.9), RATE, format="FLAC", subtype="PCM_16")
    part.rename(track.path)


def _played(track: Arrangement, notes: Notes, what: str) -> Sound:
    """Some of the notes of a track as sound, as long as the track; shape (n, 2)."""
    import soundfile

    length = _length(track)
    if not notes:
        return np.zeros((length, 2), np.float32)
    piece = Piece(track.number, track.style, track.bpm, loose_s=0.0, programs=track.programs)
    path = track.path.with_name(f"{track.name}.{what}.flac")
    play(replace(piece, levels=(110, track.chords, 90, track.kick)), notes, path)
    sound = soundfile.read(path, dtype="float32", always_2d=True)[0]
    path.unlink()
    return np.pad(sound, ((0, max(0, length - len(sound))), (0, 0)))[:length]


def _length(track: Arrangement) -> int:
    return round((LEAD_IN_S + sum(b for _, b in track.parts) * 4 * 60.0 / track.bpm) * RATE)


def _ducked(track: Arrangement, kicks: list[float], length: int) -> NDArray[np.float32]:
    """The gain of the tones: down with each bass drum, back within a quarter of a second."""
    hits = np.zeros(length)
    at = np.rint((LEAD_IN_S + np.array(kicks) * 60.0 / track.bpm) * RATE).astype(int)
    hits[at[at < length]] = 1.0
    fall = np.exp(-1.0 / (0.09 * RATE))
    return np.asarray(1.0 - track.duck * np.minimum(lfilter([1.0], [1.0, -fall], hits), 1.0), dtype=np.float32)
