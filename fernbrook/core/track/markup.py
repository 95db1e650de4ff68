"""What is known of a track and may be changed by hand: grid, sections, where a voice is heard, cues, loops, trim, and
edits that are kept with it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from enum import StrEnum
from typing import TypeVar

from pydantic import Field

from fernbrook.core.track.cue import Cue, in_order
from fernbrook.core.track.edits import MOST_EDITS, Edit, recounted_edit
from fernbrook.core.track.grid import STAND_IN, Grid
from fernbrook.core.track.loop import Loop, nearest_length
from fernbrook.core.track.recount import Recount
from fernbrook.core.track.section import Section, VoiceSpan
from fernbrook.core.value import Value
from fernbrook.errors import RefusedError

MOST_TRIM_DB = 24.0
Span = TypeVar("Span", Section, VoiceSpan)


class Markup(Value):
    """``by_hand`` once the user has changed the grid, ``checked`` once they have said that it is right.

    Where there is no grid yet, beats are those of the stand-in. ``trim_db`` is added to the gain wherever the track is
    brought to a level. ``kept`` are edits that are offered wherever it is used.
    """

    grid: Grid | None = None
    sections: tuple[Section, ...] = ()
    voice: tuple[VoiceSpan, ...] = ()
    cues: tuple[Cue, ...] = ()
    loops: tuple[Loop, ...] = ()
    trim_db: float = Field(default=0.0, ge=-MOST_TRIM_DB, le=MOST_TRIM_DB)
    kept: tuple[Edit, ...] = Field(default=(), max_length=MOST_EDITS)
    by_hand: bool = False
    checked: bool = False


class MarkupError(RefusedError):
    """The command cannot be done to this track; the message says why and what would do."""


def with_grid(markup: Markup, grid: Grid) -> Markup:
    """The track with a grid set by hand; sections and voice spans stay where they sound."""
    if grid == markup.grid:
        return markup
    return recounted(markup, grid).model_copy(update={"grid": grid, "by_hand": True, "checked": False})


def recounted(markup: Markup, grid: Grid | None) -> Markup:
    """What is counted in beats, counted in those of another grid.

    Sections and voice spans stay at their moments. So do cues and loops that were set off the grid; those on a line
    keep to the line.
    """
    before, now = markup.grid or STAND_IN, grid or STAND_IN
    if before == now:
        return markup
    recount = Recount(before, now)
    spans = {f.value: _recounted(getattr(markup, f), recount.same_moment, f in ON_LINES) for f in COUNTED}

    def beat(at: float) -> float:
        on_line = markup.grid is not None and at == round(at)
        return recount.beat(at) if on_line else recount.same_moment(at)

    cues = in_order(c.model_copy(update={"at": beat(c.at)}) for c in markup.cues)
    loops = tuple(
        loop.model_copy(
            update={"start": beat(loop.start), "beats": nearest_length(loop.beats * recount.octave(loop.start))}
        )
        for loop in markup.loops
    )
    kept = tuple(recounted_edit(e, recount) for e in markup.kept)
    return markup.model_copy(update={**spans, "cues": cues, "loops": loops, "kept": kept})


def _recounted(spans: Sequence[Span], beat: Callable[[float], float], on_lines: bool) -> tuple[Span, ...]:
    """Spans at other beats. Those that lie on lines keep to them, and last at least a beat."""

    def moved(span: Span) -> Span:
        start, end = beat(span.start), beat(span.end)
        if on_lines:
            start, end = _line_near(start), _line_near(end)
            end = max(end, start + 1.0)
        return span.model_copy(update={"start": start, "end": end})

    return tuple(moved(span) for span in spans)


def _line_near(beat: float) -> float:
    """The line that a beat lies near to, else the beat itself."""
    return float(round(beat)) if abs(beat - round(beat)) < 0.25 else beat


class Facet(StrEnum):
    """A part of the markup that can be taken from the analysis by itself; its value names the field."""

    GRID = "grid"
    SECTIONS = "sections"
    VOICE = "voice"


COUNTED = (Facet.SECTIONS, Facet.VOICE)
"""The facets that hold spans counted in beats of the grid. A new one is named in ``Markup``, ``Facet``, and here."""
ON_LINES = frozenset({Facet.SECTIONS})
"""Those whose spans begin and end on beats."""
AS_ANALYSED = {
    Facet.GRID: "back to the analysed grid",
    Facet.SECTIONS: "sections as analysed",
    Facet.VOICE: "voice spans as analysed",
}
"""What taking a facet from the analysis is called in the history."""


def as_found(markup: Markup, found: Markup, facet: Facet) -> Markup:
    """One facet as the analysis found it; the others stay where they sound.

    Raises
    ------
    MarkupError
        When the analysis found no grid to count by.
    """
    if found.grid is None:
        raise MarkupError("The analysis found no grid to go back to.")
    if facet is Facet.GRID:
        counted = recounted(markup, found.grid)
        spans = {} if markup.grid else {f.value: getattr(found, f) for f in COUNTED}
        return counted.model_copy(update={"grid": found.grid, "by_hand": False, "checked": False, **spans})
    here = recounted(found, markup.grid or found.grid)
    return markup.model_copy(update={facet.value: getattr(here, facet)})


def analysed_again(markup: Markup, before: Markup, found: Markup) -> Markup:
    """What a newer analysis found, but for what was changed by hand since the one before.

    A grid that was changed or checked stays, and so does each facet that is not as ``before``. Cues, loops and kept
    edits are nobody's but the user's.
    """
    grid_stays = markup.by_hand or markup.checked
    if grid_stays and (markup.grid is None or found.grid is None):
        return markup
    grid = markup.grid if grid_stays else found.grid
    own = recounted(markup, grid)
    mine_alone = {"cues": own.cues, "loops": own.loops, "kept": own.kept, "trim_db": own.trim_db}
    if markup.grid is None or found.grid is None:
        return found.model_copy(update=mine_alone)
    was, new = recounted(before, grid), recounted(found, grid)
    merged = {f.value: getattr(own if getattr(own, f) != getattr(was, f) else new, f) for f in COUNTED}
    return (markup if grid_stays else found).model_copy(update={"grid": grid, **mine_alone, **merged})
