"""The command that puts two entries into a mix as they were tried, with the transition between them."""

from __future__ import annotations

from typing import Literal

from pydantic import Field
from typing_extensions import override

from fernbrook.core.mix.commands.command import CommandError, MixCommand
from fernbrook.core.mix.entries import Entry, blocks_of, joined, put_before, settled
from fernbrook.core.mix.model import MAX_ENTRIES, Mix, Naming
from fernbrook.core.mix.transitions import MOST_TAKES, Take, Transition
from fernbrook.core.track import Tracks


class PutPair(MixCommand):
    """Put two entries in, before the place ``at`` (at the end without it), and what was decided about how they meet.

    Where the entry before that place is of the first's track, that one stays and only the second comes in after it.
    """

    kind: Literal["put_pair"] = "put_pair"
    out: Entry
    into: Entry
    transition: Transition | None = None
    takes: tuple[Take, ...] = Field(default=(), max_length=MOST_TAKES)
    at: int | None = Field(default=None, ge=0, le=MAX_ENTRIES)

    @property
    def track_ids(self) -> tuple[str, ...]:
        """The tracks that come in."""
        return (self.out.track_id, self.into.track_id)

    @override
    def rule(self, mix: Mix, tracks: Tracks) -> Mix:
        if any(track_id not in tracks for track_id in self.track_ids):
            raise CommandError(
                "One of the two tracks is not in the library any more. Import it again, then try the pair again."
            )
        at = len(mix.entries) if self.at is None else min(self.at, len(mix.entries))
        there = mix.entries[at - 1] if at and mix.entries[at - 1].track_id == self.out.track_id else None
        free = {"fixed": None, "with_next": False}
        out = there or self.out.model_copy(update={"id": f"e{mix.next_entry}", **free})
        into = self.into.model_copy(update={"id": f"e{mix.next_entry + (there is None)}", **free})
        new = [(e,) for e in (out, into) if e is not there]
        entries = joined(settled(put_before([*blocks_of(mix.entries), *new], new, at)))
        if len(entries) > MAX_ENTRIES:
            raise CommandError(f"A mix holds at most {MAX_ENTRIES} entries; this one would have more.")

        def between(t: Transition) -> Transition:
            return t.model_copy(update={"out_id": out.id, "in_id": into.id})

        takes = tuple(t.model_copy(update={"transition": between(t.transition)}) for t in self.takes)
        put = mix.model_copy(
            update={"entries": entries, "next_entry": mix.next_entry + len(new), "takes": (*mix.takes, *takes)}
        )
        return put if self.transition is None else put.with_transition(between(self.transition))

    @override
    def words(self, naming: Naming) -> str:
        out, into = (naming.track(e.track_id) or "a track" for e in (self.out, self.into))
        return f"put in {out} → {into} as tried"
