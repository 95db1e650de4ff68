"""What makes a good order: key distances, steps, shapes, counts, cures."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fernbrook.core.mix import commands as c
from fernbrook.core.mix.entries import Entry
from fernbrook.core.mix.model import Mix
from fernbrook.core.mix.transitions import Kind
from fernbrook.core.ordering import (
    Candidate,
    CureKind,
    EnergyShape,
    Wishes,
    best_counts,
    bridges,
    candidate_of,
    cures,
    key_walk,
    running,
    step_between,
)
from fernbrook.core.ordering.running import LOOKS
from fernbrook.core.ordering.step import UNKNOWN_KEY, bent, key_cost, tempo_cost
from fernbrook.core.plan import plan
from fernbrook.core.track import (
    FITTING,
    Cue,
    CueRole,
    Energy,
    Grid,
    Key,
    KeyFact,
    Relation,
    TrackFacts,
    VoiceSpan,
    distance,
    fifths_between,
    relation,
    shift_to_fit,
)
from tests.orders import candidates

ALL = [Key(tonic=t, minor=m) for m in (False, True) for t in range(12)]
KEYS = st.sampled_from(ALL)
FREE = (1.0, 0.5, 2.0)


def key(name: str) -> Key:
    found = Key.parse(name)
    assert found is not None
    return found


@pytest.mark.parametrize(
    ("other", "related", "far", "shift"),
    [
        ("Am", Relation.SAME, 0.0, 0),
        ("C", Relation.RELATIVE, 0.05, 0),
        ("Em", Relation.NEIGHBOUR, 0.08, 0),
        ("Dm", Relation.NEIGHBOUR, 0.08, 0),
        ("G", Relation.CREATIVE, 0.35, 2),
        ("A", Relation.CREATIVE, 0.35, 3),
        ("Bm", Relation.CREATIVE, 0.35, -2),
        ("F#m", Relation.CLASH, 0.7, -2),
        ("C#m", Relation.CLASH, 0.8, 1),
        ("Bbm", Relation.CLASH, 0.9, -1),
        ("Ebm", Relation.CLASH, 1.0, -1),
    ],
)
def test_the_table_of_keys_against_a_minor(other: str, related: Relation, far: float, shift: int) -> None:
    one = key("Am")
    assert relation(one, key(other)) is related
    assert distance(one, key(other)) == pytest.approx(far)
    if related is not Relation.CREATIVE:
        assert shift_to_fit(one, key(other)) == shift


@given(KEYS, KEYS, st.integers(-12, 12))
def test_distances_are_alike_both_ways_and_whatever_all_is_shifted_by(one: Key, other: Key, by: int) -> None:
    assert distance(one, other) == distance(other, one)
    assert distance(one, other) == distance(one.shifted(by), other.shifted(by))
    assert (distance(one, other) == 0.0) == (one == other)
    assert (distance(one, other) < 0.1) == (relation(one, other) in FITTING)
    assert (fifths_between(one, other) + fifths_between(other, one)) % 12 == 0


@given(st.lists(st.one_of(KEYS, st.none()), min_size=1, max_size=12))
def test_the_walk_takes_the_shorter_way_every_time(keys: list[Key | None]) -> None:
    known = [(k, at) for k, at in zip(keys, key_walk(keys), strict=True) if k is not None and at is not None]
    assert len(known) == sum(k is not None for k in keys)
    for (one, at), (other, then) in pairwise(known):
        assert then - at == fifths_between(one, other)
        assert (at - fifths_between(Key(tonic=0, minor=False), one)) % 12 == 0


def test_half_and_double_time_are_no_leap() -> None:
    fast = Candidate(track_id="f", bpm=174.0, own_bpm=174.0, counts=FREE)
    slow = Candidate(track_id="s", bpm=87.0, own_bpm=87.0, counts=FREE)
    step = step_between(fast, slow)
    assert tempo_cost(fast, slow) == 0.0
    assert (step.bend, step.best_bend, step.count, step.is_leap) == (1.0, 0.0, 2.0, False)
    assert step.tempo_words == "−50 %, −87 BPM; the same at double count"
    held = slow.model_copy(update={"counts": (1.0,)})
    assert tempo_cost(fast.model_copy(update={"counts": (1.0,)}), held) == pytest.approx(bent(1.0))


def test_counts_are_those_that_keep_all_tempi_together() -> None:
    tempi = (128.0, 64.5, 130.0, 86.0, 172.5)
    order = [Candidate(track_id=str(b), bpm=b, own_bpm=b, counts=FREE) for b in tempi]
    assert [c.bpm for c in best_counts(order)] == [128.0, 129.0, 130.0, 172.0, 172.5]


@pytest.mark.parametrize("shape", [EnergyShape.RISING, EnergyShape.WAVE, EnergyShape.ARC])
def test_ready_shapes_stay_within_range_for_any_number(shape: EnergyShape) -> None:
    for count in (1, 2, 7, 60):
        levels = Wishes(shape=shape).levels(count)
        assert levels is not None
        assert len(levels) == count
        assert levels.min() >= 0.0
        assert levels.max() <= 1.0


def _track(name: str, bpm: float, in_key: str, energy: float = 0.5, seconds: float = 240.0) -> TrackFacts:
    return TrackFacts(
        id=name,
        title=name.upper(),
        artist=name,
        duration_s=seconds,
        grid=Grid.constant(bpm, 0.0),
        key=KeyFact(key=key(in_key), confidence=1.0),
        energy=Energy(first_bar=0, by_bar=tuple(np.linspace(0, 2 * energy, 100))),
    )


TRACKS = {
    t.id: t for t in (_track("a", 120, "Am"), _track("b", 126, "Bbm"), _track("c", 127, "Em"), _track("d", 63, "Am"))
}


def _mix(*names: str) -> Mix:
    mix = Mix(name="m")
    for name in names:
        mix = c.apply(mix, c.AddTracks(track_ids=(name,)), TRACKS)
    return mix


def test_cures_of_a_clash_and_a_leap_do_what_they_say() -> None:
    mix = _mix("a", "b", "c")
    offered = {cure.kind: cure for cure in cures(mix, TRACKS, 0)}
    assert set(offered) == {CureKind.KEY_SHIFT, CureKind.LONGER_RAMP, CureKind.CUT}
    shifted = c.apply(mix, offered[CureKind.KEY_SHIFT].command, TRACKS)
    step = running(plan(shifted, TRACKS), {}).steps[0]
    assert step.relation in FITTING
    before = plan(mix, TRACKS).transitions[0].transition.beats
    longer = plan(c.apply(mix, offered[CureKind.LONGER_RAMP].command, TRACKS), TRACKS).transitions[0]
    assert longer.transition.beats > before
    cut = plan(c.apply(mix, offered[CureKind.CUT].command, TRACKS), TRACKS).transitions[0]
    assert cut.transition.kind is Kind.CUT
    assert cures(c.apply(mix, offered[CureKind.CUT].command, TRACKS), TRACKS, 0)[-1].kind is CureKind.KEY_SHIFT


def test_a_count_is_offered_where_it_was_set_otherwise() -> None:
    mix = _mix("b", "d")
    assert CureKind.COUNT not in {cure.kind for cure in cures(mix, TRACKS, 0)}
    wrong = c.apply(mix, c.SetCount(entry_id="e2", count=1.0), TRACKS)
    cure = next(cure for cure in cures(wrong, TRACKS, 0) if cure.kind is CureKind.COUNT)
    assert c.apply(wrong, cure.command, TRACKS).entries[1].count == 2.0


def test_the_best_bridge_lies_between_both_in_tempo_and_key() -> None:
    out, into = (candidates(2, seed)[0] for seed in (1, 2))
    out = out.model_copy(update={"bpm": 120.0, "own_bpm": 120.0, "key": key("Am"), "sure": 1.0})
    into = into.model_copy(update={"track_id": "into", "bpm": 130.0, "own_bpm": 130.0, "key": key("Bm"), "sure": 1.0})
    between = out.model_copy(update={"track_id": "x", "bpm": 125.0, "own_bpm": 125.0, "key": key("Em"), "artist": "X"})
    slow = between.model_copy(update={"track_id": "y", "bpm": 62.5, "own_bpm": 62.5, "artist": "Y"})
    far = between.model_copy(update={"track_id": "z", "bpm": 140.0, "own_bpm": 140.0, "artist": "Z"})
    ranked = bridges(out, into, [far, slow, out, between], {("x", "into"): "tried"}, most=3)
    assert [b.track_id for b in ranked] == ["x", "y", "z"]
    assert (ranked[0].after.pairing, ranked[1].before.count) == ("tried", 2.0)
    assert ranked[0].before.key_words == ranked[0].after.key_words == "up a fifth"


def test_energy_is_that_of_the_tracks_over_their_time_in_the_mix() -> None:
    shown = running(plan(_mix("a", "c"), TRACKS), {("a", "c"): "at the fair"})
    first, second = ([e for e in entry.energy if e is not None] for entry in shown.entries)
    assert len(shown.entries[0].energy) == LOOKS
    assert LOOKS * 2 // 3 < len(first) < LOOKS
    assert np.all(np.diff(first) > 0)
    assert second[0] < first[-1]
    assert shown.steps[0].pairing == "at the fair"
    later = TRACKS["a"].model_copy(update={"energy": Energy(first_bar=60, by_bar=(0.5,) * 60)})
    energy = running(plan(_mix("a"), {"a": later}), {}).entries[0].energy
    assert energy[: LOOKS // 2 - 1] == (None,) * (LOOKS // 2 - 1)
    assert energy[-1] == 0.5
    assert [e.walk for e in shown.entries] == [0, 1]


def test_a_candidate_knows_its_room_without_voices() -> None:
    cues = (
        Cue(id="i", role=CueRole.MIX_IN, at=0.0),
        Cue(id="b", role=CueRole.ALONE_FROM, at=64.0),
        Cue(id="o", role=CueRole.MIX_OUT, at=400.0),
    )
    plain = TRACKS["a"].model_copy(update={"cues": cues})
    sung = plain.model_copy(update={"voice": (VoiceSpan(start=32.0, end=48.0), VoiceSpan(start=440.0, end=480.0))})
    entry = Entry(id="e", track_id="a")
    assert (candidate_of(entry, plain).comes_in, candidate_of(entry, plain).goes_out) == (16.0, 20.0)
    assert (candidate_of(entry, sung).comes_in, candidate_of(entry, sung).goes_out) == (12.0, 10.0)
    assert candidate_of(entry, plain).plays_s == pytest.approx(200.0)
    faster = entry.model_copy(update={"tempo": 125.0})
    assert candidate_of(faster, plain).plays_s == pytest.approx(192.0)
    assert candidate_of(faster, plain).counts == (1.0,)


def test_what_would_make_two_hard_steps_of_one_is_no_bridge() -> None:
    """Half way between two tempi that are far apart there is no track that helps: nothing is offered then."""
    out, into = (candidate_of(Entry(id=n, track_id=n), _track(n, bpm, "Am")) for n, bpm in (("a", 128.0), ("z", 174.0)))
    others = [
        candidate_of(Entry(id="", track_id=f"t{n}"), _track(f"t{n}", bpm, k), is_in=False)
        for n, (bpm, k) in enumerate(((128.0, "F#m"), (174.0, "Ebm"), (128.0, "Am")))
    ]
    assert bridges(out, into, others, {}, most=9) == []
    between = candidate_of(Entry(id="", track_id="t"), _track("t", 149.0, "Am"), is_in=False)
    for bridge in bridges(out, into, [*others, between], {}, most=9):
        assert bridge.track_id == "t"


SURE = [((1.0, 1.0), 0.0), ((1.0, 0.5), 0.5), ((0.5, 0.5), 0.75), ((0.0, 1.0), 1.0)]


@pytest.mark.parametrize(("sure", "cost"), SURE)
def test_a_key_counts_as_far_as_both_are_believed(sure: tuple[float, float], cost: float) -> None:
    one, other = (
        candidate_of(
            Entry(id=name, track_id=name),
            _track(name, 120.0, "Am").model_copy(update={"key": KeyFact(key=key("Am"), confidence=s)}),
        )
        for name, s in zip(("a", "b"), sure, strict=True)
    )
    same = distance(key("Am"), key("Am"))
    assert key_cost(one, other) == pytest.approx((1 - cost) * same + cost * UNKNOWN_KEY)
