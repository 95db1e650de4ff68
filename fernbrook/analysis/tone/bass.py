"""Which note the bass plays, frame by frame: the low note whose partials are all there.

Summed over its first partials (after the harmonic sum of D. J. Hermes, "Measurement of pitch by subharmonic summation",
JASA 83, 1988), a bass is told even where its fundamental lies closer to its neighbour's than a frame can part them.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

LOWEST, HIGHEST = 28, 55
"""MIDI notes E1 to G3, 41 to 196 Hz."""
PARTIALS = 5
FALL = 0.7
"""A partial counts by its number to the minus this."""
WIDTH = 0.35
"""How far off a partial may be, in semitones;"""
BLUR_HZ = 3.5
"""or in Hz, whichever is more: a frame tells no two tones apart that are closer."""
CLEAR_HZ = 900.0
"""Partials above are those of other instruments."""


def partials(hz: NDArray[np.floating]) -> NDArray[np.float32]:
    """What each bin of a spectrum counts for each bass note; shape (bins, notes)."""
    pitch = 69.0 + 12.0 * np.log2(np.maximum(hz, 1.0) / 440.0)
    notes = np.arange(LOWEST, HIGHEST + 1)
    counts = np.zeros((len(hz), len(notes)))
    for partial in range(1, PARTIALS + 1):
        at = notes + 12.0 * np.log2(partial)
        tone_hz = 440.0 * 2.0 ** ((at - 69.0) / 12.0)
        width = np.maximum(WIDTH, 12.0 * np.log2(1.0 + BLUR_HZ / tone_hz))
        near = np.exp(-0.5 * ((pitch[:, None] - at) / width) ** 2) * (hz <= CLEAR_HZ)[:, None]
        counts += near / np.maximum(near.sum(axis=0), 1e-9) / partial**FALL
    return counts.astype(np.float32)


def bass_classes(strength: NDArray[np.float32]) -> NDArray[np.float32]:
    """Pitch classes of the bass; rows add up to how strongly any bass sounds; shape (frames, 12).

    ``strength`` is that of each note by its partials; shape (frames, notes).
    """
    above = np.maximum(strength - np.median(strength, axis=1, keepdims=True), 0.0)
    loud = above.max(axis=1, keepdims=True)
    # To the fourth power: the strongest is the bass, and the notes above share its partials.
    share = (above / np.maximum(loud, 1e-12)) ** 4
    share *= loud / np.maximum(share.sum(axis=1, keepdims=True), 1e-12)
    classes = np.zeros((len(strength), 12), dtype=np.float32)
    for i in range(strength.shape[1]):
        classes[:, (LOWEST + i) % 12] += share[:, i]
    return classes
