"""How two neighbours meet: the kind, the place, the curves, the effects, and the shapes that all of it starts from."""

from fernbrook.core.mix.transitions.breath import LONGEST_BREATH, SHORTEST_BREATH, Breath, BreathBefore, Breather
from fernbrook.core.mix.transitions.effects import (
    LONGEST_ECHO,
    LONGEST_TAIL_S,
    MOST_FEEDBACK,
    SHORTEST_ECHO,
    SHORTEST_REVERB_S,
    Effects,
)
from fernbrook.core.mix.transitions.hand_over import (
    READY,
    HandOver,
    Manner,
    ReadyHandOver,
    apart_shape,
    fade_shape,
    handed,
    manner_of,
    middle_phrase,
    shape_of,
)
from fernbrook.core.mix.transitions.meeting import breath_of, handed_over_at
from fernbrook.core.mix.transitions.ride import ridden
from fernbrook.core.mix.transitions.saved_hand_over import SavedHandOver
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
    "LONGEST_BREATH",
    "LONGEST_ECHO",
    "LONGEST_FADE_S",
    "LONGEST_TAIL_S",
    "LONGEST_WAY",
    "MOST_FEEDBACK",
    "MOST_NUDGE_MS",
    "MOST_TAKES",
    "READY",
    "SHORTEST_BREATH",
    "SHORTEST_ECHO",
    "SHORTEST_REVERB_S",
    "Breath",
    "BreathBefore",
    "Breather",
    "Effects",
    "HandOver",
    "HeldCue",
    "Kind",
    "Manner",
    "ReadyHandOver",
    "SavedHandOver",
    "Side",
    "SideCurves",
    "Take",
    "TempoPolicy",
    "TempoWay",
    "Transition",
    "apart_shape",
    "breath_of",
    "fade_shape",
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
