"""How two neighbours meet: the kind, the place, the curves, the effects, and the shapes that all of it starts from."""

from fernbrook.core.mix.transitions.effects import (
    LONGEST_ECHO,
    LONGEST_TAIL_S,
    MOST_FEEDBACK,
    SHORTEST_ECHO,
    SHORTEST_REVERB_S,
    Effects,
)
from fernbrook.core.mix.transitions.gap import LONGEST_GAP, SHORTEST_GAP, Gap, GapBefore, GapSide
from fernbrook.core.mix.transitions.meeting import gap_of, handed_over_at
from fernbrook.core.mix.transitions.ride import ridden
from fernbrook.core.mix.transitions.saved_shape import SavedShape
from fernbrook.core.mix.transitions.shape import (
    READY,
    Manner,
    ReadyShape,
    ShapeLabel,
    apart_shape,
    fade_shape,
    handed,
    manner_of,
    middle_phrase,
    shape_of,
)
from fernbrook.core.mix.transitions.shaping import reshaped, shape_for, transition_of
from fernbrook.core.mix.transitions.take import MOST_TAKES, Take
from fernbrook.core.mix.transitions.transition import (
    LONGEST_FADE_S,
    LONGEST_WAY,
    MOST_NUDGE_MS,
    HeldCue,
    Kind,
    Side,
    SideCurves,
    TempoPolicy,
    TempoWay,
    Transition,
)

__all__ = [
    "LONGEST_ECHO",
    "LONGEST_FADE_S",
    "LONGEST_GAP",
    "LONGEST_TAIL_S",
    "LONGEST_WAY",
    "MOST_FEEDBACK",
    "MOST_NUDGE_MS",
    "MOST_TAKES",
    "READY",
    "SHORTEST_ECHO",
    "SHORTEST_GAP",
    "SHORTEST_REVERB_S",
    "Effects",
    "Gap",
    "GapBefore",
    "GapSide",
    "HeldCue",
    "Kind",
    "Manner",
    "ReadyShape",
    "SavedShape",
    "ShapeLabel",
    "Side",
    "SideCurves",
    "Take",
    "TempoPolicy",
    "TempoWay",
    "Transition",
    "apart_shape",
    "fade_shape",
    "gap_of",
    "handed",
    "handed_over_at",
    "manner_of",
    "middle_phrase",
    "reshaped",
    "ridden",
    "shape_for",
    "shape_of",
    "transition_of",
]
