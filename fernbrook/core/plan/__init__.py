"""What follows from tracks and mix: the tempo of the whole, what sounds when, and what should be looked at."""

from fernbrook.core.plan.bar_beat import bar_beat
from fernbrook.core.plan.layer_proposals import LayerProposal, layer_proposals
from fernbrook.core.plan.layer_warnings import fitting_shift, key_of
from fernbrook.core.plan.limiter_warnings import limiter_warnings
from fernbrook.core.plan.listing import TimesAt, listed
from fernbrook.core.plan.made_source import MadeSource
from fernbrook.core.plan.markers import MarkerKind, markers
from fernbrook.core.plan.part import Automation, DroppedStems, Part, stem_key
from fernbrook.core.plan.plan import Plan, heard_in, plan
from fernbrook.core.plan.planned import PlannedEntry, PlannedSide, PlannedTransition
from fernbrook.core.plan.planned_layer import PlannedLayer
from fernbrook.core.plan.rate import RATE
from fernbrook.core.plan.straight import straight_grid, straight_plan, suggested_tempo
from fernbrook.core.plan.teaser import teaser
from fernbrook.core.plan.time_map import Mode, Segment, TimeMap, source_at
from fernbrook.core.plan.warning import MixWarning, WarningKind

__all__ = [
    "RATE",
    "Automation",
    "DroppedStems",
    "LayerProposal",
    "MadeSource",
    "MarkerKind",
    "MixWarning",
    "Mode",
    "Part",
    "Plan",
    "PlannedEntry",
    "PlannedLayer",
    "PlannedSide",
    "PlannedTransition",
    "Segment",
    "TimeMap",
    "TimesAt",
    "WarningKind",
    "bar_beat",
    "fitting_shift",
    "heard_in",
    "key_of",
    "layer_proposals",
    "limiter_warnings",
    "listed",
    "markers",
    "plan",
    "source_at",
    "stem_key",
    "straight_grid",
    "straight_plan",
    "suggested_tempo",
    "teaser",
]
