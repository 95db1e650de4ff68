"""Commands on the edits of an entry. What was placed on its beats stays with what sounds there."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Annotated, Literal

from pydantic import Field
from typing_extensions import override

from fernbrook.core.mix.commands.command import CommandError, Id, MixCommand, index_of, with_entry
from fernbrook.core.mix.commands.pair_command import refused
from fernbrook.core.mix.entries import CLOSE, Arrangement
from fernbrook.core.mix.layers import OnEntry
from fernbrook.core.mix.model import MAX_ENTRIES, Mix, Naming
from fernbrook.core.mix.transitions import Transition
from fernbrook.core.track import MOST_EDITS, DropOut, Edit, Repeat, Skip, Swap, Tracks
from fernbrook.core.value import Value

MOST_PIECES = 1000


class PutEdits(MixCommand):
    """Add edits to an entry, or put them in the place of those that have their ids."""

    kind: Literal["put_edits"] = "put_edits"
    entry_id: Id
    edits: Annotated[tuple[Edit, ...], Field(min_length=1, max_length=MOST_EDITS)]

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        return _with_edits(mix, self.entry_id, self.edits, tracks)

    @override
    def words(self, naming: Naming) -> str:
        what = {_doing(e) for e in self.edits}
        return f"{what.pop() if len(what) == 1 else 'edit'} {naming.entry(self.entry_id)}"


class EntryEdits(Value):
    """Edits that are to be put into an entry."""

    entry_id: Id
    edits: Annotated[tuple[Edit, ...], Field(min_length=1, max_length=MOST_EDITS)]


class EditEntries(MixCommand):
    """Put edits into several entries, as ``PutEdits`` does into one."""

    kind: Literal["edit_entries"] = "edit_entries"
    entries: Annotated[tuple[EntryEdits, ...], Field(min_length=1, max_length=MAX_ENTRIES)]

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        for one in self.entries:
            mix = _with_edits(mix, one.entry_id, one.edits, tracks)
        return mix

    @override
    def words(self, naming: Naming) -> str:
        return f"edit {naming.entries(tuple(one.entry_id for one in self.entries))}"


class RemoveEdits(MixCommand):
    """Take edits of an entry away, or all of them where no ids are given."""

    kind: Literal["remove_edits"] = "remove_edits"
    entry_id: Id
    ids: Annotated[tuple[Id, ...], Field(max_length=MOST_EDITS)] | None = None

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        old = mix.entries[index_of(mix, self.entry_id)].edits
        gone = {e.id for e in old} if self.ids is None else set(self.ids)
        return _edited(mix, self.entry_id, tracks, edits=tuple(e for e in old if e.id not in gone))

    @override
    def words(self, naming: Naming) -> str:
        which = "all edits" if self.ids is None or len(self.ids) > 1 else "an edit"
        return f"take {which} of {naming.entry(self.entry_id)} back"


class PlayAsRecorded(MixCommand):
    """Let all edits of an entry wait, so that it plays as recorded; or let them hold again."""

    kind: Literal["play_as_recorded"] = "play_as_recorded"
    entry_id: Id
    as_recorded: bool

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        return _edited(mix, self.entry_id, tracks, as_recorded=self.as_recorded)

    @override
    def words(self, naming: Naming) -> str:
        return f"play {naming.entry(self.entry_id)} {'as recorded' if self.as_recorded else 'with its edits'}"


class CopyEdits(MixCommand):
    """Give the edits of an entry to other uses of its track, in the place of theirs."""

    kind: Literal["copy_edits"] = "copy_edits"
    entry_id: Id
    to_ids: Annotated[tuple[Id, ...], Field(min_length=1, max_length=MAX_ENTRIES)]

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        source = mix.entries[index_of(mix, self.entry_id)]
        for entry_id in self.to_ids:
            if mix.entries[index_of(mix, entry_id)].track_id != source.track_id:
                raise CommandError("Edits belong to a track: they can be copied to other uses of the same track only.")
            mix = _edited(mix, entry_id, tracks, edits=source.edits, as_recorded=source.as_recorded)
        return mix

    @override
    def words(self, naming: Naming) -> str:
        return f"copy the edits of {naming.entry(self.entry_id)} to {naming.entries(self.to_ids)}"


def _with_edits(mix: Mix, entry_id: str, edits: Sequence[Edit], tracks: Tracks) -> Mix:
    put = {e.id: e for e in edits}
    if len(put) < len(edits):
        raise CommandError("Two of those edits have the same id. Give each its own.")
    kept = [put.pop(e.id, e) for e in mix.entries[index_of(mix, entry_id)].edits]
    return _edited(mix, entry_id, tracks, edits=(*kept, *put.values()))


def _edited(mix: Mix, entry_id: str, tracks: Tracks, **update: object) -> Mix:
    """The mix with an entry edited otherwise; transitions and tempi that were set lie on what sounds there."""
    entry = mix.entries[index_of(mix, entry_id)]
    with refused():
        changed = with_entry(mix, entry_id, **update)
    track = tracks[entry.track_id]
    before = Arrangement.of(entry, track)
    after = Arrangement.of(changed.entries[index_of(mix, entry_id)], track)
    new = set(changed.entries[index_of(mix, entry_id)].edits) - set(entry.edits)
    sounds = [float(b) for b in track.riding_grid.beat_at([track.sound_start_s, track.last_sound_s])]
    if any(e.end <= sounds[0] or e.start >= sounds[1] for e in new):
        raise CommandError(f"There is nothing of ‘{track.title}’ there: it has ended by then, or not begun.")
    if len(after.pieces) > MOST_PIECES:
        raise CommandError(f"That cuts the track into more than {MOST_PIECES} pieces. Repeat less, or longer spans.")
    bounds = after.extent_of(track.sound_start_s, track.last_sound_s)
    if bounds[1] - bounds[0] < after.bar - CLOSE:
        raise CommandError("That leaves less than a bar of the track. Leave out less of it.")
    if before.pieces == after.pieces:
        return changed

    def along(t: Transition) -> Transition:
        where = {}
        if t.out_id == entry_id:
            at = moved(t.out_at, before, after)
            # What was to be left later in the track is not waited for through all that is now repeated instead.
            goes_round = math.isinf(before.natural_end) and at > after.natural_end
            where["out_at"] = t.out_at if goes_round else at
        if t.in_id == entry_id:
            where["in_at"] = moved(t.in_at, before, after)
        return t.model_copy(update=where) if where else t

    marks = [
        m.model_copy(update={"beat": moved(m.beat, before, after)}) if m.entry_id == entry_id else m
        for m in changed.tempo_marks
    ]
    layers = [
        x.model_copy(update={"at": x.at.model_copy(update={"beat": moved(x.at.beat, before, after)})})
        if isinstance(x.at, OnEntry) and x.at.entry_id == entry_id and x.at.cue is None
        else x
        for x in changed.layers
    ]
    return changed.model_copy(
        update={
            "transitions": tuple(along(t) for t in changed.transitions),
            "takes": tuple(t.model_copy(update={"transition": along(t.transition)}) for t in changed.takes),
            "tempo_marks": tuple(marks),
            "layers": tuple(layers),
        }
    )


def moved(beat: float, before: Arrangement, after: Arrangement) -> float:
    """Where what sounds on a beat of an entry lies after other edits.

    Of what is heard several times it is the same one, else the last; where it is left out, the next beat of the track
    that is heard.
    """
    piece = before.piece_at(beat)
    at = piece.played.to_grid(beat)
    earlier = sum(1 for p in before.pieces[: before.pieces.index(piece)] if p.place_of(at) is not None)
    places = after.places_of(at)
    if places:
        return places[min(earlier, len(places) - 1)]
    return _next_heard(at, after)


def _next_heard(at: float, after: Arrangement) -> float:
    """The start of the piece that begins with the nearest later beat of the track; else where the last one ends."""
    later: Sequence[tuple[float, float]] = sorted(
        (p.grid_span[0], p.start) for p in after.pieces if p.grid_span[0] >= at - CLOSE and math.isfinite(p.start)
    )
    finite = [p.end for p in after.pieces if math.isfinite(p.end)]
    return later[0][1] if later else max(finite, default=0.0)


def _doing(edit: Edit) -> str:
    """What an edit does, in words before the title of a track."""
    if not edit.on:
        return "let an edit wait of"
    match edit:
        case Skip():
            return "leave out a part of"
        case Repeat():
            return "repeat a part of"
        case Swap():
            return "swap parts of"
        case DropOut(stems=stems):
            return f"drop {' and '.join(s.value for s in stems) or 'all'} of a part of"
