"""A mix whose tracks have come to be counted otherwise: what was decided about them stays where it sounds."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from fernbrook.core.mix.entries import COUNTS, Count, Entry
from fernbrook.core.mix.layers import Layer, OfTrack, OnEntry
from fernbrook.core.mix.model.mix import Mix
from fernbrook.core.mix.transitions import Transition
from fernbrook.core.track import Recount, recounted_edit


def recounted_mix(mix: Mix, recounts: Mapping[str, Recount]) -> Mix:
    """The mix with the entries of some tracks, by track id, counted by their grids of now."""
    places = {
        e.id: _Place(recount, e.count, _count_now(e, recount))
        for e in mix.entries
        if (recount := recounts.get(e.track_id)) is not None
    }
    if not recounts:
        return mix
    entries = tuple(_recounted_entry(e, places[e.id]) if e.id in places else e for e in mix.entries)
    takes = (t.model_copy(update={"transition": _recounted(t.transition, places)}) for t in mix.takes)
    marks = (
        m.model_copy(update={"beat": places[m.entry_id].beat(m.beat)}) if m.entry_id in places else m
        for m in mix.tempo_marks
    )
    return mix.model_copy(
        update={
            "entries": entries,
            "transitions": tuple(_recounted(t, places) for t in mix.transitions),
            "takes": tuple(takes),
            "tempo_marks": tuple(marks),
            "layers": tuple(_recounted_layer(x, places, recounts) for x in mix.layers),
        }
    )


@dataclass(frozen=True)
class _Place:
    """How an entry was counted and is now."""

    recount: Recount
    before: Count
    now: Count

    def beat(self, at: float) -> float:
        return self.recount.beat(at, self.before, self.now)


def _recounted_entry(entry: Entry, place: _Place) -> Entry:
    """The entry counted as it is now, its edits where they sound."""
    edits = tuple(recounted_edit(e, place.recount) for e in entry.edits)
    return entry.model_copy(update={"count": place.now, "edits": edits})


def _recounted_layer(layer: Layer, places: Mapping[str, _Place], recounts: Mapping[str, Recount]) -> Layer:
    """The layer with its span where it sounds, and on the beat of its entry that it was tied to."""
    update: dict[str, object] = {}
    sound, at = layer.sound, layer.at
    if isinstance(sound, OfTrack) and (recount := recounts.get(sound.track_id)) is not None:
        start, end = (recount.beat(b) for b in (sound.start, sound.start + sound.beats))
        count = sound.count / recount.octave(sound.start)
        update["sound"] = sound.model_copy(
            update={"start": start, "beats": end - start, "count": count if count in COUNTS else sound.count}
        )
    if isinstance(at, OnEntry) and at.cue is None and (place := places.get(at.entry_id)) is not None:
        update["at"] = at.model_copy(update={"beat": place.beat(at.beat)})
    return layer.model_copy(update=update) if update else layer


def _count_now(entry: Entry, recount: Recount) -> Count:
    """Another octave is made up for by the entry's count, so that it rides in the mix as before."""
    count = entry.count / recount.octave(0.0)
    return count if count in COUNTS else entry.count


def _recounted(transition: Transition, places: Mapping[str, _Place]) -> Transition:
    out, into = places.get(transition.out_id), places.get(transition.in_id)
    changed = {}
    if out is not None:
        changed["out_at"] = out.beat(transition.out_at)
    if into is not None:
        changed["in_at"] = into.beat(transition.in_at)
    return transition.model_copy(update=changed)
