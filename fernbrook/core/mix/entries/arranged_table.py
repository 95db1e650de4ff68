"""An entry that was edited, bar by bar: what a track's own table becomes."""

from __future__ import annotations

import math

import numpy as np

from fernbrook.core.mix.entries.arrangement import Arrangement
from fernbrook.core.track import BarTable, Energy, Stem, TrackFacts

PITCHED = {Stem.BASS, Stem.VOICE, Stem.MUSIC}


def table_of(heard: Arrangement, track: TrackFacts) -> BarTable:
    """The bars of an entry from its first sound to its last, as they are heard."""
    bar = heard.bar
    start, end = heard.extent_of(track.sound_start_s, track.last_sound_s)
    first, last = math.floor(start / bar + 1e-6), math.ceil(end / bar - 1e-6)
    sections, voice = heard.sections(track.sections), heard.voice(track.voice)
    table = BarTable.of(first, last, bar, sections, voice, _energy(heard, track, first, last))
    middles = (first + np.arange(len(table.bass)) + 0.5) * bar
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
    known, per_bar = track.energy.by_bar, track.riding_grid.beats_per_bar
    levels = []
    for number in range(first, last):
        middle = (number + 0.5) * heard.bar
        place = math.floor(heard.piece_at(middle).played.to_grid(middle) / per_bar) - track.energy.first_bar
        levels.append(known[place] if 0 <= place < len(known) else 0.0)
    return Energy(first_bar=first, by_bar=tuple(levels))
