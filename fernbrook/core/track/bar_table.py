"""A track bar by bar, as whoever looks for a place to mix it sees it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fernbrook.core.track.bar_lines import PHRASE_BARS, BarLines
from fernbrook.core.track.energy import Energy
from fernbrook.core.track.section import Section, SectionKind, VoiceSpan

Floats = NDArray[np.float64]

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
        lines: BarLines,
        sections: Sequence[Section],
        voice: Sequence[VoiceSpan],
        energy: Energy | None,
    ) -> BarTable:
        """The table from bar ``first`` up to bar ``last``, counted by bar lines."""
        count = max(1, last - first)
        edges = lines.beat_of(first + np.arange(count + 1))
        kinds = [next((s.kind for s in sections if s.start <= b < s.end), None) for b in (edges[1:] + edges[:-1]) / 2.0]
        known = [k is not None for k in kinds]
        return cls(
            first=first,
            pitched=np.array([k is not SectionKind.BEAT for k in kinds], dtype=np.float64),
            bass=np.where(known, [k in BASSES for k in kinds], HALF_KNOWN).astype(np.float64),
            voice=_shares(edges, voice),
            energy=_energies(first, count, energy),
            line=_lines(first + np.arange(count, dtype=np.float64), lines, sections),
        )


def _shares(edges: Floats, spans: Sequence[VoiceSpan]) -> Floats:
    shares = np.zeros(len(edges) - 1)
    for span in spans:
        sung = np.minimum(edges[1:], span.end) - np.maximum(edges[:-1], span.start)
        shares += np.clip(sung, 0.0, None) / np.diff(edges)
    return np.asarray(np.minimum(shares, 1.0))


def _energies(first: int, count: int, energy: Energy | None) -> Floats:
    found = np.full(count, HALF_KNOWN)
    if energy is not None:
        for i, value in enumerate(energy.by_bar):
            place = energy.first_bar + i - first
            if 0 <= place < count:
                found[place] = value
    return found


def _lines(bars: Floats, lines: BarLines, sections: Sequence[Section]) -> Floats:
    """Section starts that fall on a bar line are lines, and so is every eighth bar from the last of them on, or from
    where a phrase starts again."""
    begins = sorted({0, *lines.phrases.astype(int).tolist(), *(round(float(lines.at(s.start))) for s in sections)})
    enters = {0} if not sections else {0, *(round(float(lines.at(s.start))) for s in sections)}
    found = np.zeros(len(bars))
    for i, bar in enumerate(bars):
        since = bar - max((b for b in begins if b <= bar), default=0)
        if since == 0 and bar in enters:
            found[i] = SECTION
        elif since % PHRASE_BARS == 0:
            found[i] = PHRASE
        elif since % (PHRASE_BARS // 2) == 0:
            found[i] = HALF_PHRASE
    return found
