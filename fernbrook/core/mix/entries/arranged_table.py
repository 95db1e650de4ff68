"""An entry that was edited, bar by bar: what a track's own table becomes."""

from __future__ import annotations

import math

import numpy as np

from fernbrook.core.mix.entries.arrangement import Arrangement
from fernbrook.core.track import BarTable, Energy, Stem, TrackFacts

PITCHED = {Stem.BASS, Stem.VOICE, Stem.MUSIC}


def table_of(heard: Arrangement, track: TrackFacts) -> BarTable:
    """The bars of an entry from its first sound to its last, as they are heard."""
    lines = heard.bar_lines
    start, end = lines.at(heard.extent_of(track.sound_start_s, track.last_sound_s))
    first, last = math.floor(start + 1e-6), math.ceil(end - 1e-6)
    sections, voice = heard.sections(track.sections), heard.voice(track.voice)
    table = BarTable.of(first, last, lines, sections, voice, _energy(heard, track, first, last))
    middles = lines.beat_of(first + np.arange(len(table.bass)) + 0.5)
    for one in heard.dropped:
        inside = (middles > one.start) & (middles < one.end)
        gone = set(one.stems) or set(Stem)
        if Stem.BASS in gone:
            table.bass[inside] = 0.0
        if gone >= PITCHED:
            table.pitched[inside] = 0.0
        if gone == set(Stem):
            table.energy[inside] = 0.0
    return table


def _energy(heard: Arrangement, track: TrackFacts, first: int, last: int) -> Energy | None:
    """How much is going on in each bar of the entry: what is in the bar of the track that its middle lies in."""
    if track.energy is None or last <= first:
        return None
    known, there = track.energy.by_bar, track.riding_grid.bar_lines
    levels = []
    for middle in heard.bar_lines.beat_of(np.arange(first, last) + 0.5).tolist():
        place = int(there.bar_of(heard.piece_at(middle).played.to_grid(middle))) - track.energy.first_bar
        levels.append(known[place] if 0 <= place < len(known) else 0.0)
    return Energy(first_bar=first, by_bar=tuple(levels))
