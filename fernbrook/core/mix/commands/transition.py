"""Commands on where and how the transition between two neighbours lies."""

from __future__ import annotations

from typing import Literal

from pydantic import Field
from typing_extensions import override

from fernbrook.core.mix.commands.command import CommandError
from fernbrook.core.mix.commands.pair_command import PairCommand, checked, resolved, said
from fernbrook.core.mix.model import Mix, Naming
from fernbrook.core.mix.placing import BLEND_BARS, FADE_S, Placed, Room, Span, default_fade, default_place
from fernbrook.core.mix.transitions import (
    LONGEST_FADE_S,
    LONGEST_WAY,
    MOST_NUDGE_MS,
    Kind,
    ReadyShape,
    Side,
    TempoPolicy,
    TempoWay,
    Transition,
    apart_shape,
    fade_shape,
    reshaped,
    shape_of,
    transition_of,
)
from fernbrook.core.track import Tracks
from fernbrook.core.value import MOST_BEATS, Beat

NAMES = {Kind.BLEND: "blend", Kind.CUT: "cut", Kind.FADE: "fade", Kind.APART: "pause"}
PAUSE_S = 1.0
"""How long two tracks are apart at first."""


class PlaceTransition(PairCommand):
    """Move or resize an overlap. What is None stays as it is; ``seconds`` is the length of a fade or of a pause."""

    kind: Literal["place_transition"] = "place_transition"
    out_at: Beat | None = None
    in_at: Beat | None = None
    beats: float | None = Field(default=None, gt=0.0, le=MOST_BEATS)
    lead: float | None = Field(default=None, ge=0.0, le=MOST_BEATS)
    seconds: float | None = Field(default=None, ge=0.0, le=LONGEST_FADE_S)

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        here, out, into = resolved(mix, self.pair, tracks)
        old = here.transition
        if self.beats is not None and old.kind is not Kind.BLEND:
            raise CommandError(NO_LENGTH[old.kind])
        if self.seconds is not None and old.is_locked:
            raise CommandError("A blend and a cut are counted in beats. Choose a fade to give it seconds.")
        moved = checked(old, **said(self, "out_at", "in_at", "beats", "lead", "seconds"), **_let_go(self))
        _refuse_outside(moved, here.room, out, into)
        return mix.with_transition(moved)

    @override
    def words(self, naming: Naming) -> str:
        return f"{self._moving()} {naming.entry(self.in_id)}"

    def _moving(self) -> str:
        changed = [n for n in ("out_at", "in_at", "beats", "lead", "seconds") if getattr(self, n) is not None]
        if changed == ["in_at"]:
            return "move the mix-in of"
        if changed == ["out_at"]:
            return "move the mix-out before"
        if changed in (["beats"], ["lead"], ["seconds"]):
            return "change the length of the transition into"
        return "move the transition into"


class UseProposal(PairCommand):
    """Put a blend where it was proposed. One that was there keeps its shape; in the place of anything else comes one in
    which the bass changes hands."""

    kind: Literal["use_proposal"] = "use_proposal"
    out_at: Beat
    in_at: Beat
    beats: float = Field(gt=0.0, le=MOST_BEATS)

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        here, out, into = resolved(mix, self.pair, tracks)
        old = here.transition
        if old.kind is not Kind.BLEND:
            old = reshaped(old, shape_of(ReadyShape.BASS, self.beats, out.bar), self.beats)
        moved = checked(old, out_at=self.out_at, in_at=self.in_at, beats=self.beats)
        _refuse_outside(moved, here.room, out, into)
        return mix.with_transition(moved)

    @override
    def words(self, naming: Naming) -> str:
        return f"use a proposal into {naming.entry(self.in_id)}"


class SetKind(PairCommand):
    """Make a transition a blend, a cut, a fade or a pause. It stays where it is as far as that is possible; a cut can
    be given another place."""

    kind: Literal["set_kind"] = "set_kind"
    to: Kind
    out_at: Beat | None = None
    in_at: Beat | None = None

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        pair = self.pair
        here, out, into = resolved(mix, pair, tracks)
        if self.to is here.transition.kind:
            return mix
        match self.to:
            case Kind.BLEND:
                made = _blended(here, out, into)
            case Kind.CUT:
                made = reshaped(here.transition, shape_of(ReadyShape.CLEAN_CUT, 0.0, out.bar), 0.0)
                made = checked(made, **said(self, "out_at", "in_at"))
                _refuse_outside(made, here.room, out, into)
            case Kind.FADE:
                made = _faded(here, out, into)
            case Kind.APART:
                made = transition_of(apart_shape(PAUSE_S), pair, out.last_sound, into.first_sound, 0.0)
        return mix.with_transition(made)

    @override
    def words(self, naming: Naming) -> str:
        return f"{NAMES[self.to]} into {naming.entry(self.in_id)}"


class SetTempoPolicy(PairCommand):
    """Choose how the tempo moves over the transition, and how long that takes. What is None stays as it is."""

    kind: Literal["set_tempo_policy"] = "set_tempo_policy"
    tempo: TempoPolicy | None = None
    before: float | None = Field(default=None, ge=0.0, le=LONGEST_WAY)
    after: float | None = Field(default=None, ge=0.0, le=LONGEST_WAY)
    step_bpm: float | None = Field(default=None, ge=0.1, le=50.0)
    step_bars: int | None = Field(default=None, ge=1, le=64)

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        old = resolved(mix, self.pair, tracks)[0].transition
        way = old.way.model_copy(update=said(self, *TempoWay.model_fields))
        return mix.with_transition(checked(old, tempo=self.tempo or old.tempo, way=way))

    @override
    def words(self, naming: Naming) -> str:
        return f"set the tempo into {naming.entry(self.in_id)}"


class SetNudge(PairCommand):
    """Move the sound of the incoming by milliseconds, later where above 0."""

    kind: Literal["set_nudge"] = "set_nudge"
    ms: float = Field(ge=-MOST_NUDGE_MS, le=MOST_NUDGE_MS)

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        old = resolved(mix, self.pair, tracks)[0].transition
        return mix.with_transition(checked(old, nudge_ms=self.ms))

    @override
    def words(self, naming: Naming) -> str:
        return f"move {naming.entry(self.in_id)} by milliseconds"


class ResetTransition(PairCommand):
    """Forget what was shaped by hand: the transition places and shapes itself again."""

    kind: Literal["reset_transition"] = "reset_transition"

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        resolved(mix, self.pair, tracks)
        return mix.without_transitions([self.pair])

    @override
    def words(self, naming: Naming) -> str:
        return f"reset the transition into {naming.entry(self.in_id)}"


def _let_go(command: PlaceTransition) -> dict[str, None]:
    """An end that is placed holds no cue but the one that it lies on then."""
    return {cue: None for cue, at in (("out_cue", command.out_at), ("in_cue", command.in_at)) if at is not None}


NO_LENGTH = {
    Kind.CUT: "A cut has no length. Choose the shape ‘Even blend’ or ‘Bass hand-over’ to give it one.",
    Kind.FADE: "A fade has a length in seconds, as its beats are not locked.",
    Kind.APART: "Two tracks that are apart do not overlap. Choose a blend or a fade first.",
}


def _refuse_outside(t: Transition, room: Room, out: Span, into: Span) -> None:
    """Say which border a transition would cross."""
    slack = 1e-6
    out_beats = 0.0 if t.kind is Kind.CUT else out.beats_of(t, Side.OUTGOING)
    in_beats = into.beats_of(t, Side.INCOMING)
    checks = (
        (
            t.out_at - t.lead < room.out_from - slack,
            "The mix-out cue would lie before the outgoing track has arrived",
            room.out_from,
        ),
        (t.in_at < room.in_from - slack, "The mix-in cue would lie before the incoming track's sound", room.in_from),
        (t.out_at + out_beats > room.out_to + slack, "The overlap would outlast the outgoing track", room.out_to),
        (
            t.in_at + in_beats > room.in_to + slack,
            "The overlap would reach past where the incoming track goes out",
            room.in_to,
        ),
    )
    for crossed, what, border in checks:
        if crossed:
            raise CommandError(f"{what} (its beat {border:g}). Shorten the overlap or move it.")


def _blended(here: Placed, out: Span, into: Span) -> Transition:
    """A blend where a cut was, if there is room for a bar; else where blends lie by themselves."""
    old = here.transition
    beats = min(BLEND_BARS * out.bar, here.most_from_here)
    out_at, in_at = old.out_at, old.in_at
    if old.kind is not Kind.CUT or beats < out.bar:
        out_at, in_at, beats = default_place(out, into)
    return transition_of(shape_of(ReadyShape.BASS, beats, out.bar), old.pair, out_at, in_at, beats)


def _faded(here: Placed, out: Span, into: Span) -> Transition:
    """A fade as long as the blend that it replaces; else one over the last and the first sound."""
    old = here.transition
    if old.kind is not Kind.BLEND:
        return default_fade(old.pair, out, into, FADE_S)
    return reshaped(old, fade_shape(min(out.seconds_between(old.out_at, old.out_at + old.beats), LONGEST_FADE_S)), 0.0)
