"""A track as it is considered for a place in an order."""

from __future__ import annotations

from typing import Self

from fernbrook.core.library import Card
from fernbrook.core.mix.entries import COUNTS, Arrangement, Entry
from fernbrook.core.mix.placing import Span
from fernbrook.core.remembered import remembered
from fernbrook.core.track import Key, TrackFacts
from fernbrook.core.value import Value


class Candidate(Value):
    """What an order asks of a track.

    ``entry_id`` is None for a track that is not in the mix. ``bpm`` is the tempo at which it rides where it comes in,
    ``leaves_bpm`` the one where it goes out if that is another, ``own_bpm`` its own, at a count of 1; ``counts`` are
    those that it may have. ``sure`` is how far its key is believed, from 0 to 1. ``comes_in`` and ``goes_out`` are the
    bars at its ends in which another track can come and go without two voices. ``lead_s``, ``plays_s`` and ``tail_s``
    are the seconds before its way in, from there to its way out, and after it.
    """

    track_id: str
    entry_id: str | None = None
    title: str = ""
    artist: str = ""
    bpm: float | None = None
    leaves_bpm: float | None = None
    own_bpm: float | None = None
    count: float = 1.0
    counts: tuple[float, ...] = (1.0,)
    key: Key | None = None
    key_shift: int = 0
    sure: float = 1.0
    energy: float | None = None
    comes_in: float = 8.0
    goes_out: float = 8.0
    lead_s: float = 0.0
    plays_s: float = 180.0
    tail_s: float = 0.0

    @property
    def out_bpm(self) -> float | None:
        """The tempo at which it goes out."""
        return self.bpm if self.leaves_bpm is None else self.leaves_bpm

    def shifted(self, semitones: int) -> Candidate:
        """The candidate so many semitones higher than it is now."""
        if not semitones:
            return self
        key = self.key.shifted(semitones) if self.key else None
        return self.model_copy(update={"key": key, "key_shift": self.key_shift + semitones})

    def counted(self, count: float) -> Candidate:
        """The candidate at another of its counts."""
        if count == self.count or not self.bpm:
            return self
        factor = count / self.count
        leaves = None if self.leaves_bpm is None else self.leaves_bpm * factor
        return self.model_copy(update={"bpm": self.bpm * factor, "leaves_bpm": leaves, "count": count})

    @classmethod
    def of_card(cls, card: Card) -> Self:
        """A track as far as lists know it."""
        return cls(
            track_id=card.id,
            title=card.title,
            artist=card.artist,
            bpm=card.in_bpm,
            leaves_bpm=card.leaves_bpm,
            own_bpm=card.bpm,
            counts=COUNTS if card.bpm else (1.0,),
            key=card.key,
            energy=card.energy,
            plays_s=card.duration_s,
        )


@remembered
def candidate_of(entry: Entry, track: TrackFacts, is_in: bool = True) -> Candidate:
    """An entry as a candidate, or a track that is to come in as that entry."""
    span, heard = Span.of(entry, track), Arrangement.of(entry, track)
    way_in = span.start if span.mix_in is None else span.mix_in
    way_out = span.end if span.mix_out is None else span.mix_out
    until = span.alone_from if span.alone_from is not None and span.alone_from > way_in else (way_in + way_out) / 2
    voice = heard.voice(track.voice)

    def free_bars(start: float, end: float) -> float:
        sung = sum(max(0.0, min(v.end, end) - max(v.start, start)) for v in voice)
        return max(0.0, end - start - sung) / span.bar

    key = entry.key_of(track)
    comes, goes = span.bpm_at(way_in), span.bpm_at(way_out)
    _, file_end = heard.extent_of(0.0, track.duration_s)
    return Candidate(
        track_id=track.id,
        entry_id=entry.id if is_in else None,
        title=track.title,
        artist=track.artist,
        bpm=comes if track.grid else None,
        leaves_bpm=goes if track.grid and goes != comes else None,
        own_bpm=entry.own_bpm(track) / entry.count if track.grid else None,
        count=entry.count,
        counts=COUNTS if track.grid and entry.tempo is None else (entry.count,),
        key=key.key if key else None,
        key_shift=entry.key_shift,
        sure=key.sure if key else 0.0,
        energy=track.mean_energy,
        comes_in=free_bars(way_in, until),
        goes_out=free_bars(way_out, span.end),
        lead_s=max(0.0, span.seconds_between(span.first_sound, way_in)),
        plays_s=max(0.0, span.seconds_between(way_in, way_out)),
        tail_s=max(0.0, span.seconds_between(max(way_in, way_out), min(file_end, heard.natural_end))),
    )
