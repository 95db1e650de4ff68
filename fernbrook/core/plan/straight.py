"""A track by itself at one steady tempo, through its grid: what is planned, and the grid that the result then has."""

from __future__ import annotations

from fernbrook.core.mix.entries import Entry, Follows
from fernbrook.core.mix.model import Mix
from fernbrook.core.plan.plan import Plan, plan
from fernbrook.core.track import Grid, TrackFacts


def suggested_tempo(track: TrackFacts) -> float:
    """The whole tempo nearest to the track's mean."""
    return float(round(track.riding_grid.mean_bpm(track.sound_start_s, max(track.last_sound_s, 1.0))))


def straight_plan(track: TrackFacts, bpm: float) -> Plan:
    """A mix of the track alone at a tempo: key kept, level left as it is."""
    entry = Entry(id="straight", track_id=track.id, gain_db=0.0, key_lock=True, tempo=bpm, follows=Follows.STEADY)
    mix = Mix(name=track.title[:200] or "track", entries=(entry,), target_lufs=None)
    return plan(mix, {track.id: track})


def straight_grid(planned: Plan) -> Grid:
    """The exact grid of what such a plan renders to."""
    entry = planned.entries[0]
    bpm = float(planned.tempo.points[0].bpm)
    was = entry.track.riding_grid
    made = Grid.constant(bpm, float(planned.tempo.time_at(entry.offset)), was.beats_per_bar)
    return made.model_copy(update={"bars_from": was.bars_from})
