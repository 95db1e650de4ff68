"""A track bar by bar, as whoever looks for a place to mix it sees it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fernbrook.core.track.energy import Energy
from fernbrook.core.track.section import Section, SectionKind, VoiceSpan

Floats = NDArray[np.float64]

PHRASE_BARS = 8
HALF_KNOWN = 0.5
"""What is assumed of the bass and the energy of a bar of which nothing is known; notes are assumed to be there."""
SECTION, PHRASE, HALF_PHRASE = 1.0, 0.6, 0.3
"""How much of a line there is where a section begins, and every eight and four bars from there on."""
BASSES = frozenset({SectionKind.BASS, SectionKind.FULL})


@dataclass(frozen=True, eq=False)
class BarTable:
    """One number a bar, from bar ``first`` of the grid on (bar 0 begins at beat 0); each of shape (n,).

    ``pitched`` is 1 where anything but drums sounds, ``bass`` where there is a bass, ``voice`` is the share of the bar
    in which somebody sings, ``energy`` from 0 to 1. ``line`` is how strongly something begins with the bar.
    """

    first: int
    pitched: Floats
    bass: Floats
    voice: Floats
    energy: Floats
    line: Floats

    @classmethod
    def of(
        cls,
        first: int,
        last: int,
        bar: float,
        sections: Sequence[Section],
        voice: Sequence[VoiceSpan],
        energy: Energy | None,
    ) -> BarTable:
        """The table from bar ``first`` up to bar ``last``, where bars have ``bar`` beats."""
        count = max(1, last - first)
        starts = np.asarray((first + np.arange(count)) * float(bar), dtype=np.float64)
        kinds = [next((s.kind for s in sections if s.start <= b + bar / 2 < s.end), None) for b in starts]
        known = [k is not None for k in kinds]
        return cls(
            first=first,
            pitched=np.array([k is not SectionKind.BEAT for k in kinds], dtype=np.float64),
            bass=np.where(known, [k in BASSES for k in kinds], HALF_KNOWN).astype(np.float64),
            voice=_shares(starts, bar, voice),
            energy=_energies(first, count, energy),
            line=_lines(starts, bar, sections),
        )


def _shares(starts: Floats, bar: float, spans: Sequence[VoiceSpan]) -> Floats:
    shares = np.zeros(len(starts))
    for span in spans:
        shares += np.clip(np.minimum(starts + bar, span.end) - np.maximum(starts, span.start), 0.0, None) / bar
    return np.asarray(np.minimum(shares, 1.0))


def _energies(first: int, count: int, energy: Energy | None) -> Floats:
    found = np.full(count, HALF_KNOWN)
    if energy is not None:
        for i, value in enumerate(energy.by_bar):
            place = energy.first_bar + i - first
            if 0 <= place < count:
                found[place] = value
    return found


def _lines(starts: Floats, bar: float, sections: Sequence[Section]) -> Floats:
    """Section starts that fall on a bar line are lines, and so is every eighth bar from the last of them on."""
    edges = sorted({0.0, *(float(np.rint(s.start / bar) * bar) for s in sections)})
    lines = np.zeros(len(starts))
    for i, start in enumerate(starts):
        since = start - max((e for e in edges if e <= start), default=0.0)
        bars = int(np.rint(since / bar))
        if bars == 0 and (sections or start == 0.0):
            lines[i] = SECTION
        elif bars % PHRASE_BARS == 0:
            lines[i] = PHRASE
        elif bars % (PHRASE_BARS // 2) == 0:
            lines[i] = HALF_PHRASE
    return lines
