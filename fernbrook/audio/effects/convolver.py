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
        parts = np.zeros((count, 2, 2 * block), np.float32)
        parts[:, :, :block] = padded.reshape(count, block, 2).transpose(0, 2, 1)
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
                _add_product(total, part, spectrum)
        rung = scipy.fft.irfft(total, axis=1, overwrite_x=True)
        return np.ascontiguousarray(rung[:, self.block :].T, dtype=np.float64)


@njit(cache=True, nogil=True, fastmath=True)
def _add_product(total: Spectrum, one: Spectrum, other: Spectrum) -> None:
    """Add a product to a sum, in place. Real and imaginary parts by hand, which the compiler does several at a time."""
    for channel in range(total.shape[0]):
        out = total[channel].view(np.float32)
        x, y = one[channel].view(np.float32), other[channel].view(np.float32)
        for k in range(0, len(out), 2):
            out[k] += x[k] * y[k] - x[k + 1] * y[k + 1]
            out[k + 1] += x[k] * y[k + 1] + x[k + 1] * y[k]
