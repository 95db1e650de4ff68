"""The voice of a track, where it is known to sing: what the same place of the music has not got without it.

The music behind a voice mostly comes again without one (A. Liutkus et al.: Adaptive filtering for music/voice
separation exploiting the repeating musical structure, ICASSP 2012). Its spectrum there is what is taken for the
background; what stands above it, near the middle of the stereo image and between 150 Hz and 8 kHz, is the voice.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import fft
from scipy.ndimage import gaussian_filter1d

from fernbrook.analysis.separation.bands import Sound
from fernbrook.analysis.separation.masking import FLOOR, FRAME, HOP, Power, Spectra, masked
from fernbrook.core.track.grid import Grid
from fernbrook.core.track.section import VoiceSpan

LOW_HZ, HIGH_HZ = 150.0, 8000.0
ALIKE = 12
"""So many of the most alike beats make the background."""
PARTS = 8
"""A beat is looked at in so many parts."""
EDGE_S = 0.15
OVER = 2.0
"""By so much the background is taken to be louder than it was, so that it stays out of the voice."""
CENTRED = 0.4
"""How much what lies beside the middle of the image is kept out: 0 not at all."""


def sung(sound: Sound, grid: Grid, spans: Sequence[VoiceSpan], rate: int) -> Sound:
    """The voice in a sound; shape (n, 2), zeros where nobody sings."""
    if not spans:
        return np.zeros_like(sound)
    background = _Background.of(sound, grid, spans, rate)
    low, high = (round(hz * FRAME / rate) for hz in (LOW_HZ, HIGH_HZ))
    heard = _heard(len(sound), grid, spans, rate)

    def mask(frames: slice, whole: Spectra, _: Spectra) -> Power:
        middle = np.abs(whole.mean(axis=2)).astype(np.float32)
        side = np.abs(whole[:, :, 0] - whole[:, :, 1]).astype(np.float32) / 2.0
        behind = background.at(frames) * OVER
        over = np.maximum(middle**2 - behind**2, 0.0) / (middle**2 + FLOOR)
        centred = 1.0 - np.clip(side / (middle + side + FLOOR) * CENTRED, 0.0, 1.0)
        share = over * centred
        share[:, :low] = share[:, high:] = 0.0
        return np.asarray(gaussian_filter1d(share, 1.0, axis=1)[:, :, None])

    return masked(sound, sound, mask) * heard[:, None]


@dataclass(frozen=True)
class _Background:
    """The magnitude of what is heard behind the voice, part of a beat by part; shape (parts, bins)."""

    levels: Power
    part_of_frame: NDArray[np.int64]

    def at(self, frames: slice) -> Power:
        """For some frames; shape (frames, bins)."""
        return self.levels[self.part_of_frame[frames]]

    @classmethod
    def of(cls, sound: Sound, grid: Grid, spans: Sequence[VoiceSpan], rate: int) -> _Background:
        middles_s = (np.arange(-(-len(sound) // HOP) + FRAME // HOP) * HOP - FRAME / 2) / rate
        beats = grid.beat_at(middles_s)
        first = int(np.floor(beats[0]))
        part = np.clip(np.floor((beats - first) * PARTS), 0, None).astype(np.int64)
        levels = _means(sound, part)
        beat = first + np.arange(len(levels) // PARTS)
        by_beat = levels[: len(beat) * PARTS].reshape(len(beat), PARTS, -1)
        sings = np.array([any(s.start < b + 1 and b < s.end for s in spans) for b in beat])
        made = by_beat.copy()
        place = beat % grid.beats_per_bar
        low = round(LOW_HZ * FRAME / rate)
        # A beat is known by what the voice leaves alone: the lowest notes and the highest hiss.
        face = np.log(np.concatenate((by_beat[:, :, 2:low], by_beat[:, :, -by_beat.shape[2] // 3 :: 8]), axis=2) + 1e-4)
        face = face.reshape(len(beat), -1)
        for i in np.flatnonzero(sings):
            pool = np.flatnonzero(~sings & (place == place[i]))
            if len(pool) < 2:
                continue
            apart = np.abs(face[pool] - face[i]).mean(axis=1)
            best = pool[np.argsort(apart, kind="stable")[:ALIKE]]
            made[i] = np.median(by_beat[best], axis=0)
        levels[: len(beat) * PARTS] = made.reshape(-1, levels.shape[1])
        return cls(levels, np.minimum(part, len(levels) - 1))


def _means(sound: Sound, part: NDArray[np.int64]) -> Power:
    """The mean magnitude of each part of a beat; shape (parts, bins)."""
    mono = np.pad(sound.mean(axis=1), (FRAME, FRAME + len(part) * HOP))
    window = np.sqrt(np.hanning(FRAME + 1)[:-1]).astype(np.float32)
    sums = np.zeros((int(part[-1]) + 1, FRAME // 2 + 1), np.float32)
    for begin in range(0, len(part), 4096):
        here = np.arange(begin, min(begin + 4096, len(part)))
        spectra = np.abs(fft.rfft(mono[here[:, None] * HOP + np.arange(FRAME)] * window, axis=1, workers=2))
        np.add.at(sums, part[here], spectra.astype(np.float32))
    return np.asarray(sums / np.maximum(np.bincount(part, minlength=len(sums)), 1)[:, None], dtype=np.float32)


def _heard(n: int, grid: Grid, spans: Sequence[VoiceSpan], rate: int) -> NDArray[np.float32]:
    """Where somebody sings, with soft edges; shape (n,)."""
    heard = np.zeros(n, np.float32)
    edge = round(EDGE_S * rate)
    for span in spans:
        begin, end = (int(t) for t in np.rint(grid.time_at([span.start, span.end]) * rate))
        heard[max(begin - edge, 0) : max(end + edge, 0)] = 1.0
    kernel = np.hanning(2 * (edge // 2) + 1)
    return np.asarray(np.convolve(heard, kernel / kernel.sum(), mode="same"), dtype=np.float32)
