"""Commands on the shape of a transition: its curves, its effects, and where both come from."""

from __future__ import annotations

from itertools import pairwise
from typing import Annotated, Literal, NamedTuple

from pydantic import Field
from typing_extensions import override

from fernbrook.core.mix.commands.command import CommandError, Id, MixCommand
from fernbrook.core.mix.commands.pair_command import PARTED, PairCommand, checked, refused, resolved, said
from fernbrook.core.mix.curves import CONTROLS, Control, Curve, Law, Share
from fernbrook.core.mix.model import Mix, Naming
from fernbrook.core.mix.placing import BLEND_BARS, Placed, Span, placed, spans_of
from fernbrook.core.mix.transitions import (
    LONGEST_ECHO,
    LONGEST_GAP,
    LONGEST_TAIL_S,
    MOST_FEEDBACK,
    READY,
    SHORTEST_ECHO,
    SHORTEST_GAP,
    SHORTEST_REVERB_S,
    Effects,
    Gap,
    GapBefore,
    GapSide,
    Kind,
    ReadyShape,
    SavedShape,
    Side,
    SideCurves,
    Transition,
    reshaped,
    ridden,
    shape_for,
)
from fernbrook.core.track import Tracks
from fernbrook.core.value import Value

MOST_MOVES = 100_000
"""A ride of a quarter of an hour, a hundred moves a second."""


class SetCurve(PairCommand):
    """Replace one curve of one side."""

    kind: Literal["set_curve"] = "set_curve"
    side: Side
    control: Control
    curve: Curve

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        old = resolved(mix, self.pair, tracks)[0].transition
        return mix.with_transition(_with_curve(old, self.side, self.control, self.curve))

    @override
    def words(self, naming: Naming) -> str:
        return f"shape the {self.control} of {naming.entry(self.id_of(self.side))}"


class LaneCurve(Value):
    """A curve, and whose it is."""

    side: Side
    control: Control
    curve: Curve


class SetCurves(PairCommand):
    """Replace several curves at once, as when points of several are moved, copied or mirrored."""

    kind: Literal["set_curves"] = "set_curves"
    curves: tuple[LaneCurve, ...] = Field(min_length=1, max_length=2 * len(Control))

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        made = resolved(mix, self.pair, tracks)[0].transition
        for lane in self.curves:
            made = _with_curve(made, lane.side, lane.control, lane.curve)
        return mix.with_transition(made)

    @override
    def words(self, naming: Naming) -> str:
        return f"shape the transition into {naming.entry(self.in_id)}"


class Move(NamedTuple):
    """A position of a control at a place in the overlap; a pair of numbers in JSON."""

    at: Share
    value: Share


class RecordRide(PairCommand):
    """Keep the moves of a control that were made while listening as its curve, between the first and the last."""

    kind: Literal["record_ride"] = "record_ride"
    side: Side
    control: Control
    moves: Annotated[tuple[Move, ...], Field(min_length=2, max_length=MOST_MOVES)]

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        here, out, into = resolved(mix, self.pair, tracks)
        old, span = here.transition, out if self.side is Side.OUTGOING else into
        at = old.out_at if self.side is Side.OUTGOING else old.in_at
        length_s = span.seconds_between(at, at + span.beats_of(old, self.side))
        if length_s <= 0:
            raise CommandError("There is no overlap to ride over here. Give the cut a lead, or choose a blend.")
        if any(later.at < earlier.at for earlier, later in pairwise(self.moves)):
            raise CommandError("The moves of a ride must go forwards.")
        before = old.curves(self.side).curve(self.control)
        curve = ridden(before, self.moves, CONTROLS[self.control], self.side, length_s)
        return mix.with_transition(_with_curve(old, self.side, self.control, curve))

    @override
    def words(self, naming: Naming) -> str:
        return f"ride the {self.control} of {naming.entry(self.id_of(self.side))}"


class SetVolumeLaw(PairCommand):
    """Let the volume faders fade at even power, or in a straight line."""

    kind: Literal["set_volume_law"] = "set_volume_law"
    law: Literal[Law.FADER, Law.LINEAR]

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        old = resolved(mix, self.pair, tracks)[0].transition
        return mix.with_transition(checked(old, volume_law=self.law))

    @override
    def words(self, naming: Naming) -> str:
        return f"shape the transition into {naming.entry(self.in_id)}"


class SetEffects(PairCommand):
    """Set what the filter, the echo and the reverb are like. What is None stays as it is."""

    kind: Literal["set_effects"] = "set_effects"
    resonance: Share | None = None
    echo_beats: float | None = Field(default=None, ge=SHORTEST_ECHO, le=LONGEST_ECHO)
    echo_feedback: float | None = Field(default=None, ge=0.0, le=MOST_FEEDBACK)
    echo_damping: Share | None = None
    reverb_s: float | None = Field(default=None, ge=SHORTEST_REVERB_S, le=LONGEST_TAIL_S)
    reverb_colour: Share | None = None

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        old = resolved(mix, self.pair, tracks)[0].transition
        return mix.with_transition(
            checked(old, effects=old.effects.model_copy(update=said(self, *Effects.model_fields)))
        )

    @override
    def words(self, naming: Naming) -> str:
        return f"set the effects into {naming.entry(self.in_id)}"


class SetGap(PairCommand):
    """Leave out the last beats before the hand-over or the end; 0 beats take that back. What is None stays as it is."""

    kind: Literal["set_gap"] = "set_gap"
    beats: Literal[0] | Annotated[float, Field(ge=SHORTEST_GAP, le=LONGEST_GAP)] | None = None
    before: GapBefore | None = None
    side: GapSide | None = None
    rings: bool | None = None

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        old = resolved(mix, self.pair, tracks)[0].transition
        if self.beats == 0:
            return mix.with_transition(checked(old, gap=None))
        if not old.is_locked:
            raise CommandError("A gap is counted in beats that both tracks share. Choose a blend or a cut first.")
        gap = (old.gap or Gap()).model_copy(update=said(self, *Gap.model_fields))
        return mix.with_transition(checked(old, gap=gap))

    @override
    def words(self, naming: Naming) -> str:
        doing = "put back" if self.beats == 0 else "leave out"
        return f"{doing} the beats before {naming.entry(self.in_id)}"


class ApplyShape(PairCommand):
    """Start the transition over from a shape; it stays where it is."""

    kind: Literal["apply_shape"] = "apply_shape"
    shape: ReadyShape | SavedShape

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        here, out, _ = resolved(mix, self.pair, tracks)
        return mix.with_transition(_handed_over(self.shape, here, out))

    @override
    def words(self, naming: Naming) -> str:
        return f"use the {_named(self.shape)} into {naming.entry(self.in_id)}"


class Pair(Value):
    """Two entries that meet."""

    out_id: Id
    in_id: Id


class ShapeTransitions(MixCommand):
    """Start several transitions over from one shape, or all of the mix where ``pairs`` is None."""

    kind: Literal["shape_transitions"] = "shape_transitions"
    shape: ReadyShape | SavedShape
    pairs: Annotated[tuple[Pair, ...], Field(min_length=1, max_length=1000)] | None = None

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        spans = spans_of(mix, tracks)
        every = {here.transition.pair: (here, out) for here, out in zip(placed(mix, spans), spans, strict=False)}
        for pair in every if self.pairs is None else [(p.out_id, p.in_id) for p in self.pairs]:
            if pair not in every:
                raise CommandError(PARTED)
            mix = mix.with_transition(_handed_over(self.shape, *every[pair]))
        return mix

    @override
    def words(self, naming: Naming) -> str:
        which = "all" if self.pairs is None else len(self.pairs)
        return f"use the {_named(self.shape)} for {which} transitions"


def _with_curve(old: Transition, side: Side, control: Control, curve: Curve) -> Transition:
    curves: SideCurves = old.curves(side).with_curve(control, curve)
    return checked(old, **{side.value: curves})


def _handed_over(shape: ReadyShape | SavedShape, here: Placed, out: Span) -> Transition:
    """The transition with another shape. A blend takes the length that it wishes for, or there is, if it fits."""
    old, bar = here.transition, out.bar
    beats = old.beats or min(BLEND_BARS * bar, here.most_from_here)
    with refused():
        wished = shape_for(shape, max(beats, bar), bar)
        if wished.kind is Kind.CUT:
            lead = min(wished.lead, max(0.0, old.out_at - here.room.out_from))
            return reshaped(old, wished.model_copy(update={"lead": lead}), 0.0)
        if wished.kind is not Kind.BLEND:
            return reshaped(old, wished, 0.0)
        beats = beats if wished.beats is None else min(wished.beats, here.most_from_here)
        if beats <= 0:
            raise CommandError("There is no room for a blend here. Move the mix-out cue earlier first.")
        return reshaped(old, shape_for(shape, beats, bar), beats)


def _named(shape: ReadyShape | SavedShape) -> str:
    return f"‘{shape.name}’" if isinstance(shape, SavedShape) else READY[shape].label.lower()
