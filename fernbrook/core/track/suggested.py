"""Cues and loops that the program proposes, from what is known of a track: drawn in pencil, each with its reason."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

from fernbrook.core.track.cue import PREFERRED, ROLES, Cue, CueRole
from fernbrook.core.track.energy import Energy
from fernbrook.core.track.grid import Grid
from fernbrook.core.track.loop import Loop, LoopKind
from fernbrook.core.track.section import Section, SectionKind, VoiceSpan
from fernbrook.core.value import Value

LENGTHS_BARS = (32, 16, 8, 4, 2, 1)
"""How many bars a blend takes when nobody has said it."""
LARGEST_SHARE = 0.2
"""And of how much of a track at most."""
SAFE_BARS = 4
"""Drums that are alone for less than this are no place to come in or to leave."""
CLEAR_BARS = 2
"""What enters sooner than this after the mix-in leaves no room for a blend, and is no alone from."""
INTRO, OUTRO = 0.4, 0.6
"""A way in is looked for up to this share of the track, a way out from that one on."""
THINNER = 0.75
"""A last section has this share of the usual energy, or less, where the track thins out."""
LIFT = 0.15
"""By so much more energy than the section before it a section is a drop."""
MOST_PLAIN = 6
LOOP_BARS = (16, 8, 4)

VOICE = "voice"
WITH_DRUMS = frozenset({SectionKind.BEAT, SectionKind.BASS, SectionKind.FULL})
WITHOUT_DRUMS = frozenset({SectionKind.BREAK, SectionKind.BEATLESS})


class SuggestedCue(Value):
    """A cue that is proposed, and why."""

    cue: Cue
    reason: str


class SuggestedLoop(Value):
    """A loop that is proposed, and why."""

    loop: Loop
    reason: str


@dataclass(frozen=True)
class Known:
    """What proposals are made from. ``start_s`` and ``end_s`` are the first and the last sound."""

    grid: Grid
    start_s: float
    end_s: float
    sections: tuple[Section, ...] = ()
    voice: tuple[VoiceSpan, ...] = ()
    energy: Energy | None = None

    @property
    def bar(self) -> int:
        """Beats in a bar."""
        return self.grid.beats_per_bar

    @property
    def first(self) -> float:
        """The first downbeat with sound; the first line with sound where the track ends before beat 0."""
        begin, end = (float(b) for b in self.grid.beat_at([self.start_s, self.end_s]))
        line = float(math.floor(begin))
        return max(0.0, self.grid.bar_lines.up(line)) if end > 0 else line

    @property
    def last(self) -> float:
        """The end of the bar with the last sound."""
        return self.grid.bar_lines.up(float(self.grid.beat_at(self.end_s)))

    @property
    def usual(self) -> float | None:
        """The energy of the whole track."""
        return self._energy_of(self.first, self.last)

    def energy_of(self, section: Section) -> float | None:
        """The mean energy of a section."""
        return self._energy_of(section.start, section.end)

    def _energy_of(self, start: float, end: float) -> float | None:
        first, last = (float(bar) for bar in self.grid.bar_lines.at([start, end]))
        return self.energy.between(first, last) if self.energy else None

    def down_to_bar(self, beat: float) -> float:
        """The bar line at or before a beat."""
        return self.grid.bar_lines.down(beat)

    def bar_after(self, beat: float) -> float:
        """The bar line after a beat."""
        lines = self.grid.bar_lines
        return float(lines.beat_of(lines.bar_of(beat) + 1.0))

    def phrase_before(self, beat: float) -> float:
        """The line of eight bars at or before a beat, else the bar line."""
        line = self.grid.bar_lines.phrase_down(beat)
        return line if line >= self.first else self.down_to_bar(beat)

    def at_share(self, share: float) -> float:
        """The beat at a share of the track."""
        return self.first + share * (self.last - self.first)

    def longest(self) -> int:
        """How many bars a blend takes at most."""
        most = LARGEST_SHARE * (self.last - self.first)
        return next((n for n in LENGTHS_BARS if n * self.bar <= most), 0)


def suggested_cues(known: Known, cues: Sequence[Cue] = ()) -> tuple[SuggestedCue, ...]:
    """What is proposed beside the cues that there are: no role that is there already, and nothing where a cue is."""
    roles = {c.role for c in cues if c.role is not CueRole.PLAIN}
    offered = [p for p in _with_role(known) if p.cue.role not in roles]
    taken = [c.at for c in cues] + [p.cue.at for p in offered]
    plain = [p for p in _plain(known) if all(abs(p.cue.at - at) >= known.bar for at in taken)]
    return tuple(sorted([*offered, *plain[:MOST_PLAIN]], key=lambda p: (p.cue.at, ROLES.index(p.cue.role))))


def suggested_loops(known: Known, loops: Sequence[Loop] = ()) -> tuple[SuggestedLoop, ...]:
    """The longest loop of drums alone in each section that has nothing else, where there is none yet."""
    found = []
    for section in known.sections:
        bars = next((n for n in LOOP_BARS if n * known.bar <= section.end - section.start + 1e-6), None)
        if section.kind is not SectionKind.BEAT or bars is None:
            continue
        beats, start = float(bars * known.bar), max(section.start, 0.0)
        if any(loop.start < start + beats and start < loop.end for loop in loops):
            continue
        kind = LoopKind.OUTRO if start > known.at_share(OUTRO) else LoopKind.BEAT
        loop = Loop(id=f"pencil-loop-{start:g}", start=start, beats=beats, kind=kind, name="drums")
        found.append(SuggestedLoop(loop=loop, reason="drums alone"))
    return tuple(found)


def _with_role(known: Known) -> Iterator[SuggestedCue]:
    yield _suggested(known.first, CueRole.START, "the first downbeat")
    mix_in, why = _mix_in(known)
    yield _suggested(mix_in, CueRole.MIX_IN, why)
    alone_from = _alone_from(known, mix_in)
    if alone_from:
        yield _suggested(alone_from[0], CueRole.ALONE_FROM, alone_from[1])
    mix_out = _mix_out(known)
    if mix_out and mix_out[0] > mix_in:
        yield _suggested(mix_out[0], CueRole.MIX_OUT, mix_out[1])


def _mix_in(known: Known) -> tuple[float, str]:
    """The first drums that are alone, else where drums enter, else the first downbeat."""
    early = [s for s in known.sections if s.start < known.at_share(INTRO)]
    alone = next((s for s in early if s.kind is SectionKind.BEAT and _bars(s, known) >= SAFE_BARS), None)
    if alone:
        return max(alone.start, known.first), "drums alone from here"
    beat = next((s for s in early if s.kind in WITH_DRUMS), None)
    if beat and beat.start > known.first + known.bar / 2:
        return beat.start, "the beat enters"
    return known.first, "the first downbeat"


def _mix_out(known: Known) -> tuple[float, str] | None:
    """The last drums that are alone, else where the track thins out, else the last bars that make a blend."""
    late = [s for s in known.sections if s.start > known.at_share(OUTRO)]
    alone = next((s for s in reversed(late) if s.kind is SectionKind.BEAT and _bars(s, known) >= SAFE_BARS), None)
    if alone:
        return alone.start, "drums alone from here"
    if late and _bars(late[-1], known) >= SAFE_BARS:
        energy, usual = known.energy_of(late[-1]), known.usual
        if energy is not None and usual is not None and energy < THINNER * usual:
            return late[-1].start, "it thins out from here"
    bars = known.longest()
    return (
        (known.phrase_before(known.last - bars * known.bar), f"{bars} bars to the end, or a little more")
        if bars
        else None
    )


def _alone_from(known: Known, mix_in: float) -> tuple[float, str] | None:
    """Where the voice enters, else where all of the track plays, else when a fifth of it has."""
    soonest = mix_in + CLEAR_BARS * known.bar
    middle = known.at_share(OUTRO)
    entrance = next((v.start for v in known.voice if soonest <= known.down_to_bar(v.start) < middle), None)
    if entrance is not None:
        return known.down_to_bar(entrance), "the voice enters"
    full = next((s for s in known.sections if s.kind is SectionKind.FULL and soonest <= s.start < middle), None)
    if full:
        return full.start, "everything plays from here"
    bars = known.longest()
    return (mix_in + bars * known.bar, f"{bars} bars have played, and no voice is in the way") if bars else None


def _plain(known: Known) -> Iterator[SuggestedCue]:
    """Breaks, drops, and where the voice enters and has ended; the most telling first."""
    for before, section in pairwise(known.sections):
        was, now = known.energy_of(before), known.energy_of(section)
        lifted = was is not None and now is not None and now > was + LIFT
        if section.kind is SectionKind.FULL and (before.kind not in WITH_DRUMS or lifted):
            yield _suggested(section.start, CueRole.PLAIN, "everything comes back", "drop")
    for before, section in pairwise(known.sections):
        if section.kind in WITHOUT_DRUMS and before.kind not in WITHOUT_DRUMS and section.start > known.first:
            yield _suggested(section.start, CueRole.PLAIN, "the drums leave", "break")
    if known.voice:
        yield _suggested(known.down_to_bar(known.voice[0].start), CueRole.PLAIN, "the voice enters", VOICE)
        last = known.bar_after(known.voice[-1].end)
        yield _suggested(last, CueRole.PLAIN, "the voice has ended", "voice ends")


def _bars(section: Section, known: Known) -> float:
    return (section.end - max(section.start, known.first)) / known.bar


def _suggested(at: float, role: CueRole, reason: str, name: str = "") -> SuggestedCue:
    what = name.replace(" ", "-") or role.value
    cue = Cue(id=f"pencil-{what}-{at:g}", at=at, role=role, name=name, preferred=role in PREFERRED)
    return SuggestedCue(cue=cue, reason=reason)
