"""What the renderer plays: a source, how it is read, and what is done to it. Where it came from does not matter."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from fernbrook.core.mix.curves import CONTROLS, MIN_GAP, Control, Law, Processor, controls_of, gain_of
from fernbrook.core.mix.model import Crossovers
from fernbrook.core.mix.transitions import Effects, SideCurves
from fernbrook.core.plan.made_source import MadeSource
from fernbrook.core.plan.time_map import Segment
from fernbrook.core.tempo_map import TempoMap
from fernbrook.core.track import KEPT, FloatArray, Stem

STEP_S = 0.004
"""Over so long a control that steps does so."""


@dataclass(frozen=True)
class Automation:
    """Curves over a span of the mix. Before the span their first value holds, after it their last.

    ``slowest_bpm`` is the slowest tempo of the mix while its echoes are heard.
    """

    start_beat: float
    end_beat: float
    start_s: float
    end_s: float
    curves: SideCurves
    volume_law: Law
    effects: Effects
    slowest_bpm: float

    def places(self, beats: FloatArray) -> FloatArray:
        """Places in the span, 0 at its start and 1 at its end, for beats of the mix; same shape."""
        return np.asarray((beats - self.start_beat) / (self.end_beat - self.start_beat))

    def positions(self, control: Control, places: FloatArray) -> FloatArray:
        """The positions of a control at places in the span, which rise; same shape."""
        curve = self.curves.curve(control)
        level = curve.level_between(float(places[0]), float(places[-1]))
        if level is not None:
            return np.full(places.shape, level)
        return curve.value_at(places, max(MIN_GAP, STEP_S / (self.end_s - self.start_s)))

    def gains(self, control: Control, places: FloatArray) -> FloatArray:
        """The linear gains of a fader at places in the span, which rise; exactly 1 where it is neutral at the top."""
        law = self.volume_law if control is Control.VOLUME else CONTROLS[control].law
        return gain_of(self.positions(control, places), law)

    def moves(self, control: Control) -> bool:
        """Whether a control has something to do."""
        return control in self.curves.moving

    @property
    def tail_s(self) -> float:
        """For how long its effects ring on after the span."""
        tails = self.effects.tails(self.slowest_bpm)
        return max((tails.get(CONTROLS[control].processor, 0.0) for control in self.curves.moving), default=0.0)


@dataclass(frozen=True)
class Silence:
    """A span of the mix, in seconds, in which a part is not heard; what it sent to its effects ``rings`` on, or not."""

    start_s: float
    end_s: float
    rings: bool


@dataclass(frozen=True)
class DroppedStems:
    """A span of the mix, in seconds, in which some stems of a part are not heard."""

    start_s: float
    end_s: float
    stems: tuple[Stem, ...]


def stem_key(source: str, stem: Stem) -> str:
    """By what the file of a stem is known where that of its source is known by its id."""
    return f"{source}/{stem.value}"


@dataclass(frozen=True)
class Part:
    """What sounds of one source in the mix, in the order of its segments; each reads it by a map of its own.

    ``owner`` is the id of the entry that it belongs to, ``source`` the id of the track whose audio it plays, ``name``
    what messages call it; ``pitch`` is the factor by which its frequencies are higher than the source's. Its edges are
    softened by a few milliseconds where it comes in or goes by itself. What is ``made`` is computed; it reads its
    source, where it names one, only to be made of it.
    """

    owner: str
    source: str
    name: str
    start_s: float
    end_s: float
    tempo: TempoMap
    segments: tuple[Segment, ...]
    gain_db: float
    pitch: float
    automations: tuple[Automation, ...]
    silences: tuple[Silence, ...]
    dropped_stems: tuple[DroppedStems, ...]
    has_stems: bool
    crossovers: Crossovers
    comes_in: bool
    goes: bool
    made: MadeSource | None = None

    @property
    def turns_stems(self) -> bool:
        """Whether any of its stems is turned; what has none plays as it is."""
        moves = any(a.moves(c) for a in self.automations for c in controls_of(Processor.STEM))
        return self.has_stems and (moves or bool(self.dropped_stems))

    @property
    def sources(self) -> tuple[str, ...]:
        """By what all files that it reads are known."""
        stems = [stem_key(self.source, stem) for stem in KEPT] if self.turns_stems else []
        return (self.source, *stems) if self.source else ()

    @property
    def silent_s(self) -> float:
        """When nothing of it is heard any more, its echoes included."""
        return max([self.end_s, *(a.end_s + a.tail_s for a in self.automations if a.tail_s)])
