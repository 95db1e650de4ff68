"""Layers that would help a mix, proposed with their reasons: drums under a long break, a voice that is announced, a
sweep that leads into where all of a track comes in."""

from __future__ import annotations

import math
from collections.abc import Iterator
from itertools import groupby

from fernbrook.core.mix.entries import Entry, bent_least
from fernbrook.core.mix.layers import Layer, Made, MadeSound, OfTrack, OnEntry
from fernbrook.core.plan.plan import Plan
from fernbrook.core.plan.planned import PlannedEntry
from fernbrook.core.track import SectionKind, Stem, TrackFacts, shift_to_fit
from fernbrook.core.value import Value

LONG_BREAK_BARS = 12
DRUM_BARS = 4
LEFT_BARS = 1
"""So many bars of a break are left alone at its end, so that what follows still counts."""
DRUMS_DB = -3.0
MOST_BEND = 0.08
"""Drums of a track that would have to be bent by more are not proposed."""
VOICE_BARS = 8
AHEAD_BARS = (8, 64)
"""A voice is announced so long before its track comes in."""
STEP_BARS = 4
LEAST_SUNG = 4.0
MOST_SHIFT = 2
SWEEP_BARS = 8
LEAST_LOW_BARS = 12
"""After fewer bars a drop needs nothing that leads into it; nor where the track rises by itself."""
LOW = frozenset({SectionKind.BREAK, SectionKind.BEATLESS})
HIGH = frozenset({SectionKind.FULL, SectionKind.BASS})
NEAR = 1.0


class LayerProposal(Value):
    """A layer that would help, in words, and why; taking it is to put it into the mix under an id of one's own."""

    words: str
    reason: str
    layer: Layer


def layer_proposals(plan: Plan) -> tuple[LayerProposal, ...]:
    """What could be laid over a mix, in the order in which it would be heard; not what lies there already."""
    found = [p for e in plan.entries for p in (*_under_breaks(plan, e), *_into_drops(e), *_announced(plan, e))]
    return tuple(p for p in found if not any(_is_alike(p.layer, x.layer) for x in plan.layers))


def _is_alike(one: Layer, other: Layer) -> bool:
    """Whether two layers of one sort lie at one place."""
    a, b = one.at, other.at
    if not isinstance(a, OnEntry) or not isinstance(b, OnEntry) or a.entry_id != b.entry_id:
        return False
    return abs(a.beat - b.beat) < NEAR and one.sound.of == other.sound.of


def _alone(entry: PlannedEntry) -> tuple[float, float]:
    """The span in which an entry is heard by itself, in its beats."""
    start = entry.arrival.incoming.end_beat if entry.arrival else entry.start_beat
    end = entry.departure.outgoing.start_beat if entry.departure else entry.end_beat
    return start - entry.offset, end - entry.offset


def _breaks(entry: PlannedEntry) -> Iterator[tuple[float, float, SectionKind | None]]:
    """Where an entry is low between its other sections: from where, up to where, and what follows."""
    runs = [(low, list(run)) for low, run in groupby(entry.sections, key=lambda s: s.kind in LOW)]
    for n, (low, run) in enumerate(runs):
        if low and 0 < n < len(runs) - 1:
            yield run[0].start, run[-1].end, runs[n + 1][1][0].kind


def _under_breaks(plan: Plan, entry: PlannedEntry) -> Iterator[LayerProposal]:
    """Drums of a neighbour under each long break."""
    bar = entry.heard.bar
    first, last = _alone(entry)
    for begins, ends, _ in _breaks(entry):
        start, end = max(begins, first), min(ends, last)
        if end - start < LONG_BREAK_BARS * bar:
            continue
        beside = [plan.entries[i] for i in (entry.index + 1, entry.index - 1) if 0 <= i < len(plan.entries)]
        drums = [found for other in beside if (found := _drums(other.track, entry)) is not None]
        if not drums:
            continue
        sound, whose = drums[0]
        yield LayerProposal(
            words=f"Drums of ‘{whose}’ under the break of ‘{entry.track.title}’",
            reason=f"The break lasts {(end - start) / bar:.0f} bars; {LEFT_BARS} is left before it ends.",
            layer=Layer(
                id=f"drums-{entry.entry.id}-{start:.0f}"[:32],
                name=f"Drums of {whose}"[:60],
                sound=sound,
                at=OnEntry(entry_id=entry.entry.id, beat=start),
                times=max(1, math.floor((end - start - LEFT_BARS * bar) / sound.length)),
                gain_db=DRUMS_DB,
                fade_in=bar,
            ),
        )


def _drums(track: TrackFacts, over: PlannedEntry) -> tuple[OfTrack, str] | None:
    """Four bars of the drums of a track, as they fit over an entry; None where it has none, or would be bent far."""
    if track.grid is None or track.grid.beats_per_bar != over.track.riding_grid.beats_per_bar:
        return None
    count, bend = _count(track, over)
    beats = DRUM_BARS * track.grid.beats_per_bar
    has_stem = track.stems is not None and Stem.DRUMS in track.stems.offered
    kinds = HIGH if has_stem else {SectionKind.BEAT}
    places = [s.start for s in track.sections if s.kind in kinds and s.end - s.start >= beats]
    if bend > MOST_BEND or not places:
        return None
    stem = Stem.DRUMS if has_stem else None
    return OfTrack(track_id=track.id, start=places[0], beats=beats, stem=stem, count=count), track.title


def _count(track: TrackFacts, over: PlannedEntry) -> tuple[float, float]:
    """How a track is best counted over an entry, and by what share it is bent then."""
    own = Entry(id="over", track_id=track.id).own_bpm(track)
    bend, count = bent_least(over.home_bpm, own)
    return count, abs(bend)


def _into_drops(entry: PlannedEntry) -> Iterator[LayerProposal]:
    """A sweep into the first place at which all of a track comes in after it was low for long."""
    bar = entry.heard.bar
    first, last = _alone(entry)
    for begins, ends, follows in _breaks(entry):
        length = min(SWEEP_BARS * bar, ends - first)
        if follows in HIGH and ends - begins >= LEAST_LOW_BARS * bar and bar <= length and ends < last:
            yield LayerProposal(
                words=f"A noise sweep into the drop of ‘{entry.track.title}’",
                reason=f"After {(ends - begins) / bar:.0f} low bars all of it comes in at once.",
                layer=Layer(
                    id=f"sweep-{entry.entry.id}"[:32],
                    sound=Made(sound=MadeSound.SWEEP, beats=length),
                    at=OnEntry(entry_id=entry.entry.id, beat=ends),
                    gain_db=-6.0,
                ),
            )
            return


def _announced(plan: Plan, entry: PlannedEntry) -> Iterator[LayerProposal]:
    """The next track's voice over a stretch without one."""
    if entry.index + 1 >= len(plan.entries):
        return
    coming = plan.entries[entry.index + 1]
    track, bar = coming.track, entry.heard.bar
    if track.stems is None or Stem.VOICE not in track.stems.offered or track.grid is None:
        return
    count, bend = _count(track, entry)
    phrase = _phrase(track)
    shift = _shift(entry, coming)
    if phrase is None or shift is None or bend > MOST_BEND:
        return
    start, end = phrase
    sound = OfTrack(track_id=track.id, start=start, beats=end - start, stem=Stem.VOICE, count=count)
    at = _free_place(entry, sound.length, bar)
    if at is None:
        return
    key = f", shifted by {shift:+d}".replace("-", "−") if shift else ""
    yield LayerProposal(
        words=f"The voice of ‘{track.title}’ is announced over ‘{entry.track.title}’",
        reason=f"Nobody sings there, and the keys fit{key}.",
        layer=Layer(
            id=f"voice-{entry.entry.id}"[:32],
            name=f"Voice of {track.title}"[:60],
            sound=sound,
            at=OnEntry(entry_id=entry.entry.id, beat=at),
            key_shift=shift,
            fade_out=0.5,
        ),
    )


def _phrase(track: TrackFacts) -> tuple[float, float] | None:
    """The first bars of a track in which somebody sings, in beats of its grid."""
    lines = track.riding_grid.bar_lines
    sung = [v for v in track.voice if v.end - v.start >= LEAST_SUNG]
    if not sung:
        return None
    start = lines.down(sung[0].start)
    most = float(lines.beat_of(lines.bar_of(start) + VOICE_BARS))
    ends = [v.end for v in track.voice if v.start < most]
    return start, min(lines.up(max(ends)), most)


def _shift(entry: PlannedEntry, coming: PlannedEntry) -> int | None:
    """The shift after which the next track's voice fits; None where it would be too far, or is not known."""
    here, there = entry.entry.key_of(entry.track), coming.track.key
    if here is None or there is None:
        return None
    by = shift_to_fit(here.key, there.key)
    return by if abs(by) <= MOST_SHIFT else None


def _free_place(entry: PlannedEntry, length: float, bar: float) -> float | None:
    """The latest place of an entry, on a phrase counted back from where it leaves, at which nobody sings for long
    enough."""
    first, last = _alone(entry)
    nearest, farthest = AHEAD_BARS
    for back in range(nearest, farthest + 1, STEP_BARS):
        at = last - back * bar
        if at < first:
            return None
        if not any(v.start < at + length and at < v.end for v in entry.voice):
            return at
    return None
