"""What a file from elsewhere says of a track, by its moments, and what becomes of the track's markup with it."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from enum import StrEnum
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from fernbrook.core.track.cue import MOST_CUES, Cue, CueRole, plate_of, with_cues, without_cues
from fernbrook.core.track.grid import MAX_BPM, MIN_BPM, MOST_BEATS_A_BAR, MOST_BEGINNINGS, STAND_IN, Grid
from fernbrook.core.track.grid_edits import bars_from
from fernbrook.core.track.key import Key
from fernbrook.core.track.loop import Loop, with_loops, without_loops
from fernbrook.core.track.markup import Markup, MarkupError, recounted, with_grid
from fernbrook.core.track.section import Section, SectionKind, VoiceSpan
from fernbrook.core.value import Seconds, Value

SAME_S = 0.001
"""A grid through beats that were read keeps to them within a millisecond."""
NEAR_BEATS = 0.02
"""What was read so near a line lies on it."""
MOST_BEATS = 50_000


class MarkFacet(StrEnum):
    """A part of what was read, which is taken or left."""

    GRID = "grid"
    SECTIONS = "sections"
    VOICE = "voice"
    CUES = "cues"
    LOOPS = "loops"
    KEY = "key"


class Moment(Value):
    """A moment that was marked."""

    at_s: Seconds
    name: str = Field(default="", max_length=200)
    role: CueRole = CueRole.PLAIN
    note: str = Field(default="", max_length=500)


class Span(Value):
    """A span that was marked."""

    start_s: Seconds
    end_s: Seconds
    name: str = Field(default="", max_length=200)


class Tick(Value):
    """A beat, and whether a bar begins with it; None where that is not said."""

    at_s: Seconds
    is_first: bool | None = None


class Marks(Value):
    """What a file says. ``whole`` is all of a track's markup as we wrote it ourselves; then it is what counts."""

    beats: tuple[Tick, ...] = Field(default=(), max_length=MOST_BEATS)
    sections: tuple[Span, ...] = Field(default=(), max_length=MOST_CUES)
    voice: tuple[Span, ...] = Field(default=(), max_length=500)
    moments: tuple[Moment, ...] = Field(default=(), max_length=MOST_CUES)
    key: str | None = None
    whole: Markup | None = None

    @property
    def facets(self) -> tuple[MarkFacet, ...]:
        """Which parts it has anything to say of."""
        if self.whole is not None:
            held: dict[MarkFacet, bool] = {
                f: bool(getattr(self.whole, f.value)) for f in MarkFacet if f is not MarkFacet.KEY
            }
        else:
            held = {
                MarkFacet.GRID: len(self.beats) > 1,
                MarkFacet.SECTIONS: bool(self.sections),
                MarkFacet.VOICE: bool(self.voice),
                MarkFacet.CUES: bool(self.moments),
            }
        held[MarkFacet.KEY] = Key.parse(self.key or "") is not None
        return tuple(f for f in MarkFacet if held.get(f, False))


KINDS = {
    SectionKind.BEAT: ("beat", "beats", "intro", "outro", "drums", "tools"),
    SectionKind.BASS: ("bass", "groove"),
    SectionKind.FULL: ("full", "verse", "chorus", "drop", "refrain", "hook", "solo", "main"),
    SectionKind.BREAK: ("break", "breakdown", "interlude"),
    SectionKind.RISE: ("rise", "build", "buildup", "build-up", "bridge", "pre-chorus"),
    SectionKind.BEATLESS: ("beatless", "silence", "ambient", "pad"),
}
"""Which words for a section mean which kind."""


def kind_of(name: str) -> SectionKind:
    """The kind of section that a name means; the music in full where it is none that we know.

    >>> kind_of("Breakdown 2").value, kind_of("C").value
    ('break', 'full')
    """
    words = name.lower().replace("_", " ").split()
    return next((kind for kind, known in KINDS.items() if any(w in known for w in words)), SectionKind.FULL)


def grid_through(beats: Sequence[Tick]) -> Grid:
    """The grid through beats, with no more anchors than it takes to keep to them within a millisecond.

    Raises
    ------
    MarkupError
        When they do not make a grid.
    """
    times = np.array([b.at_s for b in beats])
    firsts = [n for n, b in enumerate(beats) if b.is_first]
    gaps = np.diff(firsts)
    per_bar = int(np.bincount(gaps).argmax()) if len(gaps) else 4
    if len(times) < 2 or (np.diff(times) <= 0).any():
        raise MarkupError("The beats in that file do not follow each other in time: they make no grid.")
    zero = firsts[0] if firsts else 0
    try:
        grid = Grid.through(times, np.arange(len(times)) - float(zero), min(max(per_bar, 2), MOST_BEATS_A_BAR))
    except ValueError as error:
        raise MarkupError(
            f"The beats in that file make no grid: tempi go from {MIN_BPM:g} to {MAX_BPM:g} BPM."
        ) from error
    thin = _with_firsts(grid.without_needless_anchors(SAME_S), np.array(firsts) - zero)
    if len(thin.anchors) == 2:  # the same tempo throughout
        bpm = float(thin.stretch_tempi[0])
        return thin.model_copy(update={"anchors": thin.anchors[:1], "bpm_before": bpm, "bpm_after": bpm})
    return thin


def _with_firsts(grid: Grid, firsts: NDArray[np.int64]) -> Grid:
    """A grid whose bars start again where the first beats of bars do not follow from those before."""
    gaps = np.diff(firsts).tolist()
    length = grid.beats_per_bar
    for n, first in enumerate(firsts.tolist()):
        follows = bool(grid.bar_lines.is_line(first))
        gap, next_gap = [*gaps[n : n + 2], length, length][:2]
        now = length if follows or gap == length else grid.beats_per_bar
        # Bars that are of another length from here on, and one that would be two, or a part of the one before it.
        if gap != now and (gap == next_gap or not now / 2 <= gap < 1.5 * now) and 2 <= gap <= MOST_BEATS_A_BAR:
            now = gap
        if follows and now == length:
            continue
        if len(grid.bars_from) >= MOST_BEGINNINGS:
            break
        grid, length = bars_from(grid, first, now), now
    return grid


def with_marks(markup: Markup, marks: Marks, facets: Iterable[MarkFacet]) -> Markup:
    """A track's markup with parts of what was read in the place of its own; cues and loops are added to its own.

    What is taken lies at the moments at which it was marked, by the grid that there is then.
    """
    wanted = set(facets) & set(marks.facets)
    if marks.whole is not None:
        return _with_whole(markup, marks.whole, wanted)
    if MarkFacet.GRID in wanted:
        markup = with_grid(markup, grid_through(marks.beats))
    grid = markup.grid or STAND_IN
    changes: dict[str, object] = {}
    if MarkFacet.SECTIONS in wanted:
        changes["sections"] = tuple(
            Section(kind=kind_of(name), start=a, end=b, name=_own_name(name))
            for name, a, b in _apart(marks.sections, grid)
        )
    if MarkFacet.VOICE in wanted:
        changes["voice"] = tuple(VoiceSpan(start=a, end=b) for _, a, b in _apart(marks.voice, grid))
    if MarkFacet.CUES in wanted:
        changes["cues"] = _added(markup, marks.moments, grid)
    return markup.model_copy(update=changes)


def with_changes(markup: Markup, base: Markup, theirs: Markup, facets: Iterable[MarkFacet]) -> Markup:
    """A track's markup with what was changed elsewhere since a base: what was not changed there stays as it is here.

    Cues and loops are told apart by their ids, so that one that was added here is kept beside one that was moved there.
    """
    wanted = set(facets)
    if MarkFacet.GRID in wanted and theirs.grid != base.grid and theirs.grid is not None:
        markup = with_grid(markup, theirs.grid)
    was, now_is = (recounted(m, markup.grid) if markup.grid else m for m in (base, theirs))
    changes: dict[str, object] = {}
    for facet in (MarkFacet.SECTIONS, MarkFacet.VOICE):
        if facet in wanted and getattr(was, facet.value) != getattr(now_is, facet.value):
            changes[facet.value] = getattr(now_is, facet.value)
    if MarkFacet.CUES in wanted:
        gone, put = _changed(was.cues, now_is.cues)
        changes["cues"] = with_cues(without_cues(markup.cues, gone), put)
    if MarkFacet.LOOPS in wanted:
        gone, changed = _changed(was.loops, now_is.loops)
        changes["loops"] = with_loops(without_loops(markup.loops, gone), changed)
    return markup.model_copy(update=changes)


Identified = TypeVar("Identified", Cue, Loop)


def _changed(was: Sequence[Identified], now_is: Sequence[Identified]) -> tuple[set[str], list[Identified]]:
    """The ids of what has gone, and what is new or otherwise."""
    before = {x.id: x for x in was}
    return before.keys() - {x.id for x in now_is}, [x for x in now_is if before.get(x.id) != x]


def _with_whole(markup: Markup, whole: Markup, wanted: set[MarkFacet]) -> Markup:
    if MarkFacet.GRID in wanted and whole.grid is not None:
        markup = with_grid(markup, whole.grid).model_copy(
            update={"by_hand": whole.by_hand or markup.by_hand, "checked": whole.checked}
        )
    there = recounted(whole, markup.grid) if markup.grid else whole
    changes: dict[str, object] = {
        f.value: getattr(there, f.value) for f in (MarkFacet.SECTIONS, MarkFacet.VOICE) if f in wanted
    }
    if MarkFacet.CUES in wanted:
        changes["cues"] = with_cues(markup.cues, there.cues)
    if MarkFacet.LOOPS in wanted:
        changes["loops"] = with_loops(markup.loops, there.loops)
    return markup.model_copy(update=changes)


def _added(markup: Markup, moments: Sequence[Moment], grid: Grid) -> tuple[Cue, ...]:
    """The cues that there are, and those that were read; one at the place of another takes its place."""
    taken = {c.id for c in markup.cues}
    free = (f"r{n}" for n in range(1, MOST_CUES + len(taken) + 1) if f"r{n}" not in taken)
    put = []
    for m in moments:
        (at,) = _beats(grid, (m.at_s,))
        same = next((c for c in markup.cues if abs(c.at - at) < NEAR_BEATS and c.role is m.role), None)
        put.append(Cue(id=same.id if same else next(free), at=at, role=m.role, name=m.name[:60], note=m.note))
    return with_cues(markup.cues, put)[:MOST_CUES]


def _beats(grid: Grid, moments: Sequence[float]) -> list[float]:
    """The beats of moments, on a line where one is near."""
    beats = [float(b) for b in grid.beat_at(list(moments))]
    return [float(round(b)) if abs(b - round(b)) < NEAR_BEATS else b for b in beats]


def _apart(spans: Iterable[Span], grid: Grid) -> list[tuple[str, float, float]]:
    """Spans in beats, in order, none of which reaches into the next."""
    found: list[tuple[str, float, float]] = []
    for span in sorted(spans, key=lambda s: s.start_s):
        start, end = _beats(grid, (span.start_s, span.end_s))
        begin = max(start, found[-1][2]) if found else start
        if end > begin:
            found.append((span.name, begin, end))
    return found


def _own_name(name: str) -> str:
    """The name of a section where it says more than its kind."""
    return "" if name.lower() in KINDS[kind_of(name)] else name[:60]


def told(markup: Markup, key: str | None, facet: MarkFacet) -> list[str]:
    """What a markup has of a part, in words that can be laid beside another's."""
    grid = markup.grid or STAND_IN

    def at(beat: float) -> str:
        seconds = max(float(grid.time_at(beat)), 0.0)
        return f"{int(seconds // 60)}:{seconds % 60:06.3f}"

    match facet:
        case MarkFacet.GRID:
            return [] if markup.grid is None else _grid_told(markup.grid)
        case MarkFacet.SECTIONS:
            return [f"{at(s.start)} {s.name or s.kind.value}" for s in markup.sections]
        case MarkFacet.VOICE:
            return [f"{at(v.start)} to {at(v.end)}" for v in markup.voice]
        case MarkFacet.CUES:
            return [f"{at(c.at)} {plate_of(c)}" for c in markup.cues]
        case MarkFacet.LOOPS:
            return [f"{at(x.start)} {x.beats:g} beats {x.name or x.kind.value}" for x in markup.loops]
        case MarkFacet.KEY:
            return [key] if key else []


def _grid_told(grid: Grid) -> list[str]:
    tempi = grid.stretch_tempi
    slow, fast = float(tempi.min()), float(tempi.max())
    tempo = f"{slow:.2f} BPM" if fast - slow < 0.005 else f"{slow:.2f} to {fast:.2f} BPM"
    return [tempo, f"bar 1 at {float(grid.time_at(0.0)):.3f} s", f"{grid.beats_per_bar} beats a bar"]
