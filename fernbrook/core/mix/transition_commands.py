"""Commands on the transition between two neighbours."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, ValidationError

from fernbrook.core.mix.changing import CommandError, Id, Tracks, index_of, rule
from fernbrook.core.mix.control import Control
from fernbrook.core.mix.curve import Curve
from fernbrook.core.mix.hand_over import HandOver, shape_of
from fernbrook.core.mix.mix import Mix
from fernbrook.core.mix.placing import Placed, Room, Span, placed, spans_of
from fernbrook.core.mix.transition import Kind, Side, TempoPolicy, Transition
from fernbrook.core.value import MOST_BEATS, Beat, Command


class PairCommand(Command):
    """A command on the transition between two neighbours."""

    out_id: Id
    in_id: Id


class PlaceTransition(PairCommand):
    """Move or resize an overlap. What is None stays as it is."""

    kind: Literal["place_transition"] = "place_transition"
    out_at: Beat | None = None
    in_at: Beat | None = None
    beats: float | None = Field(default=None, gt=0.0, le=MOST_BEATS)


class SetTempoPolicy(PairCommand):
    """Choose how the tempo moves over the transition."""

    kind: Literal["set_tempo_policy"] = "set_tempo_policy"
    tempo: TempoPolicy


class SetCurve(PairCommand):
    """Replace one curve of one side."""

    kind: Literal["set_curve"] = "set_curve"
    side: Side
    control: Control
    curve: Curve


class ApplyHandOver(PairCommand):
    """Start the transition over from a ready-made shape; it stays where it is."""

    kind: Literal["apply_hand_over"] = "apply_hand_over"
    hand_over: HandOver


class ResetTransition(PairCommand):
    """Forget what was shaped by hand: the transition places and shapes itself again."""

    kind: Literal["reset_transition"] = "reset_transition"


@rule.register
def _(command: PlaceTransition, mix: Mix, tracks: Tracks) -> Mix:
    here, _ = _resolved(mix, command, tracks)
    old = here.transition
    if old.kind is Kind.CUT and command.beats is not None:
        raise CommandError("A cut has no length. Choose the even blend or the bass hand-over to give it one.")
    moved = _checked(old, out_at=command.out_at, in_at=command.in_at, beats=command.beats)
    _refuse_outside(moved, here.room)
    return mix.with_transition(moved)


def _refuse_outside(t: Transition, room: Room) -> None:
    """Say which border a transition would cross."""
    slack = 1e-6
    checks = (
        (
            t.out_at < room.out_from - slack,
            "The mix-out cue would lie before the outgoing track has arrived",
            room.out_from,
        ),
        (t.in_at < room.in_from - slack, "The mix-in cue would lie before the incoming track's sound", room.in_from),
        (t.out_at + t.beats > room.out_to + slack, "The overlap would outlast the outgoing track", room.out_to),
        (
            t.in_at + t.beats > room.in_to + slack,
            "The overlap would reach past where the incoming track leaves",
            room.in_to,
        ),
    )
    for crossed, what, border in checks:
        if crossed:
            raise CommandError(f"{what} (its beat {border:g}). Shorten the overlap or move it.")


@rule.register
def _(command: SetTempoPolicy, mix: Mix, tracks: Tracks) -> Mix:
    old = _resolved(mix, command, tracks)[0].transition
    return mix.with_transition(_checked(old, tempo=command.tempo))


@rule.register
def _(command: SetCurve, mix: Mix, tracks: Tracks) -> Mix:
    old = _resolved(mix, command, tracks)[0].transition
    curves = old.curves(command.side).with_curve(command.control, command.curve)
    return mix.with_transition(_checked(old, **{command.side.value: curves}))


@rule.register
def _(command: ApplyHandOver, mix: Mix, tracks: Tracks) -> Mix:
    here, span = _resolved(mix, command, tracks)
    old, bar = here.transition, span.bar
    beats = old.beats
    if command.hand_over is not HandOver.CLEAN_CUT and beats <= 0:
        beats = min(16.0 * bar, _room_after(old, here.room))
        if beats <= 0:
            raise CommandError("There is no room for a blend here. Move the mix-out cue earlier first.")
    shape = shape_of(command.hand_over, beats, bar)
    beats = 0.0 if shape.kind is Kind.CUT else beats
    return mix.with_transition(
        _checked(old, kind=shape.kind, tempo=shape.tempo, outgoing=shape.outgoing, incoming=shape.incoming, beats=beats)
    )


def _room_after(t: Transition, room: Room) -> float:
    return min(room.out_to - t.out_at, room.in_to - t.in_at)


@rule.register
def _(command: ResetTransition, mix: Mix, tracks: Tracks) -> Mix:
    _resolved(mix, command, tracks)
    kept = tuple(t for t in mix.transitions if t.pair != (command.out_id, command.in_id))
    return mix.model_copy(update={"transitions": kept})


def _resolved(mix: Mix, command: PairCommand, tracks: Tracks) -> tuple[Placed, Span]:
    """The transition that a command is about, where it lies, and the sounding span of its outgoing entry."""
    index = index_of(mix, command.out_id)
    if index + 1 >= len(mix.entries) or mix.entries[index + 1].id != command.in_id:
        raise CommandError("Those two entries are not neighbours any more: the order has changed.")
    spans = spans_of(mix, tracks)
    return placed(mix, spans)[index], spans[index]


def _checked(old: Transition, **update: object) -> Transition:
    """The transition with what is not None replaced, validated as a whole."""
    fields = {name: getattr(old, name) for name in Transition.model_fields}
    fields |= {name: value for name, value in update.items() if value is not None}
    try:
        return Transition.model_validate(fields)
    except ValueError as error:
        raise CommandError(_plain(error)) from error


def _plain(error: ValueError) -> str:
    """The first message of a validation error, without its framing."""
    text = str(error.errors()[0]["msg"]) if isinstance(error, ValidationError) else str(error)
    return text.removeprefix("Value error, ").capitalize() + "."
