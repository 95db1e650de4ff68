"""The drums of a track: what recurs coherently at the same place of other bars.

Repetition tells accompaniment from what is laid over it (Z. Rafii, B. Pardo: REpeating Pattern Extraction Technique,
IEEE TASLP 2013); here it is the sound itself that recurs, hit by hit, and not its spectrum: samples of other bars,
aligned to within a sample, are put together, and what they share is subtracted. Where some stretch of the track is
drums alone they come from there, and are clean.
"""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import fft

from fernbrook.analysis.separation.bands import Sound, split
from fernbrook.analysis.separation.slots import Slots

STRAY_S = 0.015
"""Hits lie within so much of where the grid has them."""
CLEAN, OTHERS = 8, 128
"""So many slots of stretches with drums alone, or of other bars, are put together."""
LOOKED_AT = 128
MOST_GAIN = 1.2
QUIET = 1e-7


@dataclass(frozen=True)
class Recurring:
    """What recurs in a sound; shape (n, 2). ``coherent`` is the share of the energy at the onsets that does."""

    sound: Sound
    coherent: float


def recurring(sound: Sound, slots: Slots, clean: NDArray[np.bool_], rate: int) -> Recurring:
    """What recurs in a sound, slot by slot and band by band.

    ``clean`` says of each slot whether drums alone are heard there; where it does of none, all other bars are used.
    """
    chosen = _sources(slots, clean)
    with ThreadPoolExecutor(3) as threads:
        parts = list(threads.map(lambda band: _of_band(band, slots, chosen, clean, rate), split(sound, rate)))
    shared, total = sum(p[1] for p in parts), sum(p[2] for p in parts)
    return Recurring(np.asarray(sum(p[0] for p in parts), dtype=np.float32), shared / max(total, QUIET))


def _sources(slots: Slots, clean: NDArray[np.bool_]) -> list[NDArray[np.int64]]:
    """The slots at the same place of other bars that each is looked for in."""
    by_place = {p: np.flatnonzero(slots.place[: slots.count] == p) for p in np.unique(slots.place)}
    found = []
    for i in range(slots.count):
        same = by_place[int(slots.place[i])]
        same = same[slots.bar[same] != slots.bar[i]]
        drums = same[clean[same]]
        pool = drums if len(drums) >= 2 else same
        nearest = pool[np.argsort(np.abs(slots.bar[pool] - slots.bar[i]), kind="stable")]
        found.append(nearest[:LOOKED_AT])
    return found


def _of_band(
    band: Sound, slots: Slots, sources: list[NDArray[np.int64]], clean: NDArray[np.bool_], rate: int
) -> tuple[Sound, float, float]:
    stray = round(STRAY_S * rate)
    # Wherever a slot lies, and however far a hit strays from it, there is sound to take: silence beyond both ends.
    zero = stray + 1 + max(0, -int(slots.starts.min()))
    after = int(slots.starts.max()) + slots.length + 2 * stray + 1 - len(band)
    padded = np.pad(band, ((zero, max(0, after)), (0, 0)))
    mono = np.diff(padded.mean(axis=1), prepend=0.0).astype(np.float32)
    size = fft.next_fast_len(slots.length + 2 * stray, real=True)

    def spectra(before: int, length: int) -> NDArray[np.complex64]:
        pieces = np.zeros((slots.count, size), np.float32)
        for i in range(slots.count):
            begin = zero + int(slots.starts[i]) - before
            piece = mono[begin : begin + length]
            pieces[i, : len(piece)] = piece
        return np.asarray(fft.rfft(pieces, axis=1))

    wanted = np.conj(spectra(0, slots.length))
    wide = spectra(stray, slots.length + 2 * stray)
    out = np.zeros_like(padded)
    shared = total = 0.0
    for i in range(slots.count):
        pool = sources[i]
        if not len(pool):
            continue
        like = fft.irfft(wide[pool] * wanted[i], size, axis=1)[:, : 2 * stray + 1]
        lags = np.argmax(like, axis=1)
        heights = like[np.arange(len(pool)), lags]
        is_clean = bool(clean[pool].all())
        best = np.argsort(-heights)[: CLEAN if is_clean else OTHERS]
        window = slots.window(i)
        n = len(window)
        starts = zero + slots.starts[pool[best]] - stray + lags[best]
        taken = np.stack([padded[s : s + n] for s in starts])
        made = np.median(taken, axis=0) if is_clean else taken.mean(axis=0)
        begin = zero + int(slots.starts[i])
        here = padded[begin : begin + n]
        power = float(np.sum(made**2))
        gain = float(np.clip(np.sum(here * made) / power, 0.0, MOST_GAIN)) if power > QUIET else 0.0
        out[begin : begin + n] += gain * made * window[:, None]
        shared += gain * gain * power
        total += float(np.sum(here**2))
    return out[zero : zero + len(band)], shared, total
