"""The stretch, listened to with code: holes, joins, purity, a voice, attacks; then its speed and the first sound.

Everything goes through the real plan and renderer, with key lock. The yardstick is the finer engine of
``rubberband-cli`` on the same sound in the same run, where it is installed.
"""

from __future__ import annotations

import tempfile
import time
from collections.abc import Callable, Iterator
from functools import lru_cache
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from scipy.signal import butter, hilbert, oaconvolve, sosfiltfilt
from scipy.signal.windows import blackmanharris, hann

from bench.material import mix_of, paths
from bench.rig import at_speed, blended, block_ends, rubberband
from bench.rows import Row
from fernbrook.core.plan import RATE as MIX_RATE
from fernbrook.render.renderer import render
from tests import tones
from tests.tones import RATE, Sound

Array = NDArray[np.float64]
SPEEDS = (0.96, 1.06)
FAR = (0.75, 1.33)


def rows() -> Iterator[Row]:
    yield _sines()
    yield _pad()
    yield _join()
    yield from _purity()
    yield _voice()
    yield _hats()
    yield from _sixteenths()
    yield _first_sound()
    yield _speed()


def decibels(ratio: Array | float) -> Array:
    """Of a ratio of powers."""
    return np.asarray(10.0 * np.log10(np.maximum(ratio, 1e-12)))


def _sines() -> Row:
    """How far the level of a lone tone strays, anywhere and at the block ends too."""
    off = [_stray_of(at_speed(_tone(f), s)) for s in SPEEDS + FAR for f in np.geomspace(50.0, 2000.0, 12)]
    theirs = [_stray_of(rubberband(_tone(f), s)) for s in SPEEDS for f in np.geomspace(50.0, 2000.0, 4)]
    return Row(
        "level of a sine, 50 to 2000 Hz, x 0.75 to 1.33",
        f"within {max(off):.2f} dB",
        _said(theirs, "within", "dB"),
        "0.5 dB",
    )


def _tone(hz: float) -> Sound:
    return tones.stereo(0.4 * np.sin(2 * np.pi * hz * tones.seconds(16.0)))


def _stray_of(heard: Sound | None) -> float:
    if heard is None:
        return float("nan")
    level = decibels((np.abs(hilbert(heard[:, 0]))[RATE : -2 * RATE] / 0.4) ** 2)
    return float(np.abs(level).max())


def _pad() -> Row:
    """The level of a thick pad at block ends and elsewhere, against the source's at the same moment."""
    at, elsewhere, theirs = [], [], []
    for speed in SPEEDS + FAR:
        sound = tones.partials(tones.pad(), 40.0)
        ends = block_ends(sound, speed)
        heard = at_speed(sound, speed)
        times = np.arange(1.0, len(heard) / RATE - 2.0, 0.01)
        near = np.abs(times[:, None] - ends).min(axis=1) < 0.04
        off = _level_change(sound, heard, times, speed)
        at += list(off[near])
        elsewhere += list(off[~near])
        other = rubberband(sound, speed)
        if other is not None:
            theirs += list(_level_change(sound, other, times, speed))
    figure = f"at block ends {_low_and_middle(at)}, elsewhere {_low_and_middle(elsewhere)}"
    said = f"rubberband {_low_and_middle(theirs)}" if theirs else "-"
    return Row("level of a pad of 100 partials", figure, said, "no deeper than elsewhere")


def _low_and_middle(off: list[float]) -> str:
    return f"1st percentile {np.percentile(off, 1):.1f}, median {np.median(off):.1f} dB"


def _level_change(source: Sound, heard: Sound, times: Array, speed: float) -> Array:
    """Level over 50 ms around each moment against the source's there."""
    return decibels(_energy(heard, times) / _energy(source, times * speed))


def _energy(sound: Sound, times: Array) -> Array:
    power = np.concatenate(([0.0], np.cumsum(np.sum(np.square(sound, dtype=np.float64), axis=1))))
    at = np.rint(times * RATE).astype(int)
    reach = round(0.025 * RATE)
    return np.asarray(
        power[np.clip(at + reach, 0, len(power) - 1)] - power[np.clip(at - reach, 0, len(power) - 1)] + 1e-9
    )


def _join() -> Row:
    """The level of each partial of a chord where the incoming track reaches its own tempo."""
    off = []
    for root in (131.0, 220.0, 349.2):
        hz = tones.chord(root, 3)
        sound = tones.partials(hz, 60.0)
        for bpm in (124.0, 132.0):
            with tempfile.TemporaryDirectory() as folder:
                rig = blended((sound, bpm), (sound, 128.0), 32.0, Path(folder), 16.0)
                end_s = rig.plan.transitions[0].end_s
                heard = rig.heard(1, end_s - 1.5, end_s + 1.5)
            levels = np.stack([_partial_level(heard, f) for f in hz])
            still = np.median(levels[:, -RATE // 2 :], axis=1, keepdims=True)
            near = slice(int(1.35 * RATE) - RATE // 4, int(1.65 * RATE) - RATE // 4)
            off.append(np.abs(decibels((levels / still) ** 2)[:, near]).max(axis=1))
    every = np.concatenate(off)
    return Row(
        "stretched to copied, each partial of a chord",
        f"median {np.median(every):.2f}, worst {every.max():.2f} dB",
        "-",
        "within 0.5 dB",
    )


def _partial_level(sound: Sound, hz: float) -> Array:
    """The size of one partial over time, heard through half a second; a quarter is missing at both ends."""
    n = np.arange(len(sound))
    window = hann(RATE // 2, sym=False)
    heard = oaconvolve(sound[:, 0] * np.exp(-2j * np.pi * hz * n / RATE), window / window.sum(), "valid")
    return np.asarray(np.abs(heard))


def _purity() -> Iterator[Row]:
    """How much sounds between the partials of a chord that has none there."""
    for name, root in (("low", 82.4), ("mid", 261.6)):
        hz = tones.chord(root, 4)
        sound = tones.partials(hz, 24.0)
        ours = {s: impurity(at_speed(sound, s), hz) for s in (0.94, 0.96, 1.04, 1.06)}
        theirs = [impurity(r, hz) for s in (0.96, 1.06) if (r := rubberband(sound, s)) is not None]
        ramps = {}
        for percent in (3, 7):
            with tempfile.TemporaryDirectory() as folder:
                rig = blended((sound, 120.0), (sound, 120.0 * (1 + percent / 100)), 32.0, Path(folder), 8.0)
                t = rig.plan.transitions[0]
                ramps[percent] = impurity(rig.heard(0, t.start_s, t.end_s), hz)
        figure = (
            ", ".join(f"x {s:g} {v:.0f}" for s, v in ours.items())
            + "; "
            + ", ".join(f"ramp {p} % {v:.0f}" for p, v in ramps.items())
        )
        yield Row(f"purity of a {name} chord, dB", figure, _said(theirs, "", "dB"), "-30 to -44")


def impurity(heard: Sound, hz: Array) -> float:
    """The energy farther than 4 Hz from every partial against all of it, in dB."""
    middle = heard[RATE : -2 * RATE, 0]
    power = np.abs(np.fft.rfft(middle * blackmanharris(len(middle)))) ** 2
    at = np.arange(len(power)) * RATE / len(middle)
    inside = (np.abs(at[:, None] - hz).min(axis=1) < 4.0) if len(hz) else np.zeros(len(at), bool)
    return float(decibels(power[~inside].sum() / power.sum()))


def _voice() -> Row:
    ours, theirs = [], []
    sound = tones.voice(14.0)
    for speed in (0.94, *SPEEDS, *FAR):
        ours.append((speed, *_likeness(sound, at_speed(sound, speed), speed)))
        other = rubberband(sound, speed)
        if other is not None:
            theirs.append((speed, *_likeness(sound, other, speed)))

    def said(each: list[tuple[float, float, float]]) -> str:
        return ", ".join(f"x {s:g}: {d:.2f} / {v:.2f} dB" for s, d, v in each) or "-"

    return Row("a voice with vibrato: spectral distance / spread of its level", said(ours), said(theirs), "1.4 / 0.15")


def _likeness(source: Sound, heard: Sound, speed: float) -> tuple[float, float]:
    """Distance of the log spectra at the same moments, down to 50 dB below the strongest; spread of the level."""
    times = np.arange(1.0, len(heard) / RATE - 2.0, 0.013)
    a, b = _logged(source, times * speed), _logged(heard, times)
    top = a.max()
    loud = np.maximum(a, b) > top - 50.0
    distance = float(np.sqrt(np.mean((np.maximum(a, top - 60) - np.maximum(b, top - 60))[loud] ** 2)))
    change = _level_change(source, heard, times, speed)
    return distance, float(np.std(change))


def _logged(sound: Sound, times: Array) -> Array:
    window = hann(2048, sym=False)
    at = np.rint(times * RATE).astype(int)[:, None] - 1024 + np.arange(2048)
    return decibels(np.abs(np.fft.rfft(sound[at, 0] * window, axis=1)[:, :400]) ** 2)


def _hats() -> Row:
    """How long a hat takes to rise that lies between two beats."""
    times: Array = np.arange(4, 60, dtype=np.float64) * 0.5 + 0.25
    sound = tones.hats(times, 34.0) + tones.partials(tones.pad(20), 34.0, level=0.02)
    own = rise(sound, times)
    parts, theirs = [], []
    for speed in (*SPEEDS, *FAR):
        ours = at_speed(sound, speed)
        parts.append(f"x {speed:g}: {rise(ours, times / speed):.2f}")
        other = rubberband(sound, speed)
        if other is not None:
            theirs.append(f"x {speed:g}: {rise(other, times / speed):.2f}")
    return Row(
        f"rise of a hat between beats (source {own:.2f} ms)",
        ", ".join(parts) + " ms",
        ", ".join(theirs) + " ms",
        "2.9 ms",
    )


def rise(sound: Sound, times: Array) -> float:
    """Median time in ms from a tenth to nine tenths of the largest envelope."""
    high = sosfiltfilt(butter(4, 4000, "highpass", fs=RATE, output="sos"), sound[:, 0])
    envelope = np.abs(hilbert(high))
    envelope = np.convolve(envelope, np.ones(44) / 44, "same")
    rises = []
    for at in np.rint(times[2:-4] * RATE).astype(int):
        piece = envelope[at - 1000 : at + 900]
        top = int(np.argmax(piece))
        below = np.flatnonzero(piece[:top] < 0.1 * piece[top])
        above = np.flatnonzero(piece[: top + 1] >= 0.9 * piece[top])
        rises.append((above[0] - (below[-1] if len(below) else 0)) / RATE * 1000)
    return float(np.median(rises))


def _sixteenths() -> Iterator[Row]:
    """Hits on all sixteenths of two tracks: how far those of one lie from those of the other in the overlap."""
    for slow, fast, aim in ((120.0, 128.0, "mean <= 0.3, max <= 1 ms"), (90.0, 120.0, "max <= 2 ms")):
        sides = []
        with tempfile.TemporaryDirectory() as folder:
            sounds = [_beats(bpm, seed) for seed, bpm in enumerate((slow, fast))]
            rig = blended((sounds[0], slow), (sounds[1], fast), 32.0, Path(folder), 32.0)
            t = rig.plan.transitions[0]
            wanted = rig.plan.tempo.time_at(t.start_beat + np.arange(4, 4 * 32 - 8) / 4)
            for only in (0, 1):
                heard = rig.heard(only, t.start_s, t.end_s)
                sides.append(np.array([_onset_ms(heard, float(w) - t.start_s) for w in wanted]))
        apart = np.abs(sides[0] - sides[1])
        yield Row(
            f"sixteenths of two tracks against each other, {slow:g} to {fast:g} BPM",
            f"mean {apart.mean():.2f}, max {apart.max():.2f} ms",
            "-",
            aim,
        )


def _beats(bpm: float, seed: int) -> Sound:
    length = 80 * 60.0 / bpm
    own: Array = np.arange(4 * 78, dtype=np.float64) * 15.0 / bpm
    return tones.clicks(own, length) + tones.partials(tones.chord(110.0 * (1 + seed / 3), 3), length, seed, 0.03)


def _onset_ms(heard: Sound, at_s: float) -> float:
    """Where a hit of ``tones.clicks`` lies against a moment, by matching it, to a fraction of a sample."""
    from tests.listen import offset_ms

    return offset_ms(_one_hit(), 0.02, np.asarray(heard[:, 0], np.float64), at_s)


@lru_cache(maxsize=1)
def _one_hit() -> Array:
    return np.asarray(tones.clicks(np.array([0.02]), 0.2)[:, 0], np.float64)


def _first_sound() -> Row:
    plan = mix_of(5, 7)
    t = plan.transitions[0]
    starts = np.linspace(t.start_s + 2, t.end_s - 2, 24)
    taken = []
    next(render(plan, paths(), round(starts[0] * MIX_RATE)))
    for at in starts:
        begun = time.perf_counter()
        next(render(plan, paths(), round(at * MIX_RATE)))
        taken.append(1000 * (time.perf_counter() - begun))
    return Row(
        "first sound in mid-overlap", f"median {np.median(taken):.0f}, worst {max(taken):.0f} ms", "-", "150 (300) ms"
    )


def _speed() -> Row:
    plan = mix_of(5, 7)
    t = plan.transitions[0]
    start, end = round(t.start_s * MIX_RATE), round(t.end_s * MIX_RATE)
    ours = (end - start) / MIX_RATE / _cpu_seconds(lambda: list(render(plan, paths(), start, end)))
    sound = tones.partials(tones.pad(), 20.0)
    begun = time.perf_counter()
    theirs = rubberband(sound, 0.96)
    taken = time.perf_counter() - begun
    said = (
        f"rubberband on both tracks: {10.0 / taken:.1f} x; ratio {ours / (10.0 / taken):.0f}"
        if theirs is not None
        else "-"
    )
    return Row("overlap of two tracks, one core, by CPU", f"{ours:.0f} x real time", said, ">= 30 x")


def _cpu_seconds(work: Callable[[], object]) -> float:
    work()
    taken = []
    for _ in range(3):
        begun = time.process_time()
        work()
        taken.append(time.process_time() - begun)
    return sorted(taken)[1]


def _said(values: list[float], word: str, unit: str) -> str:
    known = [v for v in values if not np.isnan(v)]
    return f"rubberband {word} {min(known):.1f} to {max(known):.1f} {unit}" if known else "rubberband not installed"
