"""A sound that is laid over the mix, beside its entries."""

from fernbrook.core.mix.layers.layer import (
    MADE_SOUNDS,
    MOST_LAYERS,
    Edge,
    Layer,
    Made,
    MadeSound,
    MadeSpec,
    OfTrack,
    OnEntry,
    OnMix,
    OnTransition,
)

__all__ = [
    "MADE_SOUNDS",
    "MOST_LAYERS",
    "Edge",
    "Layer",
    "Made",
    "MadeSound",
    "MadeSpec",
    "OfTrack",
    "OnEntry",
    "OnMix",
    "OnTransition",
]
