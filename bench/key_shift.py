"""A shifted key, listened to with code: pitch, beats, attacks, purity; beside the finer engine of rubberband-cli."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from bench.rig import at_speed, rubberband
from bench.rows import Row
from bench.stretch import Array, impurity, rise
from tests import tones
from tests.listen import onsets_ms, pitch_hz
from tests.tones import RATE

SHIFTS = tuple(s for s in range(-6, 7) if s)
FEW = (-6, -2, -1, 1, 2, 6)


def rows() -> Iterator[Row]:
    yield _pitch()
    yield _beats()
    yield _rise()
    yield from _purity()


def _pitch() -> Row:
    """How far a tone of 55 to 1760 Hz lies from where its shift should put it, at its own tempo and 4 % faster."""
    off = []
    for hz in (55.0, 110.0, 440.0, 1760.0):
        sound = tones.stereo(0.3 * np.sin(2 * np.pi * hz * tones.seconds(12.0)))
        for speed in (1.0, 1.04):
            for shift in SHIFTS:
                heard = at_speed(sound, speed, shift)[2 * RATE : -3 * RATE]
                off.append(1200 * np.log2(pitch_hz(heard) / (hz * 2 ** (shift / 12))))
    return Row("pitch of a shifted tone, -6 to +6", f"within {np.abs(off).max():.2f} cents", "-", "3 cents")


def _beats() -> Row:
    """Where hits sound against where they are without a shift."""
    times: Array = np.arange(2, 40, dtype=np.float64) * 0.5
    sound = tones.clicks(times, 24.0) + tones.partials(tones.pad(20), 24.0, level=0.02)
    off: list[float] = []
    theirs: list[float] = []
    for shift in FEW:
        for speed in (1.0, 1.04):
            off += list(np.abs(onsets_ms(at_speed(sound, speed, shift), times[:-4] / speed)))
            other = rubberband(sound, speed, shift)
            if other is not None:
                theirs += list(np.abs(onsets_ms(other, times[:-4] / speed)))
    said = f"rubberband mean {np.mean(theirs):.2f}, max {max(theirs):.2f} ms" if theirs else "-"
    figure = (
        f"mean {np.mean(off):.2f}, max {max(off):.2f} ms (unshifted max {max(np.abs(onsets_ms(sound, times))):.2f})"
    )
    return Row("hits under a shifted key, from their beats", figure, said, "mean 1, max 3 ms")


def _rise() -> Row:
    times: Array = np.arange(4, 60, dtype=np.float64) * 0.5 + 0.25
    sound = tones.hats(times, 34.0) + tones.partials(tones.pad(20), 34.0, level=0.02)
    own = rise(sound, times)
    ours, theirs = [], []
    for shift in FEW:
        ours.append(f"{shift:+d}: {rise(at_speed(sound, 1.0, shift), times):.2f}")
        other = rubberband(sound, 1.0, shift)
        if other is not None:
            theirs.append(f"{shift:+d}: {rise(other, times):.2f}")
    said = f"rubberband {', '.join(theirs)} ms" if theirs else "-"
    return Row(f"rise of a hat (source {own:.2f} ms)", ", ".join(ours) + " ms", said, "as without, times the pitch")


def _purity() -> Iterator[Row]:
    for name, root in (("low", 82.4), ("mid", 261.6)):
        hz = tones.chord(root, 4)
        sound = tones.partials(hz, 20.0)
        ours, theirs = [], []
        for shift in FEW:
            moved = hz * 2 ** (shift / 12)
            ours.append(f"{shift:+d}: {impurity(at_speed(sound, 1.0, shift), moved):.0f}")
            other = rubberband(sound, 1.0, shift)
            if other is not None:
                theirs.append(f"{shift:+d}: {impurity(other, moved):.0f}")
        said = f"rubberband {', '.join(theirs)} dB" if theirs else "-"
        yield Row(f"purity of a {name} chord under a shifted key, dB", ", ".join(ours), said, "-30")
