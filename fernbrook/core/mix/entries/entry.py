"""One use of a track in a mix."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated

from pydantic import AfterValidator, Field

from fernbrook.core.remembered import remembered
from fernbrook.core.track import MAX_BPM, MIN_BPM, MOST_EDITS, MOST_SHIFT, Edit, KeyFact, TrackFacts
from fernbrook.core.value import Value

CEILING_DBTP = -1.0
COUNTS = (1.0, 0.5, 2.0)


def _a_count(value: float) -> float:
    if value not in COUNTS:
        raise ValueError(f"an entry counts 0.5, 1 or 2 beats for each of its grid, not {value:g}")
    return value


Count = Annotated[float, AfterValidator(_a_count)]
GainDb = Annotated[float, Field(ge=-40.0, le=24.0)]
Bpm = Annotated[float, Field(ge=MIN_BPM, le=MAX_BPM)]
KeyShift = Annotated[int, Field(ge=-MOST_SHIFT, le=MOST_SHIFT)]
LAST = -1


def _a_place(value: int) -> int:
    if value != LAST and value < 1:
        raise ValueError(f"a place is 1 or more, counted from the first, or {LAST} for the last, not {value}")
    return value


Place = Annotated[int, Field(le=10_000), AfterValidator(_a_place)]
"""A place in the order: 1 is the first, ``LAST`` the last however many there are."""


class Follows(StrEnum):
    """What the tempo of an entry goes by between its transitions."""

    OWN = "own"
    """The tempo of its track, wherever that goes."""
    STEADY = "steady"
    """One tempo, to which its track is bent."""
    MIX = "mix"
    """The tempo that the mix has when it comes in."""


class Entry(Value):
    """One use of a track in a mix.

    ``gain_db`` None means: brought to the mix's target loudness. ``tempo`` is that at which it begins, None its track's
    own; ``follows`` says what it goes by from there, None as its track suggests.
    ``count`` is how many beats of the mix one beat of the grid is: an 87 BPM track with count 2 rides at 174.
    ``key_shift`` moves its pitch by semitones, whatever its tempo does. ``fixed`` is the place that it keeps in the
    order, ``with_next`` that the entry after it stays after it. ``edits`` are what is heard otherwise than recorded;
    all of them wait while it plays ``as_recorded``.
    """

    id: str = Field(max_length=32)
    track_id: str = Field(max_length=32)
    gain_db: GainDb | None = None
    key_lock: bool = True
    tempo: Bpm | None = None
    follows: Follows | None = None
    count: Count = 1.0
    key_shift: KeyShift = 0
    fixed: Place | None = None
    with_next: bool = False
    edits: tuple[Edit, ...] = Field(default=(), max_length=MOST_EDITS)
    as_recorded: bool = False

    @property
    def keeps_pitch(self) -> bool:
        """Whether its pitch stays where it is when its tempo changes. A key that was chosen is kept."""
        return self.key_lock or self.key_shift != 0

    def key_of(self, track: TrackFacts) -> KeyFact | None:
        """The key in which the entry sounds; None where that of its track is not known."""
        return None if track.key is None else _shifted(track.key, self.key_shift)

    def goes_by(self, track: TrackFacts) -> Follows:
        """What its tempo goes by: as set, else that of its track where this changes on purpose."""
        if self.follows is not None:
            return self.follows
        return Follows.OWN if track.riding_grid.means_its_changes else Follows.STEADY

    def own_bpm(self, track: TrackFacts) -> float:
        """The track's own tempo as this entry counts it: where it begins to sound, if it goes by that.

        That of a steady track is used as it is, so that it passes untouched; a wandering one that is made steady has
        its mean, rounded to a hundredth.
        """
        follows_own = self.goes_by(track) is Follows.OWN
        return self.count * (_first_bpm(track) if follows_own else _mean_bpm(track))

    def home_bpm(self, track: TrackFacts) -> float:
        """The tempo at which the entry begins: as set, or its own."""
        return self.own_bpm(track) if self.tempo is None else self.tempo


@remembered
def _shifted(key: KeyFact, semitones: int) -> KeyFact:
    return key.model_copy(update={"key": key.key.shifted(semitones)})


@remembered
def _first_bpm(track: TrackFacts) -> float:
    grid = track.riding_grid
    return float(grid.bpm_at(grid.beat_at(track.sound_start_s)))


@remembered
def _mean_bpm(track: TrackFacts) -> float:
    grid = track.riding_grid
    mean = grid.mean_bpm(track.sound_start_s, max(track.last_sound_s, track.sound_start_s + 1.0))
    return mean if grid.is_constant else round(mean, 2)


def bent_least(to_bpm: float, own_bpm: float) -> tuple[float, float]:
    """By which share a track plays faster than its own tempo to ride at another, counted so that it is bent least; and
    that count.

    >>> bent_least(174.0, 87.0), bent_least(150.0, 120.0)
    ((0.0, 2.0), (0.25, 1.0))
    """
    _, count = min((abs(to_bpm / (own_bpm * c) - 1.0), c) for c in COUNTS)
    return to_bpm / (own_bpm * count) - 1.0, count


def suggested_gain(
    loudness_lufs: float | None, true_peak_dbtp: float | None, target_lufs: float | None
) -> float | None:
    """The gain in dB that brings a track by itself to a target without passing the ceiling; None if either is unknown.

    >>> suggested_gain(-9.0, -0.5, -14.0), suggested_gain(-20.0, -3.0, -14.0)
    (-5.0, 2.0)
    """
    if target_lufs is None or loudness_lufs is None:
        return None
    gain = target_lufs - loudness_lufs
    if true_peak_dbtp is not None and gain > 0:
        gain = max(0.0, min(gain, CEILING_DBTP - true_peak_dbtp))
    return round(gain, 1)
