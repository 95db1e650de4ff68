"""A mix as lanes for an audio editor: what each entry and each layer adds to it, before the limiter."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

from fernbrook.audio.sources import Block
from fernbrook.core.mix.layers import Layer, Made
from fernbrook.core.plan import DroppedStems, Part, Plan
from fernbrook.core.track import STEMS, Stem
from fernbrook.render.renderer import unlimited

AROUND_S = 1.0


@dataclass(frozen=True)
class Lane:
    """What lies on one lane: an entry or a layer, or one ``stem`` of it; ``number`` counts either from 1."""

    number: int
    name: str
    is_layer: bool
    stem: Stem | None
    parts: tuple[Part, ...]

    @property
    def sources(self) -> set[str]:
        """By what the files that it reads are known."""
        return {key for part in self.parts for key in part.sources}

    @property
    def start_s(self) -> float:
        """When it is first heard."""
        return max(0.0, min(p.start_s for p in self.parts))

    @property
    def end_s(self) -> float:
        """When nothing of it is heard any more."""
        return max(p.silent_s for p in self.parts)


def lanes_of(plan: Plan, *, by_stem: bool, curves: bool) -> list[Lane]:
    """The lanes of a mix, entries first, then layers; ``by_stem`` one for each stem of those that have any.

    Without ``curves`` each plays as loud as it is, from where it is first used to where it is last: to be mixed again.
    """
    owners: dict[str, list[Part]] = {}
    for part in plan.parts:
        owners.setdefault(part.owner, []).append(part if curves else replace(part, automations=()))
    entries = {e.entry.id for e in plan.entries}
    names = {x.layer.id: _called(x.layer) for x in plan.layers}
    lanes: list[Lane] = []
    counts = {True: 0, False: 0}
    for owner, parts in owners.items():
        is_layer = owner not in entries
        counts[is_layer] += 1
        apart = by_stem and all(p.has_stems and p.made is None for p in parts)
        for stem in STEMS if apart else (None,):
            alone = tuple(_only(p, stem) for p in parts)
            lanes.append(Lane(counts[is_layer], names.get(owner) or parts[0].name, is_layer, stem, alone))
    return lanes


def lane_blocks(lane: Lane, paths: Mapping[str, Path], frames: int, gain_db: float = 0.0) -> Iterator[Block]:
    """A lane from the start of the mix on, ``frames`` samples at its rate; blocks of shape (n, 2)."""
    gain = np.float32(10.0 ** (gain_db / 20.0))
    for block in unlimited(lane.parts, paths, frames):
        yield block * gain if gain_db else block


def _called(layer: Layer) -> str:
    """The name of a layer; none where it is called as its track is."""
    return layer.name or (layer.sound.sound.value.replace("_", " ") if isinstance(layer.sound, Made) else "")


def _only(part: Part, stem: Stem | None) -> Part:
    """A part of which one stem is heard."""
    if stem is None:
        return part
    others = tuple(s for s in STEMS if s is not stem)
    others_dropped = DroppedStems(part.start_s - AROUND_S, part.end_s + AROUND_S, others)
    return replace(part, dropped_stems=(*part.dropped_stems, others_dropped))
