"""What is wished of an order: how much each thing counts, the shape of its energy, its start, its length."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated

import numpy as np
from pydantic import Field, model_validator

from fernbrook.core.mix.entries import Bpm
from fernbrook.core.track import FloatArray, Key
from fernbrook.core.value import Value

MOST_POINTS = 64
Share = Annotated[float, Field(ge=0.0, le=1.0)]
Weight = Annotated[float, Field(ge=0.0, le=4.0)]


class EnergyShape(StrEnum):
    """How the energy is to go over the mix. Steady asks for small steps, the others for a level at each place."""

    ANY = "any"
    STEADY = "steady"
    RISING = "rising"
    WAVE = "wave"
    ARC = "arc"
    DRAWN = "drawn"


READY: dict[EnergyShape, tuple[tuple[float, float], ...]] = {
    EnergyShape.RISING: ((0.0, 0.1), (1.0, 1.0)),
    EnergyShape.WAVE: ((0.0, 0.2), (0.22, 0.7), (0.34, 0.35), (0.58, 0.85), (0.7, 0.45), (0.9, 1.0), (1.0, 0.7)),
    EnergyShape.ARC: ((0.0, 0.1), (0.65, 1.0), (1.0, 0.25)),
}
"""Ready-made shapes: places in the mix, and how much energy is wished there, both from 0 to 1."""


class Weights(Value):
    """How much each thing counts: 0 not at all, 1 as usual, 4 above all."""

    tempo: Weight = 1.0
    key: Weight = 1.0
    energy: Weight = 1.0
    artist: Weight = 1.0
    pairing: Weight = 1.0
    room: Weight = 1.0


class Wishes(Value):
    """What is wished of an order.

    ``drawn`` are the points of a shape drawn by hand. ``shifts`` allows to move keys by a semitone. Up to ``leave_out``
    entries may be left out where they fit nowhere; ``length_s`` is a wished length, to be met within ``within_s`` by
    leaving out what does not fit into it.
    """

    weights: Weights = Weights()
    shape: EnergyShape = EnergyShape.WAVE
    drawn: tuple[tuple[Share, Share], ...] = Field(default=(), max_length=MOST_POINTS)
    shifts: bool = False
    start_bpm: Bpm | None = None
    start_key: Key | None = None
    leave_out: int = Field(default=0, ge=0, le=500)
    length_s: float | None = Field(default=None, ge=60.0, le=86_400.0)
    within_s: float = Field(default=120.0, ge=10.0, le=3_600.0)

    @model_validator(mode="after")
    def _drawn_forwards(self) -> Wishes:
        places = [place for place, _ in self.drawn]
        if places != sorted(places):
            raise ValueError("the points of a drawn shape must go from left to right")
        if self.shape is EnergyShape.DRAWN and len(self.drawn) < 2:
            raise ValueError("a drawn shape needs two points or more")
        return self

    def levels(self, places: int) -> FloatArray | None:
        """The energy that is wished at each of so many places, from 0 to 1; None where none is.

        >>> [round(float(level), 2) for level in Wishes(shape=EnergyShape.RISING).levels(3)]
        [0.1, 0.55, 1.0]
        """
        points = self.drawn if self.shape is EnergyShape.DRAWN else READY.get(self.shape)
        if not points:
            return None
        at, level = np.array(points, dtype=np.float64).T
        return np.asarray(np.interp(np.linspace(0.0, 1.0, max(places, 2))[:places], at, level))
