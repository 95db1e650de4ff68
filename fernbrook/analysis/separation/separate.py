"""A track taken apart: the voice first, then what recurs, with its grid, sections and voice spans for a guide."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from fernbrook.analysis.separation.bands import Sound, lower
from fernbrook.analysis.separation.drums import recurring
from fernbrook.analysis.separation.masking import against_the_rest, masked
from fernbrook.analysis.separation.slots import Slots
from fernbrook.analysis.separation.voice import hear, sung
from fernbrook.core.track import Grid, Section, SectionKind, VoiceSpan

BASS_BELOW_HZ = 190.0
CLEAN_BARS = 4
"""Drums alone for fewer bars are too few to be put together."""

Progress = Callable[[float], None]


@dataclass(frozen=True)
class Separated:
    """What a track was taken apart into; the rest, which is the music, is the track less all of these.

    ``coherent`` is the share of the sound that recurs, from 0 to 1; ``is_clean`` whether drums are alone somewhere;
    ``by_network`` whether the voice was heard by the trained network.
    """

    drums: Sound
    bass: Sound
    voice: Sound
    coherent: float
    is_clean: bool
    by_network: bool


def separate(
    sound: Sound,
    grid: Grid,
    sections: Sequence[Section],
    voice: Sequence[VoiceSpan],
    rate: int,
    progress: Progress = lambda _: None,
) -> Separated:
    """Take a sound apart; shape (n, 2), as all of its parts."""
    heard = hear(sound, grid, voice, rate)
    played = sound if heard is None else sound - heard
    progress(0.3)
    slots = Slots.of(grid, len(sound), rate)
    clean = clean_slots(slots, grid, sections, rate)
    found = recurring(played, slots, clean, rate)
    progress(0.75)
    is_clean = bool(clean.any())
    drums = found.sound if is_clean else masked(played, found.sound, against_the_rest)
    rest = played - drums
    progress(0.85)
    bass = lower(rest, BASS_BELOW_HZ, rate)
    above = rest - bass
    progress(0.9)
    left = sung(above, grid, voice, rate, heard)
    return Separated(drums, bass, left if heard is None else heard + left, found.coherent, is_clean, heard is not None)


def clean_slots(slots: Slots, grid: Grid, sections: Sequence[Section], rate: int) -> np.ndarray:
    """Which slots lie wholly in a section of drums alone that is long enough; shape (slots,), bool."""
    starts, ends = (grid.beat_at((slots.starts[i : i + slots.count]) / rate) for i in (0, 1))
    clean = np.zeros(slots.count, dtype=bool)
    for s in sections:
        if s.kind is SectionKind.BEAT and s.end - s.start >= CLEAN_BARS * grid.beats_per_bar:
            clean |= (starts >= s.start - 0.25) & (ends <= s.end)
    return clean
