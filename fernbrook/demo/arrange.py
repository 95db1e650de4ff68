"""Plays a song: places every hit and note on the song's true grid, by stem."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray
from scipy.signal import oaconvolve

from fernbrook.core.track import Grid
from fernbrook.demo import drums, tones
from fernbrook.demo.beats import BEATS, Notes
from fernbrook.demo.song import Section, Song, Truth, true_grid
from fernbrook.demo.tones import RATE, Sound

MINOR = (0, 2, 3, 5, 7, 8, 10)
MAJOR = (0, 2, 4, 5, 7, 9, 11)
TAIL_S = 1.5

LAYERS = {
    "beatless": {"pad", "texture"},
    "beat": {"kick", "clap", "hats", "perc"},
    "bass": {"kick", "clap", "hats", "perc", "bass"},
    "full": {"kick", "clap", "hats", "perc", "bass", "pad", "pluck", "lead", "voice"},
    "break": {"hats", "pad", "pluck", "voice"},
    "rise": {"pad", "roll", "riser", "pluck"},
    "outro": {"kick", "clap", "hats", "perc"},
}

EARLY_S = 0.01
"""A hit may come so much too early and still belong to its beat."""

Stems = dict[str, NDArray[np.float32]]


@dataclass
class _Desk:
    """The stems under way, and the truth that comes out on the side."""

    song: Song
    grid: Grid
    stems: Stems = field(default_factory=dict)
    voice_spans: list[tuple[float, float]] = field(default_factory=list)
    until_s: float = np.inf
    """What would begin after that is left out: a bar is over sooner."""

    def put(self, stem: str, at_s: float, sound: Sound, gain: float, pan: float = 0.0) -> None:
        """Add a sound (mono or stereo) to a stem; pan from -1 (left) to 1 (right), equal power."""
        if at_s >= self.until_s:
            return
        bus = self.stems[stem]
        begin = max(0, round(at_s * RATE))
        piece = sound[: max(0, len(bus) - begin)]
        if piece.ndim == 1:
            angle = (pan + 1.0) * np.pi / 4.0
            bus[begin : begin + len(piece), 0] += piece * np.float32(gain * np.cos(angle) * 1.4142)
            bus[begin : begin + len(piece), 1] += piece * np.float32(gain * np.sin(angle) * 1.4142)
        else:
            bus[begin : begin + len(piece)] += piece * np.float32(gain)


def play(song: Song) -> tuple[Stems, Truth]:
    """Render a song at 44.1 kHz.

    Returns
    -------
    stems : drums, bass, music and voice, each float32 of shape (n, 2); their sum is the track before mastering
    truth : beat times, sections, voice spans, key
    """
    grid = true_grid(song)
    beats = song.beat_of(song.bars)
    end_s = float(grid.time_at(beats)) + TAIL_S
    desk = _Desk(song, grid)
    for stem in ("drums", "bass", "music", "voice"):
        desk.stems[stem] = np.zeros((round(end_s * RATE), 2), dtype=np.float32)
    rng = np.random.default_rng(song.seed)
    spans: list[tuple[str, float, float]] = []
    if song.intro_s:
        _beatless_intro(desk, song.intro_s)
        spans.append(("beatless", 0.0, song.intro_s))
    if song.pick_up_beats:
        _pick_up(desk)
    bar = 0
    for section in song.sections:
        _play_section(desk, section, bar, rng)
        begin, end = grid.time_at([song.beat_of(bar), song.beat_of(bar + section.bars)])
        spans.append((section.kind, float(begin), float(end)))
        bar += section.bars
    _pump(desk)
    _room(desk, song.seed)
    truth = Truth(
        grid=grid,
        key=song.key,
        sections=tuple(spans),
        voice_spans=tuple(desk.voice_spans),
        duration_s=end_s,
        beats=beats,
        steady=grid.is_constant,
    )
    return desk.stems, truth


def _scale_note(song: Song, degree: int, octave: int) -> int:
    scale = MINOR if song.minor else MAJOR
    return 12 * (octave + 1) + song.tonic + scale[degree % 7] + 12 * (degree // 7)


def _chord(song: Song, degree: int) -> tuple[int, ...]:
    """A seventh chord on a scale degree, kept within an octave around middle C."""
    notes = []
    for step in (0, 2, 4, 6):
        note = _scale_note(song, degree + step, 4)
        notes.append(note - 12 if note > 72 else note)
    return tuple(sorted(notes))


def _play_section(desk: _Desk, section: Section, first_bar: int, rng: np.random.Generator) -> None:
    song = desk.song
    grid = desk.grid
    layers = LAYERS[section.kind]
    per_bar = song.beats_per_bar
    for bar in range(section.bars):
        last = bar == section.bars - 1
        start = float(song.beat_of(first_bar + bar))
        is_short = any(n == first_bar + bar for n, _ in song.short_bars)
        desk.until_s = float(grid.time_at(song.beat_of(first_bar + bar + 1))) - EARLY_S if is_short else np.inf
        place = bar / section.bars
        _drum_bar(desk, layers, start, place, last and section.kind != "break", rng)
        degree = song.chords[(first_bar + bar) // song.bars_per_chord % len(song.chords)]
        if "bass" in layers:
            _bass_bar(desk, start, degree)
        if "pad" in layers and (first_bar + bar) % song.bars_per_chord == 0:
            t0, t1 = grid.time_at([start, start + per_bar * song.bars_per_chord])
            bright = {"break": 0.25 + 0.5 * place, "rise": 0.3 + 0.7 * place, "beatless": 0.15}.get(section.kind, 0.4)
            desk.put("music", t0, tones.pad(_chord(song, degree), round(t1 - t0, 2), round(bright, 1)), 0.30)
        if "pluck" in layers:
            _pluck_bar(desk, start, degree, 0.4 + 0.5 * place, bar)
        if "lead" in layers and not song.sings and bar % 8 >= 4:
            _lead_bar(desk, start, degree, bar)
        if "voice" in layers and song.sings and bar % 4 == 0 and not last:
            _sing(desk, start, bar)
    desk.until_s = np.inf
    if "riser" in layers:
        t0, t1 = grid.time_at([song.beat_of(first_bar), song.beat_of(first_bar + section.bars)])
        desk.put("music", t0, drums.riser(float(t1 - t0), song.seed), 0.16)


def _drum_bar(desk: _Desk, layers: set[str], start: float, place: float, fill: bool, rng: np.random.Generator) -> None:
    song = desk.song
    grid = desk.grid

    beat = BEATS[song.beat]

    def hit(at: float, sound: Sound, gain: float, pan: float = 0.0) -> None:
        late = song.swing * 0.25 if round(at * 4) % 2 else 0.0
        stray = song.loose_s * rng.standard_normal() if song.loose_s else 0.0
        velocity = gain * (1.0 + 0.08 * rng.standard_normal())
        desk.put("drums", float(grid.time_at(start + at + late)) + stray, sound, velocity, pan)

    if "kick" in layers:
        for at in beat.kicks:
            if not (fill and at >= beat.beats - 1):
                hit(at, drums.kick(song.tone), 0.85)
    if "clap" in layers:
        for at in beat.snares:
            hit(at, drums.snare(song.tone) if beat.snare_drum else drums.clap(song.tone), 0.42)
    if "hats" in layers:
        soft = 1.0 if "kick" in layers else 0.4
        for i in range(beat.hats_per_beat * beat.beats):
            at = i / beat.hats_per_beat
            sixteenth = round(at * 4) % 4
            accent = (0.5, 0.25, 0.9, 0.3)[sixteenth]
            hit(at, drums.hat(beat.open_hats and sixteenth == 2), 0.26 * soft * accent, 0.25)
    if "perc" in layers and beat.percussion:
        for at, note in ((0.75, 55), (1.5, 60), (2.75, 55), (3.5, 62)):
            if rng.random() < 0.75:
                hit(at, drums.tom(note), 0.16, -0.5)
        for eighth in range(8):
            hit(eighth / 2 + 0.25, drums.shaker(), 0.16, -0.3)
    if "roll" in layers:
        per_beat = 2 if place < 0.5 else 4
        for i in range(beat.beats * per_beat):
            hit(i / per_beat, drums.snare(song.tone), 0.12 + 0.25 * place)
    if fill and "kick" in layers:
        for i, note in enumerate((57, 55, 52, 50)):
            hit(beat.beats - 1 + i / 4, drums.tom(note), 0.35, -0.4 + 0.25 * i)


def _bass_bar(desk: _Desk, start: float, degree: int) -> None:
    song = desk.song
    grid = desk.grid
    for beat, length, step in _bass_line(song):
        note = _scale_note(song, degree + step, 1)
        note = note if note >= 28 else note + 12
        t0, t1 = grid.time_at([start + beat, start + beat + length])
        desk.put("bass", float(t0), tones.bass(note, round(float(t1 - t0), 2), song.tone), 0.42)


def _bass_line(song: Song) -> Notes:
    """What the bass plays in a bar."""
    if song.seed % 3 == 0 and song.beats_per_bar == 4:
        return ((0.0, 0.9, 0), (1.0, 0.4, 0), (1.75, 0.7, 0), (3.0, 0.45, 4), (3.5, 0.4, 2))
    offbeats = ((0.5, 0.45, 0), (1.5, 0.4, 0), (2.25, 0.2, 0), (2.5, 0.45, 2), (3.5, 0.4, 4))
    return BEATS[song.beat].bass or offbeats


def _pluck_bar(desk: _Desk, start: float, degree: int, bright: float, bar: int) -> None:
    song = desk.song
    grid = desk.grid
    chord = _chord(song, degree)
    for i, sixteenth in enumerate((0, 3, 6, 8, 11, 14)):
        if sixteenth >= 4 * song.beats_per_bar:
            break
        note = chord[(i * 3 + bar) % 4] + 12
        at = float(grid.time_at(start + sixteenth / 4))
        desk.put("music", at, tones.pluck(note, 0.45, round(bright, 1)), 0.15, 0.6 * (-1) ** i)


def _lead_bar(desk: _Desk, start: float, degree: int, bar: int) -> None:
    song = desk.song
    grid = desk.grid
    for beat, length, step in (((0.0, 1.4, 4), (1.5, 0.9, 2), (2.5, 1.4, 0)), ((0.0, 0.9, 2), (1.0, 2.8, 7)))[bar % 2]:
        note = _scale_note(song, degree + step, 4)
        until = min(beat + length, song.beats_per_bar)
        t0, t1 = grid.time_at([start + beat, start + until])
        desk.put("music", float(t0), tones.lead(note, round(float(t1 - t0), 2), song.tone), 0.16, 0.1)


def _sing(desk: _Desk, start: float, bar: int) -> None:
    """A phrase of two bars, and the span it takes."""
    song = desk.song
    grid = desk.grid
    rng = np.random.default_rng(song.seed * 100 + bar % 8)
    beat = 0.5
    while beat < 2 * song.beats_per_bar - 1:
        length = float(rng.choice([0.5, 0.75, 1.0, 1.5]))
        note = _scale_note(song, int(rng.choice([0, 2, 3, 4, 4, 6, 7])), 4)
        t0, t1 = grid.time_at([start + beat, start + beat + length * 0.95])
        vowel = str(rng.choice(["ah", "oh", "eh", "oo"]))
        desk.put("voice", float(t0), tones.voice(note, round(float(t1 - t0), 2), vowel), 0.55)
        beat += length
    t0, t1 = grid.time_at([start + 0.5, start + beat])
    desk.voice_spans.append((float(t0), float(t1)))


def _beatless_intro(desk: _Desk, length_s: float) -> None:
    song = desk.song
    half = length_s / 2
    for i in range(2):
        desk.put("music", i * half, tones.pad(_chord(song, song.chords[i % len(song.chords)]), half + 0.4, 0.2), 0.28)
    drops = np.random.default_rng(song.seed + 7)
    for at in np.sort(drops.uniform(1.0, length_s - 0.8, 14)):
        note = _scale_note(song, int(drops.integers(0, 8)), 5)
        desk.put("music", float(at), tones.pluck(note, 0.45, 0.2), 0.07, float(drops.uniform(-0.8, 0.8)))


def _pick_up(desk: _Desk) -> None:
    """A short run into the first downbeat."""
    song = desk.song
    steps = int(song.pick_up_beats * 4)
    for i in range(steps):
        at = float(desk.grid.time_at(-song.pick_up_beats + i / 4))
        desk.put("drums", at, drums.tom(52 + 2 * i), 0.35, -0.3 + 0.2 * i)


def _pump(desk: _Desk) -> None:
    """Music and bass give way to each kick, as a compressor keyed by the kick would have it."""
    left, right = np.abs(desk.stems["drums"]).T
    drum = np.maximum(left, right)
    step = 441
    coarse = drum[: len(drum) // step * step].reshape(-1, step).max(axis=1)
    level = np.zeros(len(coarse))
    held = 0.0
    for i, value in enumerate(coarse):
        held = max(float(value > 0.55), held * 0.93)
        level[i] = held
    fine = np.interp(np.arange(len(drum)), np.arange(len(level)) * step, level).astype(np.float32)
    duck = 1.0 - np.float32(0.45) * fine
    for stem in ("music", "bass"):
        desk.stems[stem] *= duck[:, None]


def _room(desk: _Desk, seed: int) -> None:
    """Music and voice in a hall: convolution with decaying noise."""
    rng = np.random.default_rng(seed + 1)
    t = np.arange(round(0.7 * RATE)) / RATE
    hall = rng.standard_normal((len(t), 2)) * np.exp(-t / 0.2)[:, None] * 0.024
    hall[: round(0.012 * RATE)] = 0.0
    for stem, wet in (("music", 0.5), ("voice", 0.7)):
        dry = desk.stems[stem]
        if np.any(dry):
            desk.stems[stem] = dry + np.float32(wet) * oaconvolve(dry, hall.astype(np.float32), axes=0)[: len(dry)]


def master(song: Song, stems: Stems) -> NDArray[np.float32]:
    """Sum the stems, push them into a soft clipper and set the peak; shape (n, 2) or (n, 1)."""
    total = sum(stems.values(), start=np.zeros(1, dtype=np.float32))
    shaped = np.tanh(total * song.drive) / np.tanh(max(1.0, song.drive))
    if song.mono:
        shaped = shaped.mean(axis=1, keepdims=True)
    peak = float(np.abs(shaped).max()) or 1.0
    return np.asarray(shaped * (10.0 ** (song.peak_db / 20.0) / peak), dtype=np.float32)
