"""What is doubtful about the layers of a mix, and what would mend it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from fernbrook.core.mix.commands import PutEdits, PutLayers, RemoveLayers
from fernbrook.core.mix.layers import OfTrack, OnEntry
from fernbrook.core.plan.planned import PlannedEntry
from fernbrook.core.plan.planned_layer import Missing, PlannedLayer
from fernbrook.core.plan.transition_warnings import LONG_CHORDS, LONG_TOGETHER, SURE_KEYS
from fernbrook.core.plan.warning import Mend, MixWarning, WarningKind
from fernbrook.core.track import MOST_SHIFT, SHORTEST, DropOut, Key, Relation, Stem, relation, shift_to_fit

Spans = Sequence[tuple[float, float]]


def warnings_of_layers(
    layers: Sequence[PlannedLayer], entries: Sequence[PlannedEntry], mix_end_s: float
) -> list[MixWarning]:
    """All that is to be looked at in the layers of a mix."""
    found: list[MixWarning] = []
    for index, planned in enumerate(layers):
        if not planned.layer.on:
            continue
        for each in (_waits(planned), _outside(planned, mix_end_s), _voices(planned, entries), _keys(planned, entries)):
            found += [s.model_copy(update={"layer": index}) for s in each]
    return found


def _named(planned: PlannedLayer) -> str:
    if planned.layer.name:
        return f"The layer ‘{planned.layer.name}’"
    return f"The layer of ‘{planned.track.title}’" if planned.track else "The made sound"


def _warning(planned: PlannedLayer, kind: WarningKind, which: str, message: str, *mends: Mend) -> MixWarning:
    return MixWarning(kind=kind, message=message, key=f"{kind.value} {which} {planned.layer.id}", mends=mends)


def _waits(planned: PlannedLayer) -> Iterator[MixWarning]:
    """A layer that is not heard, and why."""
    if planned.waits is None:
        return
    layer = planned.layer
    mends = [Mend(label="Take it away", command=RemoveLayers(ids=(layer.id,)))]
    if isinstance(layer.at, OnEntry) and layer.at.cue is not None and planned.waits.lacks is Missing.CUE:
        there = layer.model_copy(update={"at": OnEntry(entry_id=layer.at.entry_id, beat=0.0)})
        mends.insert(0, Mend(label="Put it where the track begins", command=PutLayers(layers=(there,))))
    yield _warning(
        planned, WarningKind.LAYER, "waits", f"{_named(planned)} is not heard: {planned.waits.words}.", *mends
    )


def _outside(planned: PlannedLayer, mix_end_s: float) -> Iterator[MixWarning]:
    """A layer of which only a part, or nothing, lies within the mix."""
    if planned.waits or (planned.start_s > -0.01 and planned.end_s < mix_end_s + 0.01):
        return
    gone = planned.end_s <= 0.0 or planned.start_s >= mix_end_s
    what = "lies outside the mix" if gone else "is cut off where the mix begins or ends"
    yield _warning(planned, WarningKind.LAYER, "outside", f"{_named(planned)} {what}. Move it.")


def _voices(planned: PlannedLayer, entries: Sequence[PlannedEntry]) -> Iterator[MixWarning]:
    """Somebody sings in a layer while somebody sings in an entry."""
    sound, track = planned.layer.sound, planned.track
    if not isinstance(sound, OfTrack) or sound.stem not in (None, Stem.VOICE) or track is None:
        return
    sung = planned.places_s(track.voice)
    for entry in entries:
        theirs = (
            [
                (float(a), float(b))
                for a, b in entry.tempo.time_at([[v.start + entry.offset, v.end + entry.offset] for v in entry.voice])
            ]
            if entry.voice
            else []
        )
        both = _meet(sung, [(max(a, entry.start_s), min(b, entry.end_s)) for a, b in theirs])
        beats = sum(float(np.diff(entry.tempo.beat_at(span))[0]) for span in both)
        if beats < LONG_TOGETHER:
            continue
        message = f"{_named(planned)} sings for {beats:.0f} beats while ‘{entry.track.title}’ does."
        mends = list(_without_voice(planned, entry, both))
        yield _warning(planned, WarningKind.TWO_VOICES, entry.entry.id, message, *mends)


def _without_voice(planned: PlannedLayer, entry: PlannedEntry, both: Spans) -> Iterator[Mend]:
    """To drop the entry's voice where both sing, where its stems are there."""
    stems = entry.track.stems
    if stems is None or Stem.VOICE not in stems.offered:
        return
    edits = []
    for n, span in enumerate(both):
        start, end = (float(b) - entry.offset for b in entry.tempo.beat_at(span))
        played = entry.heard.piece_at(start).played
        first, last = (played.to_grid(b) for b in (start, end))
        if last - first >= SHORTEST:
            edits.append(DropOut(id=f"{planned.layer.id[:28]}-{n}", start=first, end=last, stems=(Stem.VOICE,)))
    if edits:
        command = PutEdits(entry_id=entry.entry.id, edits=tuple(edits))
        yield Mend(label=f"Drop the voice of ‘{entry.track.title}’ there", command=command)


def _keys(planned: PlannedLayer, entries: Sequence[PlannedEntry]) -> Iterator[MixWarning]:
    """A layer with notes over an entry whose key clashes with it."""
    key = key_of(planned)
    if key is None or planned.waits or planned.track is None or planned.track.key is None:
        return
    for entry in entries:
        theirs = entry.entry.key_of(entry.track)
        if theirs is None or theirs.sure * planned.track.key.sure < SURE_KEYS:
            continue
        together = _meet(planned.spans_s, [(entry.start_s, entry.end_s)])
        beats = sum(float(np.diff(planned.tempo.beat_at(span))[0]) for span in together)
        if beats < LONG_CHORDS or relation(theirs.key, key) is not Relation.CLASH:
            continue
        by = shift_to_fit(theirs.key, key)
        words = f"{by:+d}".replace("-", "−")
        whole = planned.layer.key_shift + by
        shifted = planned.layer.model_copy(update={"key_shift": whole})
        mend = Mend(label=f"Shift it by {words}", command=PutLayers(layers=(shifted,)))
        message = f"{_named(planned)} is in {key.name}, which clashes with {theirs.key.name} of ‘{entry.track.title}’."
        yield _warning(
            planned, WarningKind.KEYS, entry.entry.id, message, *([mend] if abs(whole) <= MOST_SHIFT else [])
        )
        return


def fitting_shift(planned: PlannedLayer, entries: Sequence[PlannedEntry]) -> int | None:
    """The key shift at which a layer fits the entry that it lies over longest; None where a key is not known."""
    key = key_of(planned)
    lengths = [(sum(b - a for a, b in _meet(planned.spans_s, [(e.start_s, e.end_s)])), e) for e in entries]
    length, under = max(lengths, key=lambda found: found[0], default=(0.0, None))
    theirs = under.entry.key_of(under.track) if under and length > 0.0 else None
    if key is None or theirs is None:
        return None
    return planned.layer.key_shift + shift_to_fit(theirs.key, key)


def key_of(planned: PlannedLayer) -> Key | None:
    """The key in which a layer sounds; None where it has none, or only drums are heard."""
    sound, track = planned.layer.sound, planned.track
    if not isinstance(sound, OfTrack) or sound.stem is Stem.DRUMS or track is None or track.key is None:
        return None
    return track.key.key.shifted(planned.layer.key_shift)


def _meet(one: Spans, other: Spans) -> list[tuple[float, float]]:
    """Where spans of both meet, in order."""
    return [(max(a, c), min(b, d)) for a, b in one for c, d in other if min(b, d) - max(a, c) > 0.0]
