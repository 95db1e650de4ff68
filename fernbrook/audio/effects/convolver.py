"""Convolution with a long response, block by block: what the echo and the reverb are made of.

The response is cut into parts as long as a block, whose spectra are multiplied with those of the blocks of sound before
(overlap-save; T. G. Stockham, "High-speed convolution and correlation", AFIPS 1966; in equal partitions as in W. G.
Gardner, "Efficient convolution without input-output delay", JAES 43(3), 1995). A block of what comes out depends on as
many blocks of what goes in as the response is long, and on nothing else, so a render may begin anywhere.

Spectra are in single precision: what that adds lies 130 dB below what rings, and a transform takes half as long.
"""

from __future__ import annotations

import numpy as np
import scipy.fft
from numba import njit
from numpy.typing import NDArray

Spectrum = NDArray[np.complex64]


class Response:
    """An impulse response for two channels, in partitions of ``block`` samples."""

    def __init__(self, impulse: NDArray[np.float64], block: int) -> None:
        """``impulse`` has shape (n, 2)."""
        self.block = block
        count = -(-len(impulse) // block)
        padded = np.zeros((count * block, 2))
        padded[: len(impulse)] = impulse
        # One that is the same for both channels is kept once: what takes time is to read it.
        channels = 1 if np.array_equal(impulse[:, 0], impulse[:, 1]) else 2
        parts = np.zeros((count, channels, 2 * block), np.float32)
        parts[:, :, :block] = padded[:, :channels].reshape(count, block, channels).transpose(0, 2, 1)
        self._parts: Spectrum = scipy.fft.rfft(parts, axis=2)

    @property
    def blocks(self) -> int:
        """How many blocks before one are heard in it, itself included, and one more that its ends reach into."""
        return len(self._parts) + 1

    def spectrum(self, before: NDArray[np.float64], block: NDArray[np.float64]) -> Spectrum:
        """The spectrum of a block of sound and the one before it, each of shape (block, 2)."""
        joined = np.empty((2, 2 * self.block), np.float32)
        joined[:, : self.block], joined[:, self.block :] = before.T, block.T
        return np.asarray(scipy.fft.rfft(joined, axis=1, overwrite_x=True))

    def convolved(self, spectra: list[Spectrum | None]) -> NDArray[np.float64]:
        """A block of what comes out; shape (block, 2).

        ``spectra`` are those of the block and of those before it, the latest first; None is silence.
        """
        total = np.zeros((2, self.block + 1), np.complex64)
        for part, spectrum in zip(self._parts, spectra, strict=False):
            if spectrum is not None:
                _add_product(_halves(total), _halves(part), _halves(spectrum))
        rung = scipy.fft.irfft(total, axis=1, overwrite_x=True)
        return np.ascontiguousarray(rung[:, self.block :].T, dtype=np.float64)


def _halves(spectrum: Spectrum) -> NDArray[np.float32]:
    """The same memory with real and imaginary parts in an axis of their own; shape (channels, bins, 2)."""
    return spectrum.view(np.float32).reshape(*spectrum.shape, 2)


@njit(cache=True, nogil=True, fastmath=True)
def _add_product(total: NDArray[np.float32], one: NDArray[np.float32], other: NDArray[np.float32]) -> None:
    """Add a product of spectra, as ``_halves`` gives them, to a sum in place. By hand, for the compiler does several of
    these at a time and of complex numbers none."""
    for channel in range(total.shape[0]):
        same = min(channel, one.shape[0] - 1)
        for k in range(total.shape[1]):
            a, b = one[same, k, 0], one[same, k, 1]
            x, y = other[channel, k, 0], other[channel, k, 1]
            total[channel, k, 0] += a * x - b * y
            total[channel, k, 1] += a * y + b * x
