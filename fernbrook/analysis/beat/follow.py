"""Following a player: a pulse whose tempo may change, from the local tempo and then from beat to beat.

The local tempo is a path of least cost through a tempogram (P. Grosche and M. Mueller, "Extracting predominant local
pulse information from music recordings", IEEE TASLP 19(6), 2011, use the same local Fourier sums); the beats are found
along it by dynamic programming (D. Ellis, "Beat tracking by dynamic programming", JNMR 36(1), 2007). Where nothing
sounds, the path and the beats go on as they were: gaps are bridged.
"""

from __future__ import annotations

import numpy as np
from numba import njit
from numpy.typing import NDArray
from scipy.fft import rfft

WINDOW_S, HOP_S = 6.0, 0.5
SPAN, WIDE = 0.3, 0.48
"""How far the local tempo may be from the rough one, as a share of it: so that a third more or less is not taken for
it; or, where the former leaves much out, up to where half as much again would be."""
STEP = 0.0025
"""Distance of neighbouring tempi, as a share."""
CHANGE_COST = 60.0
"""What a change of the local tempo costs for each unit of its logarithm, in units of the tempogram's spread."""
JUMP_COST = 2.5
"""No change costs more than this: a sudden new tempo is possible, when it lasts."""
PADDED = 16_384
AT_ONCE = 16
"""Windows in one go: few enough to stay in the processor's cache."""
TIGHTNESS = 400.0
"""How strictly the beats keep to the local tempo, as in the paper."""

Array = NDArray[np.float64]


def follow(strength: Array, rate: float, rough_bpm: float, span: float = SPAN) -> Array:
    """Times in seconds of all pulses near a rough tempo; shape (n,), rising."""
    times, tempi = local_tempo(strength, rate, rough_bpm, span)
    period = 60.0 * rate / np.interp(np.arange(len(strength)) / rate, times, tempi)
    scaled = strength / max(float(strength.std()), 1e-9)
    return np.asarray(_beats(scaled, period, TIGHTNESS) / rate)


def local_tempo(strength: Array, rate: float, rough_bpm: float, span: float = SPAN) -> tuple[Array, Array]:
    """Times of windows and the tempo in each; both of shape (windows,)."""
    count = round(2 * np.log(1.0 + span) / STEP) + 1
    tempi = rough_bpm * np.exp((np.arange(count) - count // 2) * STEP)
    size, hop = round(WINDOW_S * rate), round(HOP_S * rate)
    padded = np.pad(strength, (size // 2, size))
    windows = np.lib.stride_tricks.sliding_window_view(padded, size)[: len(strength) : hop]
    bell = np.hanning(size).astype(np.float32)
    hz = tempi / 60.0
    score = np.zeros((len(windows), count))
    bins = np.arange(PADDED // 2 + 1)
    for begin in range(0, len(windows), AT_ONCE):
        some = windows[begin : begin + AT_ONCE].astype(np.float32)
        spectra = np.abs(rfft((some - some.mean(axis=1, keepdims=True)) * bell, PADDED, axis=1))
        for i, spectrum in enumerate(spectra, begin):
            for harmonic in (1, 2, 4):
                score[i] += np.interp(hz * harmonic * PADDED / rate, bins, spectrum)
    spread = score.max(axis=1, keepdims=True) - score.mean(axis=1, keepdims=True)
    score = (score - score.mean(axis=1, keepdims=True)) / max(float(np.median(spread)), 1e-9)
    path = _path(score, CHANGE_COST * STEP, JUMP_COST)
    return np.arange(len(windows)) * hop / rate, tempi[path]


@njit(cache=True)
def _path(score: NDArray[np.float64], step_cost: float, jump_cost: float) -> NDArray[np.int64]:
    """The states, one a row, with the largest sum of scores less the cost of changes (Viterbi)."""
    rows, states = score.shape
    best = score[0].copy()
    came = np.zeros((rows, states), dtype=np.int64)
    for row in range(1, rows):
        top = int(np.argmax(best))
        # Costs rise linearly with distance, so two sweeps find the best neighbour of every state.
        value = best.copy()
        origin = np.arange(states)
        for s in range(1, states):
            if value[s - 1] - step_cost > value[s]:
                value[s], origin[s] = value[s - 1] - step_cost, origin[s - 1]
        for s in range(states - 2, -1, -1):
            if value[s + 1] - step_cost > value[s]:
                value[s], origin[s] = value[s + 1] - step_cost, origin[s + 1]
        for s in range(states):
            if best[top] - jump_cost > value[s]:
                value[s], origin[s] = best[top] - jump_cost, top
            best[s] = value[s] + score[row, s]
            came[row, s] = origin[s]
    path = np.zeros(rows, dtype=np.int64)
    path[-1] = int(np.argmax(best))
    for row in range(rows - 1, 0, -1):
        path[row - 1] = came[row, path[row]]
    return path


@njit(cache=True)
def _beats(strength: NDArray[np.float64], period: NDArray[np.float64], tightness: float) -> NDArray[np.int64]:
    """Frames of the beats that hit the most strength at distances close to the local period."""
    n = len(strength)
    total = np.zeros(n)
    came = np.full(n, -1, dtype=np.int64)
    for i in range(n):
        p = period[i]
        best, at = 0.0, -1
        first, last = int(i - 1.5 * p), int(i - 0.66 * p)
        for j in range(max(first, 0), last + 1):
            off = np.log((i - j) / p)
            value = total[j] - tightness * off * off
            if at < 0 or value > best:
                best, at = value, j
        total[i] = strength[i] + (best if at >= 0 else 0.0)
        came[i] = at
    end = max(0, int(n - 1.5 * period[-1]))
    i = end + int(np.argmax(total[end:]))
    count = 0
    j = i
    while j >= 0:
        count += 1
        j = came[j]
    out = np.zeros(count, dtype=np.int64)
    for k in range(count - 1, -1, -1):
        out[k] = i
        i = came[i]
    return out
