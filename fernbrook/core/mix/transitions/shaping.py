"""A shape put into a place: what makes a transition of it."""

from __future__ import annotations

from fernbrook.core.mix.transitions.saved_shape import SavedShape
from fernbrook.core.mix.transitions.shape import Manner, ReadyShape, Shape, shape_of
from fernbrook.core.mix.transitions.transition import Kind, Transition


def shape_for(shape: ReadyShape | SavedShape, beats: float, bar: float) -> Shape:
    """A ready-made or a saved shape for an overlap of ``beats`` beats in bars of ``bar``."""
    return shape.fitted(beats, bar) if isinstance(shape, SavedShape) else shape_of(shape, beats, bar)


def transition_of(shape: Shape, pair: tuple[str, str], out_at: float, in_at: float, beats: float) -> Transition:
    """The transition of two entries that has a shape; ``beats`` is of account for a blend alone."""
    return Transition(
        out_id=pair[0],
        in_id=pair[1],
        out_at=out_at,
        in_at=in_at,
        beats=beats if shape.kind is Kind.BLEND else 0.0,
        outgoing=shape.outgoing,
        incoming=shape.incoming,
        **{name: getattr(shape, name) for name in Manner.model_fields},
    )


def reshaped(transition: Transition, shape: Shape, beats: float) -> Transition:
    """A transition that has another shape in the place where it lies; its fine offset stays."""
    made = transition_of(shape, transition.pair, transition.out_at, transition.in_at, beats)
    return made.model_copy(update={"nudge_ms": transition.nudge_ms})
