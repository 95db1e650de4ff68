"""A trained network that tells a voice from all else: how much of each cell of a spectrogram is sung or spoken.

The network is a U-Net for each of the two (A. Jansson et al., "Singing voice separation with deep U-Net convolutional
networks", ISMIR 2017), with the weights of R. Hennequin, A. Khlif, F. Voituret and M. Moussallam ("Spleeter: a fast
and efficient music source separation tool with pre-trained models", JOSS 5, 2020), under the MIT licence
(``LICENSES/``): six convolutions that halve the picture, six that double it again, each joined with what the way down
had at its size. Convolutions are products of matrices; what is between them is compiled.
"""

from __future__ import annotations

import numpy as np
from numba import njit

from fernbrook.analysis.voice.weights import REST, VOICE, Branch, Floats, Layer, branch

RATE = 44_100
FRAME, HOP = 4096, 1024
"""Of the spectrogram that the network knows: periodic Hann window, magnitudes as they are."""
BINS = 1024
"""The lowest bins; above 11 kHz it hears nothing."""
FRAMES = 512
"""What it is given at once: 11.9 s."""
SIDE = 5
LEAK = 0.2
FLOOR = 1e-10


def voice_share(levels: Floats) -> Floats:
    """The share of a voice in each cell, from 0 to 1, by the powers that the two networks hear.

    Parameters
    ----------
    levels : magnitudes, left and right, full scale at 1; shape (FRAMES, bins, 2), as the result. ``bins`` is BINS, or
        fewer from the lowest on, in steps of 64: then it takes so much less time
    """
    return share_of(voice_levels(levels), levels)


def voice_levels(levels: Floats) -> Floats:
    """What the network of the voice alone hears, in half the time: never much less than there is; shape as levels."""
    return _heard(branch(VOICE), levels)


def share_of(voice: Floats, levels: Floats) -> Floats:
    """The share of a voice whose levels are known; shape as levels."""
    rest = _heard(branch(REST), levels)
    return np.asarray(voice**2 / (voice**2 + rest**2 + np.float32(FLOOR)), dtype=np.float32)


def _heard(network: Branch, levels: Floats) -> Floats:
    """The magnitudes of one of the two; shape (FRAMES, BINS, 2)."""
    joined = []
    inside = levels
    for layer in network.down[:-1]:
        raw = _halved(inside, layer)
        frames, bins, channels = raw.shape
        # What comes back at this size on the way up stands beside it.
        both = np.empty((frames, bins, 2 * channels), np.float32)
        inside = np.empty_like(raw)
        _after_down(raw, layer.bias, layer.scale, layer.shift, both, inside)
        joined.append(both)
    bottom = network.down[-1]
    inside = _halved(inside, bottom) + bottom.bias
    for layer, both in zip(network.up[:-1], reversed(joined), strict=True):
        _doubled(_spread(inside, layer), layer.bias, layer.scale, layer.shift, both)
        inside = both
    top, out = network.up[-1], np.zeros((*levels.shape[:2], 1), np.float32)
    _doubled(_spread(inside, top), top.bias, top.scale, top.shift, out)
    return _shared(np.pad(out[:, :, 0], 3), network.last, network.last_bias, levels)


def _halved(inside: Floats, layer: Layer) -> Floats:
    """A convolution of 5 x 5 in steps of two, without its bias; shape (frames / 2, bins / 2, outputs)."""
    frames, bins, channels = inside.shape
    padded = np.pad(inside, ((1, 2), (1, 2), (0, 0)))
    row, column, cell = padded.strides
    shape = (frames // 2, bins // 2, SIDE, SIDE * channels)
    windows = np.lib.stride_tricks.as_strided(padded, shape, (2 * row, 2 * column, row, cell))
    out = np.empty((frames // 2, bins // 2, layer.kernel.shape[1]), np.float32)
    at_once = max(1, (1 << 21) // (bins // 2 * SIDE * SIDE * channels))
    for first in range(0, frames // 2, at_once):
        rows = windows[first : first + at_once]
        product = rows.reshape(-1, layer.kernel.shape[0]) @ layer.kernel
        out[first : first + at_once] = product.reshape(len(rows), bins // 2, -1)
    return out


def _spread(inside: Floats, layer: Layer) -> Floats:
    """What each cell adds to 5 x 5 cells of a picture twice the size; shape (frames, bins, 25, outputs)."""
    frames, bins, channels = inside.shape
    product = inside.reshape(-1, channels) @ layer.kernel
    return np.asarray(product.reshape(frames, bins, SIDE * SIDE, -1))


@njit(cache=True, nogil=True, fastmath=True)
def _after_down(raw: Floats, bias: Floats, scale: Floats, shift: Floats, both: Floats, inside: Floats) -> None:
    """With the bias into ``both``; normalised, and where negative a fifth of it, into ``inside``."""
    frames, bins, channels = raw.shape
    for t in range(frames):
        for f in range(bins):
            for c in range(channels):
                value = raw[t, f, c] + bias[c]
                both[t, f, c] = value
                value = value * scale[c] + shift[c]
                inside[t, f, c] = max(value, np.float32(LEAK) * value)


@njit(cache=True, nogil=True, fastmath=True)
def _doubled(given: Floats, bias: Floats, scale: Floats, shift: Floats, into: Floats) -> None:
    """What cells add to each other's places, rectified and normalised, into the last channels of ``into``."""
    frames, bins, _, channels = given.shape
    first = into.shape[2] - channels
    total = np.empty(channels, np.float32)
    for t in range(2 * frames):
        for f in range(2 * bins):
            total[:] = bias
            for i in range((t + 1) % 2, SIDE, 2):
                row = (t + 1 - i) // 2
                if row < 0 or row >= frames:
                    continue
                for j in range((f + 1) % 2, SIDE, 2):
                    column = (f + 1 - j) // 2
                    if column < 0 or column >= bins:
                        continue
                    tap = SIDE * i + j
                    for c in range(channels):
                        total[c] += given[row, column, tap, c]
            for c in range(channels):
                into[t, f, first + c] = max(total[c], np.float32(0.0)) * scale[c] + shift[c]


@njit(cache=True, nogil=True, fastmath=True)
def _shared(padded: Floats, kernel: Floats, bias: Floats, levels: Floats) -> Floats:
    """The last convolution, 4 x 4 cells two apart, and what share of the levels it lets through; shape as levels."""
    out = np.empty_like(levels)
    frames, bins, sides = levels.shape
    for t in range(frames):
        for f in range(bins):
            for c in range(sides):
                total = bias[c]
                for i in range(4):
                    for j in range(4):
                        total += padded[t + 2 * i, f + 2 * j] * kernel[i, j, c]
                out[t, f, c] = levels[t, f, c] / (np.float32(1.0) + np.exp(-total))
    return out
