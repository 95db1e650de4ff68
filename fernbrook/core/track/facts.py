"""What the rules need to know of a track."""

from __future__ import annotations

import math
from collections.abc import Mapping
from enum import StrEnum
from functools import cached_property

from pydantic import Field

from fernbrook.core.track.bar_table import BarTable
from fernbrook.core.track.cue import Cue, CueRole, chosen
from fernbrook.core.track.energy import Energy
from fernbrook.core.track.grid import STAND_IN, Grid
from fernbrook.core.track.key import Key
from fernbrook.core.track.loop import Loop
from fernbrook.core.track.section import Section, VoiceSpan
from fernbrook.core.track.stems import StemsFact
from fernbrook.core.track.suggested import Known, SuggestedCue, SuggestedLoop, suggested_cues, suggested_loops
from fernbrook.core.value import Value

TAG_SURE = 0.9
"""A key that stands in the file's tags is believed so much."""
TELLING_SHARE = 0.3
"""Where nothing is known of its sections, music is under way from this share on."""


class DoubtKind(StrEnum):
    """What is doubtful about an analysis."""

    NO_BEAT = "no_beat"
    OCTAVE = "octave"
    PHASE = "phase"
    BAR = "bar"
    UNSTEADY = "unsteady"
    DRIFT = "drift"
    GAP = "gap"
    KEY = "key"
    CHANGED = "changed"


class Doubt(Value):
    """A plain reason to look at a track; ``bpm`` is the other tempo, ``at_s`` the place, where there is one."""

    kind: DoubtKind
    text: str = Field(max_length=2000)
    bpm: float | None = None
    at_s: float | None = None


OF_GRID = frozenset(DoubtKind) - {DoubtKind.KEY}
"""Doubts that a grid which was checked has settled."""


class KeyFact(Value):
    """The key of a track. ``confidence`` is from 0 to 1, None where the key comes from the file's tags."""

    key: Key
    confidence: float | None = None

    @property
    def sure(self) -> float:
        """How far it is believed, from 0 to 1."""
        return TAG_SURE if self.confidence is None else self.confidence


class TrackFacts(Value):
    """A track as the rules see it.

    ``version`` counts the changes of what is known of it.
    ``grid`` is None until the analysis has found one. ``sound_start_s`` and ``sound_end_s`` leave out silence at both
    ends of the file. ``doubts`` are what the analysis was not sure of; a grid that is ``checked`` was looked at since.
    """

    id: str
    version: int = 0
    title: str
    artist: str = ""
    duration_s: float
    grid: Grid | None = None
    loudness_lufs: float | None = None
    true_peak_dbtp: float | None = None
    short_term_max_lufs: float | None = None
    trim_db: float = 0.0
    sound_start_s: float = 0.0
    sound_end_s: float | None = None
    key: KeyFact | None = None
    sections: tuple[Section, ...] = ()
    voice: tuple[VoiceSpan, ...] = ()
    cues: tuple[Cue, ...] = ()
    loops: tuple[Loop, ...] = ()
    energy: Energy | None = None
    stems: StemsFact | None = None
    checked: bool = False
    doubts: tuple[Doubt, ...] = ()

    @cached_property
    def riding_grid(self) -> Grid:
        """The grid, or a stand-in of 120 BPM from the start where there is none."""
        return self.grid or STAND_IN

    @property
    def grid_doubt(self) -> Doubt | None:
        """The first reason to look at the grid before it is relied on; None where somebody has checked it."""
        return None if self.checked else next((d for d in self.doubts if d.kind in OF_GRID), None)

    @property
    def last_sound_s(self) -> float:
        """Where the sound ends: the end of the file where that is not known."""
        return self.duration_s if self.sound_end_s is None else self.sound_end_s

    @cached_property
    def suggested_cues(self) -> tuple[SuggestedCue, ...]:
        """Cues that are proposed beside those that there are."""
        return suggested_cues(self._known, self.cues)

    @cached_property
    def suggested_loops(self) -> tuple[SuggestedLoop, ...]:
        """Loops that are proposed beside those that there are."""
        return suggested_loops(self._known, self.loops)

    @cached_property
    def bars(self) -> BarTable:
        """The track bar by bar, from the first sound to the last."""
        grid = self.riding_grid
        first, last = grid.bar_lines.at(grid.beat_at([self.sound_start_s, self.last_sound_s]))
        begin, end = math.floor(first + 1e-6), math.ceil(last - 1e-6)
        return BarTable.of(begin, end, grid.bar_lines, self.sections, self.voice, self.energy)

    def cue_for(self, role: CueRole) -> Cue | None:
        """The cue of a role that decides where something lies: the preferred one, else the one that is suggested."""
        return chosen(self.cues, role) or chosen((p.cue for p in self.suggested_cues), role)

    @property
    def mean_energy(self) -> float | None:
        """How much is going on in it on the whole, from 0 to 1; None where that is not known."""
        return sum(self.energy.by_bar) / len(self.energy.by_bar) if self.energy and self.energy.by_bar else None

    @property
    def telling_s(self) -> float:
        """The moment from which a few seconds tell most of a track: the start of its section of most energy."""
        known = self._known
        energies = [(known.energy_of(s) or 0.0, -s.start) for s in self.sections]
        if not energies or max(energies)[0] <= 0.0:
            return self.duration_s * TELLING_SHARE
        return max(0.0, float(self.riding_grid.time_at(-max(energies)[1])))

    @property
    def _known(self) -> Known:
        return Known(self.riding_grid, self.sound_start_s, self.last_sound_s, self.sections, self.voice, self.energy)


Tracks = Mapping[str, TrackFacts]
"""The tracks that a mix knows, by their ids."""
