"""A mix: tracks in order, and what was decided about how they meet."""

from __future__ import annotations

from typing import Annotated

from pydantic import AfterValidator, Field

from fernbrook.core.grid import MAX_BPM, MIN_BPM, Grid
from fernbrook.core.track import TrackFacts
from fernbrook.core.transition import Transition
from fernbrook.core.value import Value

DEFAULT_TARGET_LUFS = -14.0
CEILING_DBTP = -1.0

COUNTS = (1.0, 0.5, 2.0)


def _a_count(value: float) -> float:
    if value not in COUNTS:
        raise ValueError(f"an entry counts 0.5, 1 or 2 beats for each of its grid, not {value:g}")
    return value


Count = Annotated[float, AfterValidator(_a_count)]


class Entry(Value):
    """One use of a track in a mix.

    ``gain_db`` None means: brought to the mix's target loudness. ``tempo`` None means: the track's own.
    ``count`` is how many beats of the mix one beat of the grid is: an 87 BPM track with count 2 rides at 174.
    """

    id: str
    track_id: str
    gain_db: float | None = Field(default=None, ge=-40.0, le=24.0)
    key_lock: bool = True
    tempo: float | None = Field(default=None, ge=MIN_BPM, le=MAX_BPM)
    count: Count = 1.0

    def beat_at(self, grid: Grid, time_s: float) -> float:
        """The entry's beat at a moment of its audio."""
        return float(grid.beat_at(time_s)) * self.count

    def home_bpm(self, track: TrackFacts) -> float:
        """The tempo at which the entry plays between its transitions.

        A steady track's own tempo is used as it is, so that it passes untouched; a wandering one plays at its mean,
        rounded to a hundredth.
        """
        if self.tempo is not None:
            return self.tempo
        grid = track.riding_grid
        mean = grid.mean_bpm(track.sound_start_s, max(track.last_sound_s, track.sound_start_s + 1.0))
        return self.count * (mean if grid.is_constant else round(mean, 2))

    def gain_for(self, track: TrackFacts, target_lufs: float | None) -> float:
        """The entry's gain in dB: as set, or what brings the track to the target without passing the ceiling."""
        if self.gain_db is not None:
            return self.gain_db
        gain = suggested_gain(track.loudness_lufs, track.true_peak_dbtp, target_lufs)
        return 0.0 if gain is None else gain


def suggested_gain(
    loudness_lufs: float | None, true_peak_dbtp: float | None, target_lufs: float | None
) -> float | None:
    """The gain in dB that brings a track to a target without passing the ceiling; None where either is not known."""
    if target_lufs is None or loudness_lufs is None:
        return None
    gain = target_lufs - loudness_lufs
    if true_peak_dbtp is not None and gain > 0:
        gain = max(0.0, min(gain, CEILING_DBTP - true_peak_dbtp))
    return round(gain, 1)


class Mix(Value):
    """The running order and the transitions that were shaped by hand.

    ``transitions`` keeps one for each pair of entries that was ever shaped while they were neighbours; those that
    are no neighbours now wait in case they become so again.
    """

    name: str = Field(min_length=1, max_length=200)
    entries: tuple[Entry, ...] = ()
    transitions: tuple[Transition, ...] = ()
    target_lufs: float | None = Field(default=DEFAULT_TARGET_LUFS, ge=-40.0, le=0.0)
    next_entry: int = 1

    def index_of(self, entry_id: str) -> int | None:
        """The place of an entry in the order, or None."""
        return next((i for i, e in enumerate(self.entries) if e.id == entry_id), None)

    def shaped(self, out_id: str, in_id: str) -> Transition | None:
        """The transition that was shaped for a pair of entries, if any."""
        return next((t for t in self.transitions if t.pair == (out_id, in_id)), None)

    def with_transition(self, transition: Transition) -> Mix:
        """The mix with the transition of one pair put in or replaced."""
        others = tuple(t for t in self.transitions if t.pair != transition.pair)
        return self.model_copy(update={"transitions": (*others, transition)})
