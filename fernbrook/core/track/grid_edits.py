"""Changes to a grid by hand: each takes a grid and gives another, and says what it holds.

Held means: the moments of the beats in question are the same afterwards. Lines stay in order, or the change is refused.
"""

from __future__ import annotations

from collections.abc import Iterable
from itertools import pairwise

import numpy as np
from numpy.typing import ArrayLike

from fernbrook.core.track.grid import MAX_BPM, MIN_BPM, MOST_BEGINNINGS, Anchor, BarsFrom, Grid, bars_counted
from fernbrook.errors import RefusedError

SAME_BEAT = 1e-6
SAME_TEMPO = 1e-6


class GridEditError(RefusedError):
    """The grid cannot be changed so; the message says why."""


def slide(grid: Grid, by_s: float) -> Grid:
    """Move the whole grid in time. All distances are held."""
    return _made(tuple(a.at(a.time_s + by_s, a.beat) for a in grid.anchors), grid)


def count_from(grid: Grid, beat: float) -> Grid:
    """Count from another beat: it becomes beat 0, the first of bar 1. All moments are held, and where bars
    start again."""
    start, beats = _run_of(grid, beat)
    begins = grid.bars_from
    if start != 0:
        # What lies before it is not counted from here.
        begins = (*begins, BarsFrom(beat=0, beats=grid.beats_per_bar))
    counted = _made(tuple(a.at(a.time_s, a.beat - beat) for a in grid.anchors), grid)
    return _settled(counted, bars_counted(begins, 1.0, beat), beats)


def first_of_bar(grid: Grid, beat: float) -> Grid:
    """Make a beat the first of its bar, counting on by as few beats as that takes, up to where bars start again. All
    moments are held."""
    start, beats = _run_of(grid, beat)
    off = (round(beat) - start + beats // 2) % beats - beats // 2
    if start == 0:
        return count_from(grid, off)
    others = tuple(b for b in grid.bars_from if b.beat != start)
    if any(b.beat == start + off for b in others):
        raise GridEditError("Bars start again right beside it. Take that away first.")
    return _settled(grid, (*others, BarsFrom(beat=start + off, beats=beats)), grid.beats_per_bar)


def bars_from(grid: Grid, beat: float, beats: int) -> Grid:
    """Let bars start again on a line, with so many beats, up to where they do so next. All before it is held."""
    line = round(beat)
    if line == 0:
        return _settled(grid, grid.bars_from, beats)
    others = tuple(b for b in grid.bars_from if b.beat != line)
    return _settled(grid, (*others, BarsFrom(beat=line, beats=beats)), grid.beats_per_bar)


def bars_on(grid: Grid, beat: float) -> Grid:
    """Let bars count on through a line on which they start again."""
    others = tuple(b for b in grid.bars_from if b.beat != round(beat))
    if others == grid.bars_from:
        raise GridEditError("Bars do not start again on this line.")
    return _settled(grid, others, grid.beats_per_bar)


def set_beats_per_bar(grid: Grid, beats: int, about_beat: float) -> Grid:
    """So many beats make a bar, from where the bars of a beat start again to where they do so next."""
    return bars_from(grid, _run_of(grid, about_beat)[0], beats)


def _run_of(grid: Grid, beat: float) -> tuple[int, int]:
    """The line with which the bars of a beat start again, and how many beats they have; the first where none does."""
    runs = sorted([*((b.beat, b.beats) for b in grid.bars_from), (0, grid.beats_per_bar)])
    return next((run for run in reversed(runs) if run[0] <= beat + SAME_BEAT), runs[0])


def _settled(grid: Grid, begins: Iterable[BarsFrom], beats_per_bar: int) -> Grid:
    """A grid whose bars start again there, but where they would have begun on that line all the same."""
    runs = sorted([*((b.beat, b.beats) for b in begins if b.beat), (0, beats_per_bar)])
    if len(runs) - 1 > MOST_BEGINNINGS:
        raise GridEditError(f"Bars start again {MOST_BEGINNINGS} times at most. Take some away first.")
    kept: list[tuple[int, int]] = []
    for n, (beat, beats) in enumerate(runs):
        # Before the first of them, bars are counted back from it.
        start, length = kept[-1] if kept else (runs[min(n + 1, len(runs) - 1)][0], beats_per_bar)
        following = runs[n + 1][0] if n + 1 < len(runs) else beat + length
        # A rest of less than half a bar would go to the bar before this line.
        is_rest = following - beat < length / 2
        if beat == 0 or beats != length or (beat - start) % length or is_rest:
            kept.append((beat, beats))
    anew = tuple(BarsFrom(beat=beat, beats=beats) for beat, beats in kept if beat)
    return grid.model_copy(update={"bars_from": anew, "beats_per_bar": beats_per_bar})


def _bars_held(made: Grid, grid: Grid) -> Grid:
    """A grid that was counted otherwise, with its bars starting again at the moments at which those of another do."""
    moved = {round(float(made.beat_at(grid.time_at(b.beat)))): b.beats for b in grid.bars_from}
    return _settled(made, (BarsFrom(beat=b, beats=n) for b, n in moved.items()), grid.beats_per_bar)


def set_tempo(grid: Grid, bpm: float, about_beat: float) -> Grid:
    """One tempo for the whole track. The moment of ``about_beat`` is held."""
    _check(bpm)
    time_s = float(grid.time_at(about_beat))
    return grid.model_copy(
        update={"anchors": (Anchor(time_s=time_s, beat=about_beat),), "bpm_before": bpm, "bpm_after": bpm}
    )


def scale(grid: Grid, factor: float) -> Grid:
    """Count ``factor`` times as many beats: 2 doubles the tempo, 0.5 halves it.

    The moment of beat 0 and those of all lines that remain are held.
    """
    for bpm in grid.extremes:
        _check(bpm * factor)
    return grid.counted(factor, 0.0)


def scale_from(grid: Grid, beat: float, factor: float) -> Grid:
    """Count ``factor`` times as many beats from a line on, to the end. All before it, and the lines after it that
    remain, are held."""
    split = _with_anchor(grid, beat)
    anchors = [a if a.beat < beat + SAME_BEAT else a.at(a.time_s, beat + (a.beat - beat) * factor) for a in split]
    first = float(grid.bpm_at(beat - SAME_BEAT)) if split[0].beat > beat - SAME_BEAT else grid.bpm_before
    made = _made(tuple(anchors), grid)
    made = made.model_copy(update={"bpm_before": first, "bpm_after": _check(grid.bpm_after * factor)})
    return _bars_held(made, grid)


def round_tempo(grid: Grid, about_beat: float) -> Grid:
    """The nearest whole tempo for the whole track. The moment of ``about_beat`` is held."""
    return set_tempo(grid, float(max(round(float(grid.bpm_at(about_beat))), MIN_BPM)), about_beat)


def move_line(grid: Grid, beat: float, to_s: float) -> Grid:
    """Put a line at another moment.

    The anchors next to it are held, and the tempo between follows: a ramp keeps its rise. A grid of one tempo stays
    one: it is stretched about its anchor, or slid where the anchor's own line is moved.
    """
    if len(grid.anchors) == 1:
        anchor = grid.anchors[0]
        if abs(beat - anchor.beat) < SAME_BEAT:
            return slide(grid, to_s - anchor.time_s)
        if grid.is_constant:
            bpm = 60.0 * (beat - anchor.beat) / (to_s - anchor.time_s) if to_s != anchor.time_s else -1.0
            return set_tempo(grid, _check(bpm), anchor.beat)
    split = _with_anchor(grid, beat)
    return _through([a.at(to_s, beat) if abs(a.beat - beat) < SAME_BEAT else a for a in split], grid)


def add_anchor(grid: Grid, beat: float) -> Grid:
    """Hold a line where it is from now on. All moments are held."""
    if any(abs(a.beat - beat) < SAME_BEAT for a in grid.anchors):
        raise GridEditError("There is an anchor on this line already.")
    return _made(tuple(_with_anchor(grid, beat)), grid)


def _with_anchor(grid: Grid, beat: float) -> list[Anchor]:
    """The anchors of a grid with one on a line, without which its moments are the same: a ramp is cut in two."""
    before = [a for a in grid.anchors if a.beat < beat - SAME_BEAT]
    after = [a for a in grid.anchors if a.beat > beat + SAME_BEAT]
    if len(before) + len(after) < len(grid.anchors):
        return list(grid.anchors)
    here = Anchor(time_s=float(grid.time_at(beat)), beat=beat)
    if before and after and before[-1].ramp != 1.0:
        first, now = (float(bpm) for bpm in grid.bpm_at([before[-1].beat, beat]))
        rise = before[-1].ramp
        before[-1] = before[-1].model_copy(update={"ramp": now / first})
        here = here.model_copy(update={"ramp": rise * first / now})
    return [*before, here, *after]


def remove_anchor(grid: Grid, beat: float) -> Grid:
    """Let go of an anchor: the tempo between its neighbours becomes one, or one ramp where there were two. The other
    anchors are held."""
    place = next((i for i, a in enumerate(grid.anchors) if abs(a.beat - beat) < SAME_BEAT), None)
    if place is None:
        raise GridEditError("There is no anchor on this line.")
    rest = [a for i, a in enumerate(grid.anchors) if i != place]
    if 0 < place < len(rest):
        ramps = [grid.anchors[i].ramp for i in (place - 1, place)]
        rise = ramps[0] * ramps[1] if all(r != 1.0 for r in ramps) else 1.0
        rest[place - 1] = rest[place - 1].model_copy(update={"ramp": rise})
    if not rest:
        raise GridEditError("A grid needs at least one anchor. Slide it instead.")
    return _made(tuple(rest), grid)


def begin_at(grid: Grid, beat: float, at_s: float) -> Grid:
    """Put a line at another moment, where something new begins. All lines before it are held; those after it follow at
    the tempo that it had."""
    bpm_after = float(grid.bpm_at(beat))
    if _is_first(grid, beat):
        moved = slide(grid, at_s - float(grid.time_at(beat)))
        return tempo_from(moved, beat, bpm_after)
    up_to = _up_to(grid, beat - 1.0)
    bpm_before = grid.bpm_before if len(up_to) > 1 else float(grid.bpm_at(beat - 1.0 - SAME_BEAT))
    made = _made((*up_to, Anchor(time_s=at_s, beat=beat)), grid)
    return made.model_copy(update={"bpm_before": bpm_before, "bpm_after": bpm_after})


def tempo_from(grid: Grid, beat: float, bpm: float) -> Grid:
    """A new tempo from a line on, to the end. All of the track before it, and the line, are held."""
    _check(bpm)
    up_to = _up_to(grid, beat)
    bpm_before = grid.bpm_before if len(up_to) > 1 else float(grid.bpm_at(beat - SAME_BEAT))
    if _is_first(grid, beat):
        up_to, bpm_before = up_to[-1:], bpm
    return grid.model_copy(update={"anchors": tuple(up_to), "bpm_before": bpm_before, "bpm_after": bpm})


def _is_first(grid: Grid, beat: float) -> bool:
    """Whether no line of the track comes before that of a beat."""
    return float(grid.time_at(beat - 1.0)) < 0.0


def ramp_from(grid: Grid, beat: float, beats: float, bpm: float) -> Grid:
    """A ramp from a line on, over so many beats, to a tempo that holds to the end. All before it, and the line, are
    held; the ramp begins at the tempo that the line has."""
    _check(bpm)
    if beats <= 0.0:
        raise GridEditError(f"A ramp takes more than {beats:g} beats.")
    up_to = _up_to(grid, beat)
    from_bpm = float(grid.bpm_at(beat))
    rise = bpm / from_bpm
    if abs(rise - 1.0) < SAME_TEMPO:
        raise GridEditError(f"The tempo here is {from_bpm:.4g} BPM already: there is nothing to ramp to.")
    takes_s = 60.0 * beats / (bpm - from_bpm) * float(np.log(rise))
    here = up_to[-1].model_copy(update={"ramp": rise})
    over = Anchor(time_s=here.time_s + takes_s, beat=here.beat + beats)
    bpm_before = grid.bpm_before if len(up_to) > 1 else float(grid.bpm_at(beat - SAME_BEAT))
    made = _made((*up_to[:-1], here, over), grid)
    return made.model_copy(update={"bpm_before": bpm_before, "bpm_after": bpm})


def _up_to(grid: Grid, beat: float) -> list[Anchor]:
    """The anchors up to a line, which the last one holds, free of what follows."""
    anchors = [a for a in _with_anchor(grid, beat) if a.beat < beat + SAME_BEAT]
    return [*anchors[:-1], anchors[-1].model_copy(update={"ramp": 1.0})]


def replace_span(grid: Grid, times_s: ArrayLike, beats: ArrayLike) -> Grid:
    """Anchors through measured lines over a span. Lines outside the span are held, but for those next to it."""
    t, b = np.asarray(times_s, dtype=np.float64), np.asarray(beats, dtype=np.float64)
    outside = _held_outside(grid, float(b[0]), float(b[-1]))
    new = [Anchor(time_s=float(x), beat=float(y)) for x, y in zip(t, b, strict=True)]
    return _made(tuple(sorted([*outside, *new], key=lambda a: a.beat)), grid)


def with_span_of(grid: Grid, other: Grid, start_s: float, end_s: float) -> Grid:
    """A grid with the lines of another one between two moments. All its own lines outside are held; those after are
    counted on from the last new one, so their beats may have other numbers."""
    first, last = int(np.ceil(other.beat_at(start_s) - 1e-6)), int(np.floor(other.beat_at(end_s) + 1e-6))
    if last <= first:
        raise GridEditError("That span is shorter than a beat. Choose a longer one.")
    times = other.time_at(np.arange(first, last + 1, dtype=np.float64))
    begin = round(float(grid.beat_at(times[0])))
    end = begin + last - first
    new = [Anchor(time_s=float(t), beat=float(begin + n)) for n, t in enumerate(times)]
    follows = int(np.ceil(float(grid.beat_at(times[-1])) + 0.5))
    before = [a for a in grid.anchors if a.beat < begin - 1]
    if float(grid.time_at(begin - 1)) > 0.0:  # something of the track comes before it
        before = _up_to(grid, float(begin - 1))
    if before:
        before[-1] = before[-1].model_copy(update={"ramp": 1.0})
    held = [a for a in _with_anchor(grid, float(follows)) if a.beat > follows - SAME_BEAT]
    after = [
        held[0].at(held[0].time_s, float(end + 1)),
        *(a.at(a.time_s, a.beat + end + 1 - follows) for a in held[1:]),
    ]
    made = _made((*before, *new, *after), grid)
    if not before:
        made = made.model_copy(update={"bpm_before": float(other.bpm_at(first))})
    return _bars_held(made.without_needless_anchors(0.0005), grid)


def tapped(times_s: ArrayLike, beats_per_bar: int = 4) -> Grid:
    """The steady grid through taps: the line of least squares, the first tap a downbeat.

    Parameters
    ----------
    times_s : rising moments of at least four taps, shape (n,)
    """
    t = np.asarray(times_s, dtype=np.float64)
    if len(t) < 4 or np.any(np.diff(t) <= 0.0):
        raise GridEditError("Tap at least four beats in time.")
    # A tap that was left out makes one distance a multiple of the others.
    beats = np.concatenate(([0.0], np.cumsum(np.maximum(np.rint(np.diff(t) / np.median(np.diff(t))), 1.0))))
    slope, start = np.polyfit(beats, t, 1)
    return Grid.constant(_check(60.0 / float(slope)), float(start), beats_per_bar)


def _held_outside(grid: Grid, first: float, last: float) -> list[Anchor]:
    """Anchors outside a span, and one a bar away on either side, so that what lies beyond stays."""
    edges = [first - grid.beats_per_bar, last + grid.beats_per_bar]
    edged = grid.model_copy(update={"anchors": tuple(_with_anchor(grid, edges[0]))})
    held = _with_anchor(edged, edges[1])
    before = [a for a in held if a.beat < edges[0] + SAME_BEAT]
    # What lies between is measured: the ramp that it may have been is over.
    before[-1] = before[-1].model_copy(update={"ramp": 1.0})
    return [*before, *(a for a in held if a.beat > edges[1] - SAME_BEAT)]


def _check(bpm: float) -> float:
    if not MIN_BPM <= bpm <= MAX_BPM:
        raise GridEditError(f"The tempo would be {bpm:.4g} BPM. It must lie between {MIN_BPM:g} and {MAX_BPM:g}.")
    return bpm


def _through(anchors: list[Anchor], grid: Grid) -> Grid:
    """A grid through anchors, of which the outermost may have moved: the tempo beyond is that of the last stretch."""
    made = _made(tuple(anchors), grid)
    update = {}
    if anchors[0] != grid.anchors[0]:
        update["bpm_before"] = float(made.stretch_tempi[0])
    if anchors[-1] != grid.anchors[-1]:
        update["bpm_after"] = float(made.stretch_tempi[-1])
    return made.model_copy(update=update)


def _made(anchors: tuple[Anchor, ...], grid: Grid) -> Grid:
    """The grid with other anchors, or the reason why there is none."""
    for earlier, later in pairwise(anchors):
        if later.time_s <= earlier.time_s:
            raise GridEditError(f"The line of beat {later.beat:g} would lie before that of beat {earlier.beat:g}.")
        _check(60.0 * (later.beat - earlier.beat) / (later.time_s - earlier.time_s))
    last = anchors[-1].model_copy(update={"ramp": 1.0})
    return grid.model_copy(update={"anchors": (*anchors[:-1], last)})
