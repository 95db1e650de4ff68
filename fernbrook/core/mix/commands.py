"""Every change to a mix is one of these commands: a pure function ``(mix, command, tracks) -> mix``."""

from __future__ import annotations

from collections.abc import Mapping
from functools import singledispatch
from typing import Annotated, Literal

from pydantic import Field, StringConstraints, ValidationError

from fernbrook.core.mix.control import Control
from fernbrook.core.mix.curve import Curve
from fernbrook.core.mix.entry import COUNTS, Bpm, Count, Entry, GainDb
from fernbrook.core.mix.hand_over import HandOver, shape_of
from fernbrook.core.mix.mix import MAX_ENTRIES, Loudness, Mix
from fernbrook.core.mix.placing import Placed, Room, Span, placed, spans_of
from fernbrook.core.mix.transition import Kind, Side, TempoPolicy, Transition
from fernbrook.core.track.facts import TrackFacts
from fernbrook.core.value import MOST_BEATS, Beat, Value
from fernbrook.core.value import Command as CommandValue
from fernbrook.errors import RefusedError

Tracks = Mapping[str, TrackFacts]
Id = Annotated[str, StringConstraints(max_length=32)]


class CommandError(RefusedError):
    """The command cannot be done to this mix; the message says why and what would do."""


class RenameMix(CommandValue):
    """Give the mix another name."""

    kind: Literal["rename_mix"] = "rename_mix"
    name: str = Field(min_length=1, max_length=200)


class SetTarget(CommandValue):
    """Set the loudness that entries without a gain of their own are brought to; None leaves all as they are."""

    kind: Literal["set_target"] = "set_target"
    lufs: float | None = Field(ge=-40.0, le=0.0)


class SetLoudness(CommandValue):
    """Choose what makes tracks equally loud."""

    kind: Literal["set_loudness"] = "set_loudness"
    loudness: Loudness


class SetLimiting(CommandValue):
    """Allow the limiter so many dB of each track's peaks."""

    kind: Literal["set_limiting"] = "set_limiting"
    db: float = Field(ge=0.0, le=12.0)


class AddTracks(CommandValue):
    """Put tracks into the order, before the place ``at`` (at the end without it)."""

    kind: Literal["add_tracks"] = "add_tracks"
    track_ids: tuple[Id, ...] = Field(min_length=1, max_length=MAX_ENTRIES)
    at: int | None = Field(default=None, ge=0, le=MAX_ENTRIES)


class RemoveEntry(CommandValue):
    """Take an entry out of the order."""

    kind: Literal["remove_entry"] = "remove_entry"
    entry_id: Id


class MoveEntry(CommandValue):
    """Put an entry at another place of the order."""

    kind: Literal["move_entry"] = "move_entry"
    entry_id: Id
    to: int = Field(ge=0, le=MAX_ENTRIES)


class SetGain(CommandValue):
    """Set an entry's gain; None brings it to the target loudness."""

    kind: Literal["set_gain"] = "set_gain"
    entry_id: Id
    gain_db: GainDb | None


class SetKeyLock(CommandValue):
    """Keep an entry's pitch when its tempo changes, or let it follow."""

    kind: Literal["set_key_lock"] = "set_key_lock"
    entry_id: Id
    key_lock: bool


class SetHomeTempo(CommandValue):
    """Set the tempo at which an entry plays between its transitions; None is its own."""

    kind: Literal["set_home_tempo"] = "set_home_tempo"
    entry_id: Id
    bpm: Bpm | None


class SetCount(CommandValue):
    """Set how many beats of the mix one beat of the entry's grid is."""

    kind: Literal["set_count"] = "set_count"
    entry_id: Id
    count: Count


class PairCommand(CommandValue):
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


Command = Annotated[
    RenameMix
    | SetTarget
    | SetLoudness
    | SetLimiting
    | AddTracks
    | RemoveEntry
    | MoveEntry
    | SetGain
    | SetKeyLock
    | SetHomeTempo
    | SetCount
    | PlaceTransition
    | SetTempoPolicy
    | SetCurve
    | ApplyHandOver
    | ResetTransition,
    Field(discriminator="kind"),
]


@singledispatch
def _apply(command: Value, mix: Mix, tracks: Tracks) -> Mix:
    raise TypeError(f"not a command: {type(command).__name__}")


def apply(mix: Mix, command: Command, tracks: Tracks) -> Mix:
    """The mix after a command.

    Raises
    ------
    CommandError
        When the command names what is not there, or asks for what cannot be. The mix is as it was.
    """
    return _apply(command, mix, tracks)


@_apply.register
def _(command: RenameMix, mix: Mix, tracks: Tracks) -> Mix:
    return mix.model_copy(update={"name": command.name.strip() or mix.name})


@_apply.register
def _(command: SetTarget, mix: Mix, tracks: Tracks) -> Mix:
    return mix.model_copy(update={"target_lufs": command.lufs})


@_apply.register
def _(command: SetLoudness, mix: Mix, tracks: Tracks) -> Mix:
    return mix.model_copy(update={"loudness": command.loudness})


@_apply.register
def _(command: SetLimiting, mix: Mix, tracks: Tracks) -> Mix:
    return mix.model_copy(update={"limiting_db": command.db})


@_apply.register
def _(command: AddTracks, mix: Mix, tracks: Tracks) -> Mix:
    missing = [t for t in command.track_ids if t not in tracks]
    if missing:
        raise CommandError(f"Track {missing[0]} is not in the library any more. Import it again, then add it.")
    if len(mix.entries) + len(command.track_ids) > MAX_ENTRIES:
        raise CommandError(f"A mix holds at most {MAX_ENTRIES} entries; this one would have more.")
    at = len(mix.entries) if command.at is None else min(command.at, len(mix.entries))
    before = mix.entries[at - 1] if at else None
    added: list[Entry] = []
    for number, track_id in enumerate(command.track_ids, mix.next_entry):
        count = _count_beside(before, tracks[track_id], tracks)
        before = Entry(id=f"e{number}", track_id=track_id, count=count)
        added.append(before)
    entries = (*mix.entries[:at], *added, *mix.entries[at:])
    return mix.model_copy(update={"entries": entries, "next_entry": mix.next_entry + len(added)})


def _count_beside(before: Entry | None, track: TrackFacts, tracks: Tracks) -> Count:
    """The count at which a track rides closest to the tempo of the entry before it: 87 BPM beside 174 counts double."""
    if before is None or before.track_id not in tracks or track.grid is None:
        return 1.0
    tempo = before.home_bpm(tracks[before.track_id])
    own = Entry(id="", track_id=track.id).home_bpm(track)
    return min(COUNTS, key=lambda c: max(own * c / tempo, tempo / (own * c)))


@_apply.register
def _(command: RemoveEntry, mix: Mix, tracks: Tracks) -> Mix:
    index = _index(mix, command.entry_id)
    return mix.model_copy(update={"entries": mix.entries[:index] + mix.entries[index + 1 :]})


@_apply.register
def _(command: MoveEntry, mix: Mix, tracks: Tracks) -> Mix:
    index = _index(mix, command.entry_id)
    rest = mix.entries[:index] + mix.entries[index + 1 :]
    to = min(command.to, len(rest))
    return mix.model_copy(update={"entries": (*rest[:to], mix.entries[index], *rest[to:])})


@_apply.register
def _(command: SetGain, mix: Mix, tracks: Tracks) -> Mix:
    return _with_entry(mix, command.entry_id, gain_db=command.gain_db)


@_apply.register
def _(command: SetKeyLock, mix: Mix, tracks: Tracks) -> Mix:
    return _with_entry(mix, command.entry_id, key_lock=command.key_lock)


@_apply.register
def _(command: SetHomeTempo, mix: Mix, tracks: Tracks) -> Mix:
    return _with_entry(mix, command.entry_id, tempo=command.bpm)


@_apply.register
def _(command: SetCount, mix: Mix, tracks: Tracks) -> Mix:
    """Another count re-measures the entry's beats: what was placed on its beats moves along."""
    index = _index(mix, command.entry_id)
    factor = command.count / mix.entries[index].count
    changed = _with_entry(mix, command.entry_id, count=command.count)
    moved = []
    for t in mix.transitions:
        update = {}
        if t.out_id == command.entry_id:
            update["out_at"] = t.out_at * factor
        if t.in_id == command.entry_id:
            update["in_at"] = t.in_at * factor
        moved.append(t.model_copy(update=update) if update else t)
    return changed.model_copy(update={"transitions": tuple(moved)})


@_apply.register
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


@_apply.register
def _(command: SetTempoPolicy, mix: Mix, tracks: Tracks) -> Mix:
    old = _resolved(mix, command, tracks)[0].transition
    return mix.with_transition(_checked(old, tempo=command.tempo))


@_apply.register
def _(command: SetCurve, mix: Mix, tracks: Tracks) -> Mix:
    old = _resolved(mix, command, tracks)[0].transition
    curves = old.curves(command.side).with_curve(command.control, command.curve)
    return mix.with_transition(_checked(old, **{command.side.value: curves}))


@_apply.register
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


@_apply.register
def _(command: ResetTransition, mix: Mix, tracks: Tracks) -> Mix:
    _resolved(mix, command, tracks)
    kept = tuple(t for t in mix.transitions if t.pair != (command.out_id, command.in_id))
    return mix.model_copy(update={"transitions": kept})


def _index(mix: Mix, entry_id: str) -> int:
    index = mix.index_of(entry_id)
    if index is None:
        raise CommandError("That entry is not in the mix any more.")
    return index


def _with_entry(mix: Mix, entry_id: str, **update: object) -> Mix:
    index = _index(mix, entry_id)
    entry = Entry.model_validate({**mix.entries[index].model_dump(), **update})
    return mix.model_copy(update={"entries": (*mix.entries[:index], entry, *mix.entries[index + 1 :])})


def _resolved(mix: Mix, command: PairCommand, tracks: Tracks) -> tuple[Placed, Span]:
    """The transition that a command is about, where it lies, and the sounding span of its outgoing entry."""
    index = _index(mix, command.out_id)
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
