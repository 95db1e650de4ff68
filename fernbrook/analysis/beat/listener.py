"""A trained listener: how much like a beat, and like the first of a bar, each moment sounds to a recurrent network.

The network is that of M. Heydari, F. Cwitkowitz and Z. Duan ("BeatNet: CRNN and particle filtering for online joint
beat, downbeat and meter tracking", ISMIR 2021): a convolution over a frame's spectrum, a linear layer, two LSTM layers
(S. Hochreiter and J. Schmidhuber, Neural Computation 9, 1997) and a softmax over beat, first beat and neither. Its
weights are theirs, under CC BY 4.0 (``LICENSES/``), as ``listener.npz``; ``bench/listener_weights.py`` made that. It
has heard what rhythms sound like in a thousand songs, and knows nothing of a steady tempo: its word is evidence.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files

import numpy as np
from numba import njit
from numpy.typing import NDArray
from scipy import fft

from fernbrook.analysis.framing import Framer, frames

SAMPLES, HOP = 2822, 882
"""A frame and a step at 44.1 kHz: 64 and 20 ms."""
RATE = 44_100
FRAMES_PER_S = RATE / HOP
BINS = 705
BANDS_PER_OCTAVE, LOW_HZ, HIGH_HZ = 24, 30.0, 17_000.0
GATES = 4

Floats = NDArray[np.float32]


@dataclass(frozen=True)
class Heard:
    """How probable a beat, and the first beat of a bar, is at ``i / FRAMES_PER_S`` seconds; both of shape (frames,)."""

    beat: Floats
    first: Floats

    @property
    def any_beat(self) -> Floats:
        """How probable a beat of either kind is."""
        return self.beat + self.first

    def near(self, times_s: NDArray[np.float64]) -> tuple[Floats, Floats]:
        """The largest probability of any beat, and of a first one, within a frame of some moments; shape like those."""
        if not len(self.beat):
            return np.zeros(np.shape(times_s), np.float32), np.zeros(np.shape(times_s), np.float32)
        at = np.clip(np.rint(times_s * FRAMES_PER_S).astype(int), 0, len(self.beat) - 1)
        around = np.clip(at[..., None] + np.arange(-1, 2), 0, len(self.beat) - 1)
        return self.any_beat[around].max(axis=-1), self.first[around].max(axis=-1)

    def part(self, frames: slice) -> Heard:
        """Some frames of it alone."""
        return Heard(self.beat[frames], self.first[frames])

    def stored(self) -> NDArray[np.uint8]:
        """As it is kept, to 1/255; shape (2, frames)."""
        return np.asarray(np.rint(np.stack((self.beat, self.first)) * 255.0), dtype=np.uint8)

    @classmethod
    def of(cls, stored: NDArray[np.uint8]) -> Heard:
        """What was stored."""
        beat, first = stored.astype(np.float32) / np.float32(255.0)
        return cls(beat, first)


@dataclass(frozen=True)
class _Layer:
    """An LSTM layer: weights of its input and of its own state, shape (600, 150), and their bias, in the order input
    gate, forget gate, cell, output gate."""

    into: Floats
    own: Floats
    bias: Floats


@dataclass(frozen=True)
class _Weights:
    kernels: Floats
    kernel_bias: Floats
    linear: Floats
    linear_bias: Floats
    layers: tuple[_Layer, ...]
    out: Floats
    out_bias: Floats


@lru_cache(maxsize=1)
def _weights() -> _Weights:
    with files("fernbrook.analysis.beat").joinpath("listener.npz").open("rb") as file, np.load(file) as stored:
        w = {name: stored[name].astype(np.float32) for name in stored.files}
    layers = tuple(_Layer(w[f"into_{i}"], w[f"own_{i}"], w[f"bias_{i}"]) for i in range(2))
    return _Weights(w["kernels"], w["kernel_bias"], w["linear"], w["linear_bias"], layers, w["out"], w["out_bias"])


class ListenerMeter:
    """Takes mono blocks at 44.1 kHz in order; gives what the network makes of all of them."""

    def __init__(self) -> None:
        self._framer = Framer(SAMPLES, HOP)
        self._window = np.hanning(SAMPLES).astype(np.float32) * np.float32(0.5)
        self._bank = _bank()
        self._before: Floats | None = None
        cells = _weights().layers[0].own.shape[1]
        self._states = [(np.zeros(cells, np.float32), np.zeros(cells, np.float32)) for _ in range(2)]
        self._found: list[Floats] = []

    def add(self, mono: Floats) -> None:
        """Hear a block; shape (n,)."""
        signal, count = self._framer.add(mono)
        if count:
            spectra = np.abs(fft.rfft(frames(signal, SAMPLES, HOP, count) * self._window, axis=1)[:, :BINS])
            self._found.append(self._judged(np.log10(spectra @ self._bank + np.float32(1.0))))

    def result(self) -> Heard:
        """All frames heard so far."""
        found = np.concatenate(self._found) if self._found else np.zeros((0, 3), np.float32)
        return Heard(np.ascontiguousarray(found[:, 0]), np.ascontiguousarray(found[:, 1]))

    def _judged(self, levels: Floats) -> Floats:
        """Probabilities of beat, first beat and neither; shape (frames, 3)."""
        w = _weights()
        earlier = levels[:1] if self._before is None else self._before
        rise = np.maximum(levels - np.concatenate((earlier, levels[:-1])), 0.0)
        self._before = levels[-1:]
        inside = (
            _convolved(np.concatenate((levels, rise), axis=1), w.kernels, w.kernel_bias) @ w.linear.T + w.linear_bias
        )
        for i, layer in enumerate(w.layers):
            inside, self._states[i] = _through(layer, inside, self._states[i])
        scores = inside @ w.out.T + w.out_bias
        share = np.exp(scores - scores.max(axis=1, keepdims=True))
        return np.asarray(share / share.sum(axis=1, keepdims=True), dtype=np.float32)


@njit(cache=True, nogil=True, fastmath=True)
def _convolved(rows: Floats, kernels: Floats, bias: Floats) -> Floats:
    """Each row convolved with two kernels, rectified, the larger of each pair; shape (frames, 262)."""
    count, length = kernels.shape
    pairs = (rows.shape[1] - length + 1) // 2
    out = np.zeros((len(rows), count * pairs), np.float32)
    for i in range(len(rows)):
        for c in range(count):
            for b in range(2 * pairs):
                total = bias[c]
                for k in range(length):
                    total += rows[i, b + k] * kernels[c, k]
                out[i, c * pairs + b // 2] = max(out[i, c * pairs + b // 2], total)
    return out


def _through(layer: _Layer, rows: Floats, state: tuple[Floats, Floats]) -> tuple[Floats, tuple[Floats, Floats]]:
    """Rows through an LSTM layer from a state on; its outputs, shape (frames, cells), and the state after them."""
    hidden, cell = (values.copy() for values in state)
    out = _stepped(rows @ layer.into.T + layer.bias, layer.own, hidden, cell)
    return out, (hidden, cell)


@njit(cache=True, nogil=True, fastmath=True)
def _stepped(given: Floats, own: Floats, hidden: Floats, cell: Floats) -> Floats:
    """The steps of an LSTM, whose state goes on in ``hidden`` and ``cell``; shape (frames, cells)."""
    cells = len(cell)
    out = np.empty((len(given), cells), np.float32)
    gates = np.empty(GATES * cells, np.float32)
    for i in range(len(given)):
        for j in range(GATES * cells):
            total = given[i, j]
            for k in range(cells):
                total += own[j, k] * hidden[k]
            gates[j] = total
        for k in range(cells):
            taken = _share(gates[k]) * np.tanh(gates[2 * cells + k])
            cell[k] = _share(gates[cells + k]) * cell[k] + taken
            hidden[k] = _share(gates[3 * cells + k]) * np.tanh(cell[k])
            out[i, k] = hidden[k]
    return out


@njit(cache=True, nogil=True)
def _share(score: float) -> float:
    return 1.0 / (1.0 + np.exp(-score))


def _bank() -> Floats:
    """Triangles over the bins, 24 an octave about 440 Hz, each summing to one; shape (705, 136)."""
    hz = np.arange(BINS) * RATE / 2.0 / (2 * BINS)
    steps = np.arange(-BANDS_PER_OCTAVE * 5, BANDS_PER_OCTAVE * 6)
    centres = 440.0 * 2.0 ** (steps / BANDS_PER_OCTAVE)
    centres = centres[(centres >= LOW_HZ) & (centres <= HIGH_HZ)]
    above = np.clip(np.searchsorted(hz, centres), 1, BINS - 1)
    nearest = np.unique(above - (centres - hz[above - 1] < hz[above] - centres))
    bank = np.zeros((BINS, len(nearest) - 2))
    for band, (start, middle, end) in enumerate(zip(nearest, nearest[1:], nearest[2:], strict=False)):
        centre, stop = (middle, end) if end - start >= 2 else (start, start + 1)
        bank[start:centre, band] = np.linspace(0.0, 1.0, centre - start, endpoint=False)
        bank[centre:stop, band] = np.linspace(1.0, 0.0, stop - centre, endpoint=False)
    return np.asarray(bank / bank.sum(axis=0), dtype=np.float32)
