"""Where transitions that nobody has shaped come out, and which places are suggested for the others."""

from fernbrook.core.mix.placing.held_cue import ON_IT, with_held_cues
from fernbrook.core.mix.placing.kept_places import with_kept_places
from fernbrook.core.mix.placing.placing import (
    BLEND_BARS,
    FADE_S,
    PLACING_RULES,
    Placed,
    Room,
    Span,
    default_fade,
    default_place,
    facts_of,
    placed,
    proposals_for,
    spans_of,
)
from fernbrook.core.mix.placing.proposals import Proposal, basses_together, notes_together

__all__ = [
    "BLEND_BARS",
    "FADE_S",
    "ON_IT",
    "PLACING_RULES",
    "Placed",
    "Proposal",
    "Room",
    "Span",
    "basses_together",
    "default_fade",
    "default_place",
    "facts_of",
    "notes_together",
    "placed",
    "proposals_for",
    "spans_of",
    "with_held_cues",
    "with_kept_places",
]
