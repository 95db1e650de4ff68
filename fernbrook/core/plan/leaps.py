"""Ways across a leap in tempo that no ramp can bridge, where two tracks meet."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from fernbrook.core.mix.commands import SetCount, SetKind, SetTempoPolicy, UseProposal
from fernbrook.core.mix.entries import COUNTS
from fernbrook.core.mix.placing import Room
from fernbrook.core.mix.transitions import Kind, TempoPolicy, Transition
from fernbrook.core.plan.warning import Mend
from fernbrook.core.track import Section, SectionKind

NOTICEABLE_STRETCH = 0.06
LEAST_SHARE = 0.3
"""A break before so much of the way through the outgoing is none to leave it at."""
LEAST_RISE_BPM = 1.0
STEPS = 4
STEP_BARS = 4
BROKEN = frozenset({SectionKind.BREAK, SectionKind.BEATLESS})
LOOSE = BROKEN | {SectionKind.RISE}
"""Sections in which there is no steady beat that a changing tempo would bend."""


@dataclass(frozen=True)
class Leap:
    """Two neighbours whose tempi lie far apart; sections are counted in beats as played, tempi in those as well."""

    transition: Transition
    room: Room
    bar: float
    bpm: tuple[float, float]
    in_count: float
    out_sections: Sequence[Section]
    in_sections: Sequence[Section]

    @property
    def is_ridden(self) -> bool:
        """Whether the tempo moves on purpose: in steps, or while the outgoing has no steady beat."""
        t = self.transition
        if t.tempo is TempoPolicy.STEPS:
            return True
        loose = [s for s in self.out_sections if s.kind in LOOSE]
        return any(s.start <= t.out_at + 0.01 and t.out_at + t.beats <= s.end + 0.01 for s in loose)


def ways_across(leap: Leap) -> Iterator[Mend]:
    """What can be done about it, what changes least first."""
    t = leap.transition
    pair = {"out_id": t.out_id, "in_id": t.in_id}
    for factor, words in ((0.5, "half"), (2.0, "double")):
        ratio = leap.bpm[1] * factor / leap.bpm[0]
        count = leap.in_count * factor
        if abs(ratio - 1.0) <= NOTICEABLE_STRETCH and count in COUNTS:
            yield Mend(label=f"Count it {words}", command=SetCount(entry_id=t.in_id, count=count))
    rise = _rise(leap)
    if rise is not None:
        out_at, in_at, beats = rise
        command = UseProposal(out_at=out_at, in_at=in_at, beats=beats, **pair)
        yield Mend(label="Ride through its rise", command=command)
    rise_bpm = abs(leap.bpm[1] - leap.bpm[0])
    if rise_bpm < LEAST_RISE_BPM:
        # Both ride at one tempo, which is far from that of one of them: there is no leap, and only apart it helps.
        yield Mend(label="Cut instead", command=SetKind(to=Kind.CUT, **pair))
        return
    yield Mend(
        label=f"In {STEPS} steps before it",
        command=SetTempoPolicy(
            tempo=TempoPolicy.STEPS,
            before=STEPS * STEP_BARS * leap.bar,
            step_bars=STEP_BARS,
            step_bpm=min(50.0, math.ceil(rise_bpm / STEPS * 10.0) / 10.0),
            **pair,
        ),
    )
    at_break = _last_break(leap)
    if at_break is not None:
        yield Mend(label="Cut at its break", command=SetKind(to=Kind.CUT, out_at=at_break, in_at=t.in_at, **pair))
    yield Mend(label="Cut instead", command=SetKind(to=Kind.CUT, **pair))


def _rise(leap: Leap) -> tuple[float, float, float] | None:
    """The last rise of the outgoing, laid so that it ends where the incoming is full; None where that has no room."""
    full = next((s.start for s in leap.in_sections if s.kind is SectionKind.FULL), None)
    for section in reversed(leap.out_sections):
        beats = section.end - section.start
        if section.kind is not SectionKind.RISE or full is None:
            continue
        fits_out = leap.room.out_from <= section.start and section.end <= leap.room.out_to
        if fits_out and leap.room.in_from <= full - beats and full <= leap.room.in_to:
            return section.start, full - beats, beats
    return None


def _last_break(leap: Leap) -> float | None:
    """Where the last break of the outgoing begins, if that is late enough in it."""
    if not leap.out_sections:
        return None
    earliest = leap.out_sections[0].start + LEAST_SHARE * (leap.out_sections[-1].end - leap.out_sections[0].start)
    starts = [s.start for s in leap.out_sections if s.kind in BROKEN]
    return next((s for s in reversed(starts) if max(earliest, leap.room.out_from) <= s <= leap.room.out_to), None)
