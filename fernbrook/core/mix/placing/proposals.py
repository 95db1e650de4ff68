"""Where two tracks could meet: placings of a transition, ranked by what is known of both, each with its reasons.

Every pair of lines late in the one and early in the other is weighed for each length, bar by bar: two voices, notes
that clash, a bass that is missing, energy that dips, lines that do not meet, music that is cut off. A cost of 1 is
about what a blend that starts off the phrase costs.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from fernbrook.core.mix.transitions import ReadyShape, middle_phrase
from fernbrook.core.track import HALF_PHRASE, LARGEST_SHARE, SECTION, BarLines, BarTable
from fernbrook.core.value import Value

Floats = NDArray[np.float64]

LENGTHS_BARS = {32: 0.2, 16: 0.0, 8: 0.25, 4: 0.8, 2: 1.5, 1: 2.0}
"""How many bars a blend may take, and what each costs for being long or short."""
HALF = 0.5
"""The outgoing is left in its second half, the incoming has arrived in its first."""
HEARD_FROM, HEARD_TO = 0.16, 0.84
"""The shares of an overlap between which both sides are well heard, as the bass hand-over fades them."""
VOICES, VOICES_A_BAR = 2.0, 1.0
"""What two voices at once cost, and each further bar of them."""
CLASH, NOTES = 3.0, 0.35
"""What notes of both cost while they sound together: in keys that clash, and in any."""
NO_BASS = 1.2
DIP = 2.0
LINES = (1.2, 1.0, 0.6, 0.6)
"""What it costs not to be on a line: of the outgoing's start, the incoming's, the hand-over's, and the end's."""
CUT_OFF = 4.0
"""What it costs to cut off all of a track; a part of it by its share."""
SKIPPED = 1.5
SUGGESTED = 0.5
TOO_LATE = 8.0
"""What it costs to be there after an ‘alone from’ cue that somebody has set."""
APART_BARS = 8
"""Proposals that lie nearer to each other are one, unless their lengths differ."""


@dataclass(frozen=True)
class Meeting:
    """One of two tracks that meet, in its own bars, which lie on ``lines`` and have ``bar`` beats as a rule.

    ``must`` is the bar on which it must be left or entered because somebody has set a cue there, ``may`` one that is
    suggested. ``alone_from`` is the bar by which it is to be alone, and ``clear_is_set`` whether somebody has said so.
    ``free_from`` and ``free_to`` are the bars that the transitions beside this one leave.
    """

    table: BarTable
    bar: float
    lines: BarLines
    start: float
    end: float
    must: float | None = None
    may: float | None = None
    alone_from: float | None = None
    clear_is_set: bool = False
    free_from: float = -np.inf
    free_to: float = np.inf

    @property
    def length(self) -> float:
        """How many bars carry sound."""
        return max(0.0, self.end - self.start)

    def at(self, bars: Floats) -> NDArray[np.int64]:
        """Places in the table of bars."""
        return np.clip(np.rint(bars).astype(np.int64) - self.table.first, 0, len(self.table.line) - 1)


class Proposal(Value):
    """A placing: beats of both entries as they are played, a length, a shape to start from, and why."""

    out_at: float
    in_at: float
    beats: float
    shape: ReadyShape
    reasons: tuple[str, ...]
    cost: float


@dataclass(frozen=True)
class _Weighed:
    """All placings of one length: what each costs, by the bars of both; shape (outs, ins), and each cost by itself."""

    bars: int
    outs: Floats
    ins: Floats
    costs: dict[str, Floats]

    @property
    def total(self) -> Floats:
        return np.asarray(sum(self.costs.values()))


def proposals(out: Meeting, into: Meeting, clash: float, most: int = 6) -> tuple[Proposal, ...]:
    """The best placings of a transition, the best first; they differ from each other.

    Parameters
    ----------
    clash : how sure it is that the two keys clash, from 0 to 1
    most : how many are given at most

    Returns
    -------
    none where neither track has room for a bar
    """
    weighed = list(_weighed(out, into, clash))
    found: list[tuple[float, _Weighed, int, int]] = []
    for w in weighed:
        total = w.total
        for flat in np.argsort(total, axis=None, kind="stable")[: 4 * most]:
            i, j = (int(x) for x in np.unravel_index(flat, total.shape))
            found.append((float(total[i, j]), w, i, j))
    found.sort(key=lambda f: f[0])
    chosen: list[tuple[float, _Weighed, int, int]] = []
    for cost, w, i, j in found:
        if len(chosen) < most and all(_differ(w, i, j, *other[1:]) for other in chosen):
            chosen.append((cost, w, i, j))
    return tuple(_proposal(out, into, clash, *each) for each in chosen)


@lru_cache(maxsize=4096)
def best_place(out: Meeting, into: Meeting, clash: float) -> tuple[float, float, float] | None:
    """The beats of both on which the best overlap begins, and how many it has; None where there is no room.

    It is kept: a mix asks for that of each pair at every change, and tracks seldom change.
    """
    best: tuple[float, float, float, float] | None = None
    for w in _weighed(out, into, clash):
        total = w.total
        i, j = np.unravel_index(int(np.argmin(total)), total.shape)
        if best is None or total[i, j] < best[0]:
            out_at, in_at = float(out.lines.beat_of(w.outs[i])), float(into.lines.beat_of(w.ins[j]))
            best = (float(total[i, j]), out_at, in_at, w.bars * out.bar)
    return None if best is None else (float(best[1]) + 0.0, float(best[2]) + 0.0, float(best[3]))


def notes_together(out: Meeting, into: Meeting, out_at: float, in_at: float, beats: float) -> float:
    """For how many beats of an overlap, in beats of the outgoing, both play more than drums; bars of which nothing is
    known count for a quarter."""
    bars = np.arange(np.ceil(beats / out.bar - 1e-6), dtype=np.float64)
    o, k = out.at(out.lines.at(out_at) + bars), into.at(into.lines.at(in_at) + np.floor(bars * out.bar / into.bar))
    return float(min(beats, out.bar * (out.table.pitched[o] * into.table.pitched[k]).sum()))


def basses_together(out: Meeting, into: Meeting, out_at: float, in_at: float, heard: NDArray[np.bool_]) -> float:
    """For how many beats of an overlap both have a bass; ``heard`` are the beats, shape (n,), in which both would be
    heard. Bars of which nothing is known have none."""
    beats = np.arange(len(heard), dtype=np.float64) + 0.5
    o = out.at(out.lines.bar_of(out_at + beats))
    k = into.at(into.lines.bar_of(in_at + beats))
    return float(((out.table.bass[o] == 1.0) & (into.table.bass[k] == 1.0) & heard).sum())


def _differ(w: _Weighed, i: int, j: int, other: _Weighed, k: int, m: int) -> bool:
    near = abs(w.outs[i] - other.outs[k]) < APART_BARS and abs(w.ins[j] - other.ins[m]) < APART_BARS
    return not near or w.bars != other.bars


def _weighed(out: Meeting, into: Meeting, clash: float) -> Iterator[_Weighed]:
    for bars in LENGTHS_BARS:
        if bars > LARGEST_SHARE * min(out.length, into.length * into.bar / out.bar):
            continue
        incoming = bars * out.bar / into.bar
        earliest = max(out.start + HALF * out.length, out.free_from)
        outs = _lines_of(out, earliest, min(out.end, out.free_to) - bars, last=True)
        latest = min(into.start + HALF * into.length, into.free_to) - incoming
        ins = _lines_of(into, max(into.start, into.free_from), latest, last=False)
        if len(outs) and len(ins):
            yield _Weighed(bars, outs, ins, _costs(out, into, outs, ins, bars, clash))


def _lines_of(side: Meeting, first: float, latest: float, *, last: bool) -> Floats:
    """The bars from which an overlap may begin: those that somebody has said, else those where something begins."""
    if side.must is not None:
        return (
            np.array([side.must])
            if side.start - 1e-6 <= side.must <= (latest if last else side.end) + 1e-6
            else np.zeros(0)
        )
    bars = np.arange(np.ceil(first - 1e-6), np.floor(latest + 1e-6) + 1.0)
    chosen = bars[side.table.line[side.at(bars)] >= HALF_PHRASE] if len(bars) else bars
    if side.may is not None and first - 1e-6 <= side.may <= latest + 1e-6:
        chosen = np.union1d(chosen, [side.may])
    if not len(chosen) and len(bars):
        chosen = bars[-1:] if last else bars[:1]
    return chosen


def _costs(out: Meeting, into: Meeting, outs: Floats, ins: Floats, bars: int, clash: float) -> dict[str, Floats]:
    """What each placing costs, one kind after the other; each of shape (outs, ins) or what broadcasts to it."""
    n = np.arange(bars)
    pace = out.bar / into.bar
    swap = _swap(bars)
    o, k = out.at(outs[:, None] + n), into.at(ins[:, None] + np.floor(n * pace))
    both = ((n + 0.5) / bars > HEARD_FROM) & ((n + 0.5) / bars < HEARD_TO) if bars > 1 else np.ones(1, dtype=bool)
    voices = (out.table.voice[o] * both) @ into.table.voice[k].T
    notes = (out.table.pitched[o] * both) @ into.table.pitched[k].T / max(1, both.sum())
    no_bass = (1.0 - out.table.bass[o][:, :swap]).sum(axis=1)[:, None] * 0.5 + (1.0 - into.table.bass[k][:, swap:]).sum(
        axis=1
    )[None, :]
    starts = (
        LINES[0] * (SECTION - out.table.line[o[:, 0]])[:, None]
        + LINES[1] * (SECTION - into.table.line[k[:, 0]])[None, :]
    )
    ends = out.end - outs[:, None] - bars
    late_s = np.maximum(0.0, ins[None, :] + bars * pace - into.alone_from) if into.alone_from is not None else 0.0
    late = np.where(np.asarray(late_s) > 1e-6, TOO_LATE if into.clear_is_set else SUGGESTED, 0.0)
    return {
        "length": np.full((len(outs), len(ins)), LENGTHS_BARS[bars]),
        "voices": np.where(voices > 0.25, VOICES + VOICES_A_BAR * voices, 0.0),
        "notes": (CLASH * clash * min(1.0, bars / 8.0) + NOTES) * notes,
        "bass": np.broadcast_to(NO_BASS * no_bass / bars, (len(outs), len(ins))),
        "energy": _dips(out, into, outs, ins, bars, swap),
        "lines": np.broadcast_to(starts, (len(outs), len(ins))),
        "hand_over": LINES[2] * (SECTION - _line_of_either(out, into, outs + swap, ins + swap * pace)),
        "end": LINES[3]
        * (SECTION - np.maximum(_line_of_either(out, into, outs + bars, ins + bars * pace), ends < 1.0)),
        "cut_off": np.broadcast_to(_cut_off(out, outs, bars), (len(outs), len(ins))),
        "skipped": np.broadcast_to(SKIPPED * (ins[None, :] - into.start) / into.length, (len(outs), len(ins))),
        "suggested": _unlike(out.may, outs)[:, None] + _unlike(into.may, ins)[None, :],
        "late": np.broadcast_to(late, (len(outs), len(ins))),
    }


def _swap(bars: int) -> int:
    """The bar of an overlap on which the bass changes hands."""
    return round(middle_phrase(bars * 4.0, 4.0) / 4.0) if bars > 1 else 0


def _line_of_either(out: Meeting, into: Meeting, outs: Floats, ins: Floats) -> Floats:
    """How much of a line lies on a bar of the one or of the other; shape (outs, ins)."""
    return np.asarray(np.maximum(out.table.line[out.at(outs)][:, None], into.table.line[into.at(ins)][None, :]))


def _dips(out: Meeting, into: Meeting, outs: Floats, ins: Floats, bars: int, swap: int) -> Floats:
    """How far the energy of an overlap falls below what is before and after it, on the mean of its bars."""
    n = np.arange(bars)
    pace = out.bar / into.bar
    before = out.table.energy[out.at(outs[:, None] - 1 - np.arange(4))].mean(axis=1)
    after = into.table.energy[into.at(ins[:, None] + bars * pace + np.arange(4))].mean(axis=1)
    outgoing = out.table.energy[out.at(outs[:, None] + n)] * np.where(n < max(swap, 0.6 * bars), 1.0, 0.5)
    incoming = into.table.energy[into.at(ins[:, None] + np.floor(n * pace))] * np.where(n < 0.3 * bars, 0.5, 1.0)
    heard = np.maximum(outgoing[:, None, :], incoming[None, :, :])
    floor = np.minimum(before[:, None], after[None, :])[:, :, None]
    return np.asarray(DIP * np.maximum(0.0, floor - heard).mean(axis=2))


def _cut_off(out: Meeting, outs: Floats, bars: int) -> Floats:
    """How much of the outgoing is never heard, weighed by what goes on in it."""
    energy = out.table.energy
    rest = np.concatenate((np.cumsum(energy[::-1])[::-1], [0.0]))
    ends = np.clip(np.rint(outs + bars).astype(np.int64) - out.table.first, 0, len(energy))
    return np.asarray((CUT_OFF * rest[ends] / max(1e-9, energy.sum()))[:, None])


def _unlike(suggested: float | None, bars: Floats) -> Floats:
    return np.zeros(len(bars)) if suggested is None else np.asarray(SUGGESTED * (np.abs(bars - suggested) > 0.5))


def _proposal(out: Meeting, into: Meeting, clash: float, cost: float, w: _Weighed, i: int, j: int) -> Proposal:
    return Proposal(
        out_at=float(out.lines.beat_of(w.outs[i])) + 0.0,
        in_at=float(into.lines.beat_of(w.ins[j])) + 0.0,
        beats=float(w.bars * out.bar),
        shape=ReadyShape.BASS,
        reasons=tuple(_reasons(out, into, clash, w, i, j)),
        cost=round(cost, 3),
    )


def _reasons(out: Meeting, into: Meeting, clash: float, w: _Weighed, i: int, j: int) -> Iterator[str]:
    """What speaks for a placing, and what against it, in words."""
    n = np.arange(w.bars)
    pace = out.bar / into.bar
    o, k = out.at(w.outs[i] + n), into.at(w.ins[j] + np.floor(n * pace))
    swap = _swap(w.bars)
    alone = [bool(side.table.pitched[at].max() < 0.5) for side, at in ((out, o), (into, k))]
    length = f"{w.bars} {'bar' if w.bars == 1 else 'bars'}"
    if all(alone):
        yield f"{length}, both on drums alone"
    elif any(alone):
        yield f"{length}, the {'outgoing' if alone[0] else 'incoming'} on drums alone"
    else:
        yield length
    costs = {name: float(cost[i, j]) for name, cost in w.costs.items()}
    if out.must is not None or into.must is not None:
        which = "both your cues" if None not in (out.must, into.must) else "your cue"
        yield f"on {which}"
    if costs["lines"] <= (LINES[0] + LINES[1]) * (SECTION - 0.55):
        yield "phrase meets phrase" if costs["lines"] > 0.01 else "a section of both begins there"
    if swap and costs["hand_over"] < 0.01:
        enters = into.table.line[into.at(np.array([w.ins[j] + swap * pace]))][0] >= SECTION
        yield f"the bass changes on bar {swap + 1}, where the {'incoming' if enters else 'outgoing'} turns"
    if costs["end"] < 0.01:
        yield "it ends where something new begins"
    if costs["voices"]:
        yield "two voices meet"
    elif out.table.voice[o].any() or into.table.voice[k].any():
        yield "the voices stay apart"
    if clash > 0.3:
        yield "the keys clash, but only drums sound together" if costs["notes"] < 0.3 else "the keys clash"
    if costs["bass"] > 0.5 * NO_BASS:
        yield "the bass is missing for a while"
    if costs["energy"] > 0.3:
        yield "the energy dips"
    if costs["late"] >= TOO_LATE:
        yield "later than your ‘alone from’ cue"
    lost = costs["cut_off"] / CUT_OFF
    if lost > 0.05:
        yield f"{100.0 * lost:.0f} % of the outgoing is left out"
