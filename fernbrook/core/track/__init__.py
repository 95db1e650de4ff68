"""What is known of a track: its grid, its sections, its voice spans, its key, and how these are changed by hand."""

from fernbrook.core.track.bar_lines import PHRASE_BARS, BarLines
from fernbrook.core.track.bar_table import HALF_PHRASE, SECTION, BarTable
from fernbrook.core.track.commands import (
    AnyMarkupCommand,
    MarkChecked,
    MarkupCommand,
    PutCues,
    PutGrid,
    PutLoops,
    PutSections,
    PutVoice,
    apply,
)
from fernbrook.core.track.cue import Cue, CueRole, chosen, plate_of
from fernbrook.core.track.differences import differences
from fernbrook.core.track.edits import MOST_EDITS, SHORTEST, DropOut, Edit, Repeat, Skip, Swap, recounted_edit
from fernbrook.core.track.energy import Energy
from fernbrook.core.track.facts import Doubt, DoubtKind, KeyFact, TrackFacts, Tracks
from fernbrook.core.track.grid import MAX_BPM, MIN_BPM, STAND_IN, STAND_IN_BPM, Anchor, BarsFrom, FloatArray, Grid
from fernbrook.core.track.grid_edits import (
    GridEditError,
    bars_from,
    begin_at,
    ramp_from,
    replace_span,
    slide,
    tapped,
    tempo_from,
    with_span_of,
)
from fernbrook.core.track.key import Key
from fernbrook.core.track.loop import Loop
from fernbrook.core.track.marks import MOST_BEATS, MarkFacet, Marks, Moment, Span, Tick, told, with_changes, with_marks
from fernbrook.core.track.markup import AS_ANALYSED, Facet, Markup, analysed_again, as_found
from fernbrook.core.track.recount import Recount
from fernbrook.core.track.relation import (
    FITTING,
    MOST_SHIFT,
    Relation,
    distance,
    fifths_between,
    relation,
    relation_words,
    shift_to_fit,
)
from fernbrook.core.track.section import Section, SectionKind, VoiceSpan
from fernbrook.core.track.stems import KEPT, STEMS, STEMS_VERSION, Stem, StemsFact
from fernbrook.core.track.suggested import LARGEST_SHARE, SuggestedCue, SuggestedLoop

__all__ = [
    "AS_ANALYSED",
    "FITTING",
    "HALF_PHRASE",
    "KEPT",
    "LARGEST_SHARE",
    "MAX_BPM",
    "MIN_BPM",
    "MOST_BEATS",
    "MOST_EDITS",
    "MOST_SHIFT",
    "PHRASE_BARS",
    "SECTION",
    "SHORTEST",
    "STAND_IN",
    "STAND_IN_BPM",
    "STEMS",
    "STEMS_VERSION",
    "Anchor",
    "AnyMarkupCommand",
    "BarLines",
    "BarTable",
    "BarsFrom",
    "Cue",
    "CueRole",
    "Doubt",
    "DoubtKind",
    "DropOut",
    "Edit",
    "Energy",
    "Facet",
    "FloatArray",
    "Grid",
    "GridEditError",
    "Key",
    "KeyFact",
    "Loop",
    "MarkChecked",
    "MarkFacet",
    "Marks",
    "Markup",
    "MarkupCommand",
    "Moment",
    "PutCues",
    "PutGrid",
    "PutLoops",
    "PutSections",
    "PutVoice",
    "Recount",
    "Relation",
    "Repeat",
    "Section",
    "SectionKind",
    "Skip",
    "Span",
    "Stem",
    "StemsFact",
    "SuggestedCue",
    "SuggestedLoop",
    "Swap",
    "Tick",
    "TrackFacts",
    "Tracks",
    "VoiceSpan",
    "analysed_again",
    "apply",
    "as_found",
    "bars_from",
    "begin_at",
    "chosen",
    "differences",
    "distance",
    "fifths_between",
    "plate_of",
    "ramp_from",
    "recounted_edit",
    "relation",
    "relation_words",
    "replace_span",
    "shift_to_fit",
    "slide",
    "tapped",
    "tempo_from",
    "told",
    "with_changes",
    "with_marks",
    "with_span_of",
]
