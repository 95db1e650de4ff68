"""The voice of a track, where it is known to sing.

Where the trained network is installed it comes first (``hear``): what it takes for a voice in the whole sound. It hears
a voice through drums and chords, but leaves some of each partial behind. What is still there of the pitch that it
heard is what the second way finds, in what drums and bass leave: what the same place of the music has not got without
a voice.

The music behind a voice mostly comes again without one (A. Liutkus et al.: Adaptive filtering for music/voice
separation exploiting the repeating musical structure, ICASSP 2012). Its spectrum there is what is taken for the
background. Of what stands above it, near the middle of the stereo image and between 150 Hz and 8 kHz, the voice is
what lies on the harmonics of the pitch that is sung (``pitch.py``), and some of the hiss above.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import fft
from scipy.ndimage import gaussian_filter1d
from scipy.signal import oaconvolve

from fernbrook.analysis.separation.bands import Sound
from fernbrook.analysis.separation.masking import FLOOR, FRAME, HOP, Power, Spectra, frames_of, masked
from fernbrook.analysis.separation.pitch import pitched
from fernbrook.analysis.voice.patches import taken_out
from fernbrook.analysis.voice.weights import are_installed
from fernbrook.core.track import Grid, VoiceSpan

LOW_HZ, HIGH_HZ = 150.0, 8000.0
ALIKE = 12
"""So many of the most alike beats make the background."""
PARTS = 8
"""A beat is looked at in so many parts."""
EDGE_S = 0.15
OVER = 1.4
"""By so much the background is taken to be louder than it was, so that it stays out of the voice."""
HISS_HZ, HISS = 4000.0, 0.35
"""Above so many Hz so much of what stands out is breath and consonants, which have no pitch."""
SOFT = 0.5
"""Masks are smoothed over so many bins, lest they ring."""
NEAR, MORE = 2.0, 6.0
"""Where a pitch is not held, no more is taken than so many times what was heard within so many bins."""
CENTRED = 0.4
"""How much what lies beside the middle of the image is kept out: 0 not at all."""


def hear(sound: Sound, grid: Grid, spans: Sequence[VoiceSpan], rate: int) -> Sound | None:
    """What the network hears of a voice, where it is known to sing; shape (n, 2). None where it is not installed."""
    if not are_installed():
        return None
    found = np.zeros_like(sound)
    if spans:
        heard = _heard(len(sound), grid, spans, rate)
        for start, stretch in taken_out(sound, heard > 0.0):
            here = slice(start, start + len(stretch))
            found[here] = stretch * heard[here, None]
    return found


def sung(sound: Sound, grid: Grid, spans: Sequence[VoiceSpan], rate: int, known: Sound | None = None) -> Sound:
    """The voice in a sound; shape (n, 2), zeros where nobody sings.

    Where ``known`` is what was heard of it before and taken out, its pitch is followed, and elsewhere than on notes
    that are held little more is taken than was heard.
    """
    if not spans:
        return np.zeros_like(sound)
    background = _Background.of(sound, grid, spans, rate)
    low, high = (round(hz * FRAME / rate) for hz in (LOW_HZ, HIGH_HZ))
    heard = _heard(len(sound), grid, spans, rate)

    sings = _frames_heard(heard)
    hiss = np.where(np.arange(FRAME // 2 + 1) * rate / FRAME > HISS_HZ, np.float32(HISS), np.float32(0.0))

    def mask(frames: slice, whole: Spectra, guide: Spectra) -> Power:
        shares = np.zeros(whole.shape[:2], np.float32)
        here = np.flatnonzero(sings[frames])
        if not len(here):
            return shares[:, :, None]
        whole = whole[here]
        middle = np.abs(whole.mean(axis=2)).astype(np.float32)
        side = np.abs(whole[:, :, 0] - whole[:, :, 1]).astype(np.float32) / 2.0
        behind = background.at(frames)[here] * OVER
        above = np.maximum(middle**2 - behind**2, 0.0)
        centred = 1.0 - np.clip(side / (middle + side + FLOOR) * CENTRED, 0.0, 1.0)
        is_known = known is not None
        levels = np.abs(guide[here].mean(axis=2)).astype(np.float32) if is_known else np.sqrt(above) * centred
        levels[:, :low] = levels[:, high:] = 0.0
        pitch = pitched(levels, rate / FRAME, HIGH_HZ)
        if is_known:
            near = gaussian_filter1d(levels, NEAR, axis=1)
            own = pitch.shares * np.maximum(pitch.steady[:, None], np.minimum(MORE * near / (middle + FLOOR), 1.0))
        else:
            own = np.maximum(pitch.shares, hiss)
        share = above / (middle**2 + FLOOR) * centred * own
        share[:, :low] = share[:, high:] = 0.0
        shares[here] = gaussian_filter1d(share, SOFT, axis=1)
        return shares[:, :, None]

    return masked(sound, sound if known is None else known, mask) * heard[:, None]


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
        place = np.rint(grid.bar_lines.within(beat)).astype(np.int64)
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


def _frames_heard(heard: NDArray[np.float32]) -> NDArray[np.bool_]:
    """Whether anything of a frame is heard; one more than there are, so that all can be asked for."""
    padded = np.pad(heard > 0.0, (FRAME, 2 * FRAME))
    counts = np.concatenate(([0], np.cumsum(padded)))
    starts = np.minimum(np.arange(frames_of(len(heard)) + 1) * HOP, len(padded) - FRAME)
    return np.asarray(counts[starts + FRAME] > counts[starts])


def _heard(n: int, grid: Grid, spans: Sequence[VoiceSpan], rate: int) -> NDArray[np.float32]:
    """Where somebody sings, with soft edges; shape (n,)."""
    heard = np.zeros(n, np.float32)
    edge = round(EDGE_S * rate)
    for span in spans:
        begin, end = (int(t) for t in np.rint(grid.time_at([span.start, span.end]) * rate))
        heard[max(begin - edge, 0) : max(end + edge, 0)] = 1.0
    kernel = np.hanning(2 * (edge // 2) + 1)
    smooth = oaconvolve(heard, kernel / kernel.sum(), mode="same")
    # What the transform leaves of nothing is nothing.
    return np.where(smooth > 1e-6, np.minimum(smooth, 1.0), 0.0).astype(np.float32)
