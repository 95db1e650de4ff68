"""The cues that a transition was put on, so that it can be said when one is moved or taken away.

A transition that nobody has placed follows its cues by itself. One that was placed stays where it is, whatever becomes
of the cue that it was placed on.
"""

from __future__ import annotations

from fernbrook.core.mix.entries import Arrangement, Entry
from fernbrook.core.mix.model import Mix
from fernbrook.core.mix.transitions import HeldCue
from fernbrook.core.track import Tracks, plate_of

ON_IT = 0.01
"""A transition that lies within so much of a beat of a cue lies on it."""
ENDS = (("out_id", "out_at", "out_cue"), ("in_id", "in_at", "in_cue"))


def with_held_cues(before: Mix, after: Mix, tracks: Tracks) -> Mix:
    """A changed mix in which each transition that was placed holds the cues that it lies on."""
    was = before.shaped()
    entries = {e.id: e for e in after.entries}
    once = {e.id: e.track_id for e in before.entries}
    held = []
    for now in after.transitions:
        old = was.get(now.pair)
        update: dict[str, HeldCue | None] = {}
        for id_field, at_field, cue_field in ENDS:
            entry, at = entries.get(getattr(now, id_field)), getattr(now, at_field)
            if entry is None or entry.track_id not in tracks:
                continue
            stays = old is not None and getattr(old, at_field) == at and once.get(entry.id) == entry.track_id
            kept = getattr(now, cue_field)
            if (kept is None or not stays) and (cue := cue_at(entry, tracks, at)) != kept:
                update[cue_field] = cue
        held.append(now.model_copy(update=update) if update else now)
    return after.model_copy(update={"transitions": tuple(held)})


def cue_at(entry: Entry, tracks: Tracks, beat: float) -> HeldCue | None:
    """The cue of an entry's track, set by hand, that lies on a beat of the entry."""
    track = tracks[entry.track_id]
    heard = Arrangement.of(entry, track)
    found = next((c for c in track.cues if any(abs(at - beat) <= ON_IT for at in heard.places_of(c.at))), None)
    return None if found is None else HeldCue(id=found.id, name=plate_of(found))
