"""Bars come from the plan: whoever leads says where they begin, counted as played."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest

from fernbrook.core.mix import commands as c
from fernbrook.core.mix.entries import Played
from fernbrook.core.mix.model import Mix
from fernbrook.core.mix.transitions import Kind, ReadyShape
from fernbrook.core.plan import Plan, plan
from fernbrook.core.plan.bars import Bars, BarSpan
from fernbrook.core.tempo_map import TempoMap
from fernbrook.core.track import BarLines, Grid, TrackFacts


def _track(name: str, bpm: float, beats_per_bar: int = 4, first: float = 0.2) -> TrackFacts:
    return TrackFacts(id=name, title=name, duration_s=240.0, grid=Grid.constant(bpm, first, beats_per_bar))


TRACKS = {
    t.id: t
    for t in (
        _track("four", 120),
        _track("waltz", 120, 3),
        _track("slow", 60, first=0.7),
        _track("fast", 174),
        _track("half", 87),
    )
}


def _plan(*ids: str) -> Plan:
    return plan(c.apply(Mix(name="m"), c.AddTracks(track_ids=ids), TRACKS), TRACKS)


def _firsts(resolved: Plan, start_s: float, end_s: float) -> np.ndarray:
    """The mix's beats on which bars begin between two moments."""
    times, firsts = resolved.bars.ticks(start_s, end_s)
    return np.asarray(resolved.tempo.beat_at(times[firsts]))


def test_each_track_counts_its_own_bars_and_the_middle_of_an_overlap_hands_them_over() -> None:
    resolved = _plan("four", "waltz")
    t = resolved.transitions[0]
    middle = (t.start_s + t.end_s) / 2
    assert np.allclose(np.diff(_firsts(resolved, 0.0, middle)), 4.0)
    into = resolved.entries[1]
    later = _firsts(resolved, middle, into.end_s)
    assert np.allclose(np.diff(later), 3.0)
    assert np.allclose((later - into.offset) % 3.0, 0.0)


@pytest.mark.parametrize(("ids", "count", "bar"), [(("fast", "half"), 2.0, 8.0), (("half", "fast"), 0.5, 2.0)])
def test_a_track_at_half_or_double_time_is_placed_and_counted_in_its_own_bars(
    ids: tuple[str, str], count: float, bar: float
) -> None:
    resolved = _plan(*ids)
    into = resolved.entries[1]
    assert (into.entry.count, into.span.bar) == (count, bar)
    t = resolved.transitions[0].transition
    assert t.in_at % bar == 0.0
    assert t.out_at % resolved.entries[0].span.bar == 0.0
    later = _firsts(resolved, resolved.transitions[0].end_s, into.end_s)
    downbeats = into.played.grid.beat_at(into.time_map.source_at(resolved.tempo.time_at(later)))
    assert np.allclose((downbeats + 2.0) % 4.0 - 2.0, 0.0, atol=1e-3)
    assert np.allclose(np.diff(later), bar)


def test_the_default_hand_over_of_a_half_time_track_falls_on_its_bar_lines() -> None:
    resolved = _plan("slow", "four")
    out = resolved.entries[0]
    t = resolved.transitions[0].transition
    assert t.out_at % out.span.bar == 0.0
    shaped = c.apply(
        resolved.mix,
        c.ApplyShape(shape=ReadyShape.BASS, out_id=t.out_id, in_id=t.in_id),
        TRACKS,
    ).transitions[0]
    swap = max(p.at for p in shaped.outgoing.root["low"].points if p.value == 1.0) * shaped.beats
    assert round(swap) % out.span.bar in (0, out.span.bar - 1)


def test_ticks_are_the_same_however_a_span_is_cut() -> None:
    resolved = _plan("four", "waltz", "half")
    whole, firsts = resolved.bars.ticks(0.0, resolved.duration_s)
    cuts = np.linspace(0.0, resolved.duration_s, 38)
    pieces = [resolved.bars.ticks(a, b) for a, b in pairwise(cuts)]
    assert np.allclose(np.concatenate([t for t, _ in pieces]), whole)
    assert np.array_equal(np.concatenate([f for _, f in pieces]), firsts)
    assert np.all(np.diff(whole) > 0.1)


def test_bars_of_a_beat_and_a_half_are_still_ticked() -> None:
    bars = Bars((BarSpan(0.0, 0.0, BarLines.of([(0.0, 1.5)], 1.5)),), TempoMap.of([(0.0, 60.0)]))
    times, firsts = bars.ticks(0.0, 3.5)
    assert times.tolist() == pytest.approx([0.0, 1.0, 1.5, 2.0, 3.0])
    assert times[firsts].tolist() == pytest.approx([0.0, 1.5, 3.0])


@pytest.mark.parametrize("count", [0.5, 1.0, 2.0])
def test_played_beats_and_moments_are_inverse(count: float) -> None:
    played = Played(Grid.through([0.3, 2.0, 7.1], [0.0, 4.0, 15.0]), count)
    beats = np.linspace(-9.0, 40.0, 200)
    assert np.allclose(played.beat_at(played.time_at(beats)), beats)
    assert played.bpm_at(3.0 * count) == pytest.approx(count * 60.0 * 4.0 / 1.7)
    lines = played.grid_lines(-3.0, 9.0)
    assert np.allclose(lines / count % 1.0, 0.0)
    assert lines[0] <= -3.0
    assert lines[-1] >= 9.0


def test_after_a_pause_the_incoming_leads_from_where_it_begins() -> None:
    mix = c.apply(Mix(name="m"), c.AddTracks(track_ids=("four", "waltz")), TRACKS)
    ids = {"out_id": mix.entries[0].id, "in_id": mix.entries[1].id}
    for command in (c.SetKind(to=Kind.APART, **ids), c.PlaceTransition(seconds=6.0, **ids)):
        mix = c.apply(mix, command, TRACKS)
    resolved = plan(mix, TRACKS)
    t = resolved.transitions[0]
    assert t.end_s - t.start_s == pytest.approx(6.0)
    assert np.allclose(np.diff(_firsts(resolved, t.start_s, t.end_s - 0.1)), 4.0)
    assert np.allclose(np.diff(_firsts(resolved, t.end_s + 0.1, t.end_s + 20.0)), 3.0)
