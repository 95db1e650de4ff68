"""A spectrogram cut into the pieces that the voice network knows, with a little of what is around each."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray
from scipy import fft

from fernbrook.analysis.voice.network import BINS, FRAME, FRAMES, HOP, voice_share

AROUND = 16
"""So many frames at both ends of a patch are heard for their neighbours' sake only."""
WINDOW = np.hanning(FRAME + 1)[:-1].astype(np.float32)
OVERLAPPING = np.float32(HOP / (FRAME * 0.375))
"""What frames that are windowed twice add up to, turned round: the mean of a squared Hann window is 3/8."""

Sound = NDArray[np.float32]


def taken_out(sound: Sound, wanted: NDArray[np.bool_] | None = None) -> Iterator[tuple[int, Sound]]:
    """The voice in a sound of shape (n, 2), in order: first samples, and stretches of shape (m, 2) that join.

    Stretches of which nothing is ``wanted``, shape (n,), are silence and take no time.
    """
    if not len(sound):
        return
    count = -(-len(sound) // HOP) + 1
    ringing = np.zeros((0, 2), np.float32)
    for first in range(0, count, FRAMES - 2 * AROUND):
        length = min(FRAMES - 2 * AROUND, count - first)
        if wanted is None or wanted[max(first * HOP - FRAME // 2, 0) : (first + length) * HOP + FRAME // 2].any():
            frames = _voice_frames(sound, first)[:length]
        else:
            frames = np.zeros((length, FRAME, 2), np.float32)
        out = np.zeros(((len(frames) - 1) * HOP + FRAME, 2), np.float32)
        out[: len(ringing)] += ringing
        for k, frame in enumerate(frames):
            out[k * HOP : k * HOP + FRAME] += frame
        ready, ringing = out[: len(frames) * HOP], out[len(frames) * HOP :]
        start = first * HOP - FRAME // 2
        if start < 0:
            ready, start = ready[-start:], 0
        yield start, ready[: len(sound) - start]
    end = count * HOP - FRAME // 2
    if end < len(sound):
        yield end, ringing[: len(sound) - end]


def _voice_frames(sound: Sound, first: int) -> NDArray[np.float32]:
    """What each frame from the first on has of a voice, windowed; shape (FRAMES - 2 * AROUND, FRAME, 2)."""
    spectra = _spectra(sound, first - AROUND)
    share = voice_share(np.abs(spectra[:, :BINS]))
    inner = slice(AROUND, FRAMES - AROUND)
    spectra = spectra[inner]
    spectra[:, :BINS] *= share[inner]
    spectra[:, BINS:] = 0.0
    return np.asarray(fft.irfft(spectra, FRAME, axis=1) * (WINDOW[:, None] * OVERLAPPING), dtype=np.float32)


def _spectra(sound: Sound, first: int) -> NDArray[np.complex64]:
    """The spectra of a patch; frame i is centred on sample ``i * HOP``; shape (FRAMES, FRAME / 2 + 1, 2)."""
    begin = first * HOP - FRAME // 2
    end = begin + (FRAMES - 1) * HOP + FRAME
    inside = sound[max(begin, 0) : max(end, 0)]
    before = max(-begin, 0)
    padded = np.pad(inside, ((before, end - begin - before - len(inside)), (0, 0)))
    windows = np.lib.stride_tricks.sliding_window_view(padded, FRAME, axis=0)[::HOP].transpose(0, 2, 1)
    return np.asarray(fft.rfft(windows * WINDOW[:, None], axis=1), dtype=np.complex64)
