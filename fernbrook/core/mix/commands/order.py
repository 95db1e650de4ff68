"""Commands on the running order: what is in it, in which order, what keeps together and what keeps its place."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from enum import StrEnum
from itertools import pairwise
from typing import Literal

from pydantic import Field, model_validator
from typing_extensions import override

from fernbrook.core.mix.commands.command import CommandError, Id, MixCommand, index_of
from fernbrook.core.mix.commands.entry import counted
from fernbrook.core.mix.entries import (
    COUNTS,
    LAST,
    Block,
    Count,
    Entry,
    KeyShift,
    Place,
    blocks_of,
    course_of,
    joined,
    put_before,
    settled,
    start_of,
)
from fernbrook.core.mix.model import MAX_ENTRIES, Mix, Naming
from fernbrook.core.mix.placing import Span
from fernbrook.core.mix.transitions import Transition
from fernbrook.core.track import TrackFacts, Tracks
from fernbrook.core.value import Value


class AddTracks(MixCommand):
    """Put tracks into the order, before the place ``at`` (at the end without it)."""

    kind: Literal["add_tracks"] = "add_tracks"
    track_ids: tuple[Id, ...] = Field(min_length=1, max_length=MAX_ENTRIES)
    at: int | None = Field(default=None, ge=0, le=MAX_ENTRIES)

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        at = len(mix.entries) if self.at is None else min(self.at, len(mix.entries))
        before = mix.entries[at - 1] if at else None
        added: list[Entry] = []
        for number, track_id in enumerate(self.track_ids, mix.next_entry):
            before = _entry_of(number, track_id, before, tracks)
            added.append(before)
        blocks = blocks_of(mix.entries)
        new = [(e,) for e in added]
        return _ordered(mix, put_before([*blocks, *new], new, at), len(added))

    @override
    def words(self, naming: Naming) -> str:
        if len(self.track_ids) > 1:
            return f"add {len(self.track_ids)} tracks"
        return f"add {naming.track(self.track_ids[0]) or 'a track'}"


class EntriesCommand(MixCommand):
    """A command on some entries."""

    entry_ids: tuple[Id, ...] = Field(min_length=1, max_length=MAX_ENTRIES)


class RemoveEntries(EntriesCommand):
    """Take entries out of the order."""

    kind: Literal["remove_entries"] = "remove_entries"

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        gone = set(self.entry_ids)
        for entry_id in gone:
            index_of(mix, entry_id)
        left = [tuple(e for e in block if e.id not in gone) for block in blocks_of(mix.entries)]
        return _ordered(mix, [b for b in left if b])

    @override
    def words(self, naming: Naming) -> str:
        return f"take out {naming.entries(self.entry_ids)}"


class MoveEntries(EntriesCommand):
    """Put entries, in their order, before the place ``to``, counted without them. What is kept together goes along."""

    kind: Literal["move_entries"] = "move_entries"
    to: int = Field(ge=0, le=MAX_ENTRIES)

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        moved = _blocks_with(mix, self.entry_ids)
        held = next((e for b in moved for e in b if e.fixed is not None), None)
        if held is not None:
            title = tracks[held.track_id].title
            raise CommandError(
                f"‘{title}’ is fixed {place_words(held)}, and so is what is kept with it. Let it go first."
            )
        blocks = blocks_of(mix.entries)
        return _ordered(mix, put_before(blocks, moved, self.to))

    @override
    def words(self, naming: Naming) -> str:
        return f"move {naming.entries(self.entry_ids)} in the order"


class DuplicateEntries(EntriesCommand):
    """Put each entry's track in once more, right after it."""

    kind: Literal["duplicate_entries"] = "duplicate_entries"

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        twice = set(self.entry_ids)
        for entry_id in twice:
            index_of(mix, entry_id)
        blocks: list[Block] = []
        made = 0
        for block in blocks_of(mix.entries):
            blocks.append(block)
            for entry in block:
                if entry.id in twice:
                    copy = {"id": f"e{mix.next_entry + made}", "fixed": None, "with_next": False}
                    blocks.append((entry.model_copy(update=copy),))
                    made += 1
        return _ordered(mix, blocks, made)

    @override
    def words(self, naming: Naming) -> str:
        return f"put in {naming.entries(self.entry_ids)} once more"


class ReplaceTrack(MixCommand):
    """Use another track in the place of an entry. Its transitions stay by their cues."""

    kind: Literal["replace_track"] = "replace_track"
    entry_id: Id
    track_id: Id

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        index = index_of(mix, self.entry_id)
        old = mix.entries[index]
        before = mix.entries[index - 1] if index else None
        fresh = _entry_of(0, self.track_id, before, tracks)
        kept = {"id": old.id, "key_lock": old.key_lock, "fixed": old.fixed, "with_next": old.with_next}
        new = fresh.model_copy(update=kept)
        spans = (Span.of(old, tracks[old.track_id]), Span.of(new, tracks[new.track_id]))
        return mix.model_copy(
            update={
                "entries": (*mix.entries[:index], new, *mix.entries[index + 1 :]),
                "transitions": tuple(_by_cues(t, old.id, *spans) for t in mix.transitions),
            }
        )

    @override
    def words(self, naming: Naming) -> str:
        new = naming.track(self.track_id)
        return f"replace {naming.entry(self.entry_id)} by {new}" if new else "replace a track"


class KeepTogether(EntriesCommand):
    """Keep entries together, those that are apart behind the first of them; or let go all that these are kept with."""

    kind: Literal["keep_together"] = "keep_together"
    together: bool = True

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        chosen = _blocks_with(mix, self.entry_ids)
        if not self.together:
            apart = [part for b in blocks_of(mix.entries) for part in ([(e,) for e in b] if b in chosen else [b])]
            return _ordered(mix, apart)
        if sum(len(b) for b in chosen) < 2:
            raise CommandError("Choose two entries or more to keep together.")
        fixed = [e for b in chosen for e in b if e.fixed is not None]
        if len(fixed) > 1:
            titles = " and ".join(f"‘{tracks[e.track_id].title}’" for e in fixed[:2])
            raise CommandError(f"{titles} are both fixed to places. Let one of them go, then keep them together.")
        whole = tuple(e for b in chosen for e in b)
        return _ordered(mix, [whole if b == chosen[0] else b for b in blocks_of(mix.entries) if b not in chosen[1:]])

    @override
    def words(self, naming: Naming) -> str:
        some = naming.entries(self.entry_ids)
        return f"keep {some} together" if self.together else f"let {some} go"


class FixEntry(MixCommand):
    """Fix an entry to a place of the order, and put it there; None lets it go."""

    kind: Literal["fix_entry"] = "fix_entry"
    entry_id: Id
    place: Place | None

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        index = index_of(mix, self.entry_id)
        fixed = mix.entries[index].model_copy(update={"fixed": self.place})
        blocks = blocks_of(mix.entries)
        at = next(i for i, b in enumerate(blocks) if mix.entries[index] in b)
        others_go = {} if self.place is None else {"fixed": None}
        blocks[at] = with_it = tuple(fixed if e.id == fixed.id else e.model_copy(update=others_go) for e in blocks[at])
        _refuse_taken(with_it, blocks, tracks)
        return _ordered(mix, blocks)

    @override
    def words(self, naming: Naming) -> str:
        entry = naming.entry(self.entry_id)
        return f"let {entry} go" if self.place is None else f"fix the place of {entry}"


class SortBy(StrEnum):
    """What the order can be sorted by."""

    TEMPO = "tempo"
    KEY = "key"
    ENERGY = "energy"
    ARTIST = "artist"
    TITLE = "title"
    LENGTH = "length"


class SortEntries(MixCommand):
    """Sort the order once. What is kept together goes by its first, what is fixed stays."""

    kind: Literal["sort_entries"] = "sort_entries"
    by: SortBy
    falling: bool = False

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        value = _SORTS[self.by]
        valued = [(value(b[0], tracks[b[0].track_id]), b) for b in blocks_of(mix.entries)]
        known = sorted((v for v in valued if v[0] is not None), key=lambda v: v[0], reverse=self.falling)  # type: ignore[arg-type, return-value]
        return _ordered(mix, [b for _, b in known] + [b for v, b in valued if v is None])

    @override
    def words(self, naming: Naming) -> str:
        return f"sort by {self.by.value}"


class Seat(Value):
    """A place in an order that is to be used: an entry that there is, or a track to come in; how it is counted and
    by how much it is shifted, None for as it is."""

    entry_id: Id | None = None
    track_id: Id | None = None
    count: Count | None = None
    key_shift: KeyShift | None = None

    @model_validator(mode="after")
    def _one_of_both(self) -> Seat:
        if (self.entry_id is None) == (self.track_id is None):
            raise ValueError("a seat is for an entry or for a track, and not for both")
        return self


class UseOrder(MixCommand):
    """Put all of the order as given: entries that have no seat in it are taken out."""

    kind: Literal["use_order"] = "use_order"
    seats: tuple[Seat, ...] = Field(min_length=1, max_length=MAX_ENTRIES)

    @property
    def track_ids(self) -> tuple[str, ...]:
        """The tracks that come in."""
        return tuple(s.track_id for s in self.seats if s.track_id is not None)

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        named = [s.entry_id for s in self.seats if s.entry_id is not None]
        if len(set(named)) != len(named):
            raise CommandError("An entry can have one place in the order only.")
        entries: list[Entry] = []
        made = 0
        for seat in self.seats:
            if seat.entry_id is not None:
                entry = mix.entries[index_of(mix, seat.entry_id)]
            else:
                entry = _entry_of(mix.next_entry + made, str(seat.track_id), entries[-1] if entries else None, tracks)
                made += 1
            shift = {} if seat.key_shift is None else {"key_shift": seat.key_shift}
            entries.append(entry.model_copy(update=shift))
        after = {e.id: n.id for e, n in pairwise(mix.entries) if e.with_next}
        stays = {e.id for e, n in pairwise(entries) if after.get(e.id) == n.id}
        kept = [e.model_copy(update={"with_next": e.id in stays}) for e in entries]
        changed = _ordered(mix, blocks_of(kept), made)
        for entry, seat in zip(entries, self.seats, strict=True):
            if seat.count is not None and seat.count != entry.count:
                changed = counted(changed, entry.id, seat.count)
        return changed

    @override
    def words(self, naming: Naming) -> str:
        return "use another order"


def _entry_of(number: int, track_id: str, before: Entry | None, tracks: Tracks) -> Entry:
    """A new entry of a track; it counts as it rides closest to the tempo of the entry before it."""
    if track_id not in tracks:
        raise CommandError(f"Track {track_id} is not in the library any more. Import it again, then add it.")
    return Entry(id=f"e{number}", track_id=track_id, count=_count_beside(before, tracks[track_id], tracks))


def _count_beside(before: Entry | None, track: TrackFacts, tracks: Tracks) -> Count:
    """The count at which a track rides closest to the tempo of the entry before it: 87 BPM beside 174 counts double."""
    if before is None or before.track_id not in tracks or track.grid is None:
        return 1.0
    tempo = course_of(before, tracks[before.track_id]).points[-1].bpm
    own = Entry(id="", track_id=track.id).home_bpm(track)
    return min(COUNTS, key=lambda c: max(own * c / tempo, tempo / (own * c)))


def _by_cues(transition: Transition, entry_id: str, old: Span, new: Span) -> Transition:
    """A transition of an entry that has another track now: as far from its cues, or from its ends, as it was."""
    if transition.in_id == entry_id:
        was, now = (s.start if s.mix_in is None else s.mix_in for s in (old, new))
        return transition.model_copy(update={"in_at": now + transition.in_at - was})
    if transition.out_id == entry_id:
        was, now = (s.end if s.mix_out is None else s.mix_out for s in (old, new))
        return transition.model_copy(update={"out_at": now + transition.out_at - was})
    return transition


def _refuse_taken(block: Block, blocks: Sequence[Block], tracks: Tracks) -> None:
    """Say which block has the place that another is to be fixed to."""
    total = sum(len(b) for b in blocks)
    start = start_of(block, total)
    for other in blocks if start is not None else ():
        begins = start_of(other, total)
        if other is block or begins is None or start is None:
            continue
        if start < begins + len(other) and begins < start + len(block):
            held = next(e for e in other if e.fixed is not None)
            title = tracks[held.track_id].title
            raise CommandError(f"‘{title}’ is fixed {place_words(held)} already. Let it go first.")


def place_words(entry: Entry) -> str:
    """Where an entry is fixed, in words.

    >>> place_words(Entry(id="a", track_id="t", fixed=3)), place_words(Entry(id="a", track_id="t", fixed=LAST))
    ('to place 3', 'as the last')
    """
    return {LAST: "as the last", 1: "as the first"}.get(entry.fixed or 0, f"to place {entry.fixed}")


def _fifths(entry: Entry, track: TrackFacts) -> object:
    key = entry.key_of(track)
    return (key.key.fifths, key.key.minor) if key else None


_SORTS: dict[SortBy, Callable[[Entry, TrackFacts], object]] = {
    SortBy.TEMPO: lambda entry, track: entry.home_bpm(track) if track.grid else None,
    SortBy.KEY: _fifths,
    SortBy.ENERGY: lambda _, track: track.mean_energy,
    SortBy.ARTIST: lambda _, track: (track.artist.casefold(), track.title.casefold()) if track.artist else None,
    SortBy.TITLE: lambda _, track: track.title.casefold(),
    SortBy.LENGTH: lambda _, track: track.duration_s,
}


def _blocks_with(mix: Mix, entry_ids: Sequence[str]) -> list[Block]:
    """The blocks that have any of some entries, in the order of the mix."""
    for entry_id in entry_ids:
        index_of(mix, entry_id)
    wanted = set(entry_ids)
    return [b for b in blocks_of(mix.entries) if any(e.id in wanted for e in b)]


def _ordered(mix: Mix, blocks: Sequence[Block], made: int = 0) -> Mix:
    """The mix with its entries in another order, what is fixed in its place; ``made`` of them are new."""
    entries = joined(settled(blocks))
    if len(entries) > MAX_ENTRIES:
        raise CommandError(f"A mix holds at most {MAX_ENTRIES} entries; this one would have more.")
    return mix.model_copy(update={"entries": entries, "next_entry": mix.next_entry + made})
