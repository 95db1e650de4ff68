"""What a made-up track is, and the truth about it that tests and measurements compare with."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from fernbrook.core.track import Grid, Key, bars_from, ramp_from, tempo_from
from fernbrook.demo.beats import BEATS


@dataclass(frozen=True)
class Section:
    """Some bars of one character: beatless, beat, bass, full, break, rise or outro."""

    kind: str
    bars: int


@dataclass(frozen=True)
class Song:
    """The recipe of one track."""

    title: str
    artist: str
    bpm: float
    tonic: int
    """Pitch class of the key: 0 is C."""
    minor: bool
    chords: tuple[int, ...]
    """Scale degrees of the progression, 0 is the tonic; one chord lasts ``bars_per_chord`` bars."""
    sections: tuple[Section, ...]
    seed: int
    file: str
    swing: float = 0.0
    beat: str = "four"
    """The name of a pattern in ``beats.BEATS``."""
    loose_s: float = 0.0
    """How far each hit strays from its place, as a standard deviation."""
    sings: bool = False
    tone: float = 0.5
    bars_per_chord: int = 2
    intro_s: float = 0.0
    """Beatless sound before the first downbeat."""
    pick_up_beats: float = 0.0
    wander: float = 0.0
    """How far the player strays from the tempo, as a share of it."""
    second_bpm: float | None = None
    """The tempo from the middle section on."""
    ramp_beats: float = 0.0
    """Over how many beats it gets there; at once if over none."""
    short_bars: tuple[tuple[int, int], ...] = ()
    """Which bars have fewer beats, and how many."""
    mono: bool = False
    rate: int = 44_100
    peak_db: float = -1.5
    drive: float = 1.0
    """How hard the sum is pushed into the soft clipper."""

    @property
    def key(self) -> str:
        """Its key, as musicians write it."""
        return Key(tonic=self.tonic, minor=self.minor).name

    @property
    def bars(self) -> int:
        """How many bars it has."""
        return sum(s.bars for s in self.sections)

    @property
    def beats_per_bar(self) -> int:
        """How many beats a bar has."""
        return BEATS[self.beat].beats

    def beat_of(self, bar: int) -> int:
        """The beat with which a bar begins."""
        return bar * self.beats_per_bar - sum(self.beats_per_bar - beats for n, beats in self.short_bars if n < bar)


@dataclass(frozen=True)
class Truth:
    """What is known of a track because we made it. Spans are in seconds."""

    grid: Grid
    key: str
    sections: tuple[tuple[str, float, float], ...]
    voice_spans: tuple[tuple[float, float], ...]
    duration_s: float
    beats: int
    steady: bool
    """Whether one tempo describes the track."""
    stems: tuple[str, ...] = field(default=("drums", "bass", "music", "voice"))

    def beat_times(self) -> np.ndarray:
        """Seconds of all beats from the first downbeat to the end."""
        return self.grid.time_at(np.arange(self.beats))


def true_grid(song: Song) -> Grid:
    """The grid of a song: the tempo and the bars as the recipe has them, and the first downbeat after what comes before
    it."""
    grid = _beats_of(song)
    for bar, _ in song.short_bars:
        grid = bars_from(grid, song.beat_of(bar + 1), song.beats_per_bar)
    return grid


def _beats_of(song: Song) -> Grid:
    start = 0.05 + song.intro_s + song.pick_up_beats * 60.0 / song.bpm
    beats = song.beat_of(song.bars)
    if song.wander:
        return _wandering(song, start, beats)
    if song.second_bpm:
        change = float(_change_beat(song))
        before = Grid.constant(song.bpm, start, song.beats_per_bar)
        if song.ramp_beats:
            return ramp_from(before, change, song.ramp_beats, song.second_bpm)
        return tempo_from(before, change, song.second_bpm)
    return Grid.constant(song.bpm, start, song.beats_per_bar)


def _change_beat(song: Song) -> int:
    """The beat of the section border nearest to the middle."""
    borders = np.cumsum([s.bars for s in song.sections])[:-1]
    return song.beat_of(int(borders[np.argmin(np.abs(borders - song.bars / 2))]))


def _wandering(song: Song, start: float, beats: int) -> Grid:
    """A slow random walk of the tempo, drawn back to its middle and kept within the share given."""
    rng = np.random.default_rng(song.seed)
    offset = np.zeros(beats)
    for i in range(1, beats):
        offset[i] = np.clip(0.985 * offset[i - 1] + rng.normal(0, song.wander / 12), -song.wander, song.wander)
    steps = 60.0 / (song.bpm * (1.0 + offset))
    times = start + np.concatenate(([0.0], np.cumsum(steps)))
    return Grid.through(times, np.arange(beats + 1, dtype=float), song.beats_per_bar)
