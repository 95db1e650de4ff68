"""Orders as numbers: what steps, places, groups and what is left out cost."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fernbrook.core.mix.entries import LAST
from fernbrook.core.ordering import (
    FREE,
    Candidate,
    EnergyShape,
    Group,
    Problem,
    Weights,
    Wishes,
    appraised,
    best_counts,
)
from fernbrook.core.ordering.step import LEFT_OUT, SAME_ARTIST, SHIFTED, UNUSED_PAIRING, meeting_cost, tempo_cost
from fernbrook.core.track import Key
from tests.orders import candidates

ANY = Wishes(shape=EnergyShape.ANY)
ONLY_ARTISTS = Wishes(shape=EnergyShape.ANY, weights=Weights(tempo=0, key=0, room=0, pairing=0, energy=0))


def alone(count: int) -> list[Group]:
    return [Group(members=(n,)) for n in range(count)]


def by(artist: str, name: str) -> Candidate:
    return Candidate(track_id=name, artist=artist, bpm=120.0, energy=0.5)


def test_a_cost_is_the_sum_of_its_steps_where_nothing_else_is_wished() -> None:
    tracks = candidates(5, 1, artists=100_000)
    problem = Problem(tracks, alone(5), ANY)
    order = (3, 0, 4, 1, 2)
    steps = sum(meeting_cost(tracks[a], tracks[b], ANY.weights) for a, b in pairwise(order))
    assert problem.cost(order) == pytest.approx(steps)


@pytest.mark.parametrize(
    ("artists", "cost"),
    [
        ("AABC", SAME_ARTIST),
        ("ABAC", SAME_ARTIST / 2),
        ("ABCA", 0.0),
        ("AAAB", 2.5 * SAME_ARTIST),
        ("aABC", SAME_ARTIST),
    ],
)
def test_an_artist_twice_costs_by_how_near(artists: str, cost: float) -> None:
    tracks = [by(a, str(n)) for n, a in enumerate(artists)]
    assert Problem(tracks, alone(4), ONLY_ARTISTS).cost((0, 1, 2, 3)) == pytest.approx(cost)
    together = [Group(members=(0, 1)), Group(members=(2, 3))]
    assert Problem(tracks, together, ONLY_ARTISTS).cost((0, 1)) == pytest.approx(cost)
    others = [Group(members=(0,)), Group(members=(1, 2)), Group(members=(3,))]
    assert Problem(tracks, others, ONLY_ARTISTS).cost((0, 1, 2)) == pytest.approx(cost)


def test_a_saved_pairing_makes_a_meeting_free_and_one_left_unused_costs() -> None:
    far = [Candidate(track_id=n, bpm=b, energy=0.5) for n, b in (("a", 100.0), ("b", 140.0), ("c", 101.0))]
    saved = {("a", "b"): "it works"}
    assert Problem(far, alone(3), ANY, saved).steps[0, 1] == 0.0
    plain = Problem(far, alone(3), ANY).steps
    assert Problem(far, alone(3), ANY, saved).steps[0, 2] == pytest.approx(plain[0, 2] + UNUSED_PAIRING)
    assert Problem(far, alone(3), ANY, saved).steps[1, 0] == pytest.approx(plain[1, 0])
    absent = [Group(members=(0,)), Group(members=(1,), needed=False), Group(members=(2,))]
    assert Problem(far, absent, ANY, saved).steps[0, 2] == pytest.approx(plain[0, 2])
    ignored = Wishes(shape=EnergyShape.ANY, weights=Weights(pairing=0))
    assert np.array_equal(Problem(far, alone(3), ignored, saved).steps, Problem(far, alone(3), ignored).steps)


def test_a_start_is_wished_in_tempo_and_key() -> None:
    key = Key.parse("Am")
    tracks = [Candidate(track_id=str(b), bpm=b, key=key, energy=0.5) for b in (120.0, 124.8)]
    problem = Problem(tracks, alone(2), Wishes(shape=EnergyShape.ANY, start_bpm=120.0, start_key=Key.parse("Em")))
    assert problem.first == pytest.approx([0.08, 0.356 + 0.08], abs=0.001)


def test_energy_costs_what_it_is_off_the_shape_at_its_place() -> None:
    tracks = [Candidate(track_id=str(e), bpm=120.0, energy=e) for e in (0.0, 0.5, 1.0)]
    wishes = Wishes(shape=EnergyShape.DRAWN, drawn=((0.0, 0.0), (1.0, 1.0)), weights=Weights(tempo=0, key=0, room=0))
    problem = Problem(tracks, alone(3), wishes)
    assert problem.cost((0, 1, 2)) == pytest.approx(0.0, abs=0.11)
    assert problem.cost((2, 1, 0)) > problem.cost((1, 0, 2)) > problem.cost((0, 1, 2))
    alike = [t.model_copy(update={"energy": 0.8 + 0.01 * n}) for n, t in enumerate(tracks)]
    assert np.ptp(Problem(alike, alone(3), wishes).energies) < 0.1


def test_steady_energy_means_small_steps() -> None:
    tracks = [Candidate(track_id=str(e), bpm=120.0, energy=e) for e in (0.2, 0.5, 0.9)]
    problem = Problem(tracks, alone(3), Wishes(shape=EnergyShape.STEADY, weights=Weights(tempo=0, key=0, room=0)))
    assert problem.cost((0, 1, 2)) == pytest.approx(0.7)
    assert problem.cost((1, 0, 2)) == pytest.approx(1.0)


@pytest.mark.parametrize(
    ("start", "size", "tracks", "expected"),
    [(None, 1, 5, FREE), (LAST, 2, 5, 3), (2, 1, 5, 2), (4, 3, 5, 2), (0, 1, 1, 0)],
)
def test_a_fixed_group_begins_where_it_can(start: int | None, size: int, tracks: int, expected: int) -> None:
    members = tuple(range(size))
    others = [Group(members=(n,)) for n in range(size, 5)]
    problem = Problem(candidates(5, 2), [Group(members=members, start=start), *others], ANY)
    assert problem.start_of(0, tracks) == expected


def test_what_is_left_out_has_its_price_and_its_limit() -> None:
    tracks = candidates(5, 3)
    problem = Problem(tracks, alone(5), ANY.model_copy(update={"leave_out": 1}))
    whole = Problem(tracks, alone(5), ANY)
    assert problem.cost((0, 1, 2, 3)) == pytest.approx(
        whole.cost((0, 1, 2, 3, 4)) - float(whole.steps[3, 4] + whole.apart[2, 4]) + LEFT_OUT
    )
    assert problem.cost((0, 1, 2)) == np.inf
    assert whole.cost((0, 1, 2, 3)) == np.inf
    assert list(problem.lengths) == [4, 5]


def test_a_wished_length_leaves_out_what_does_not_fit_into_it() -> None:
    tracks = [t.model_copy(update={"plays_s": 300.0, "lead_s": 0.0, "tail_s": 0.0}) for t in candidates(8, 4)]
    problem = Problem(tracks, alone(8), Wishes(shape=EnergyShape.ANY, length_s=1500.0, within_s=10.0))
    assert list(problem.lengths) == [5]
    assert problem.length_cost(problem.seconds((0, 1, 2, 3, 4))) == 0.0
    assert problem.length_cost(1500.0 + 10.0 + 120.0) == pytest.approx(10.0)


def test_shifts_move_keys_and_cost_a_little() -> None:
    keys = [Key.parse(k) for k in ("Am", "Bbm")]
    tracks = [Candidate(track_id=str(k), bpm=120.0, key=k, energy=0.5) for k in keys]
    problem = Problem(tracks, alone(2), Wishes(shape=EnergyShape.ANY, shifts=True, weights=Weights(room=0)))
    assert len(problem.nodes) == 6
    by_shift = {(n.group, n.shift): i for i, n in enumerate(problem.nodes)}
    assert problem.cost((by_shift[0, 0], by_shift[1, -1])) == pytest.approx(SHIFTED)
    assert problem.cost((by_shift[0, 0], by_shift[1, 0])) == pytest.approx(0.9)
    unknown = [t.model_copy(update={"key": None}) for t in tracks]
    assert len(Problem(unknown, alone(2), Wishes(shifts=True)).nodes) == 2


TEMPI = st.floats(60.0, 180.0)


@given(st.lists(TEMPI, min_size=2, max_size=7))
def test_counts_never_make_steps_dearer(tempi: list[float]) -> None:
    def total(order: list[Candidate]) -> float:
        return sum(tempo_cost(a, b) for a, b in pairwise([c.model_copy(update={"counts": (c.count,)}) for c in order]))

    order = [Candidate(track_id=str(n), bpm=b, own_bpm=b, counts=(1.0, 0.5, 2.0)) for n, b in enumerate(tempi)]
    counted = best_counts(order)
    assert total(counted) <= total(order) + 1e-9
    assert all(c.bpm == pytest.approx(o.bpm * c.count) for c, o in zip(counted, order, strict=True) if o.bpm)


def test_an_order_is_weighed_in_numbers_that_a_person_knows() -> None:
    keys = [Key.parse(k) for k in ("Am", "Em", "Bbm")]
    tracks = [
        Candidate(track_id=n, artist=a, bpm=b, key=k, energy=e, comes_in=4.0, goes_out=20.0, plays_s=200.0)
        for n, a, b, k, e in zip("abc", "XXY", (120.0, 126.0, 150.0), keys, (0.2, 0.6, 0.9), strict=True)
    ]
    problem = Problem(tracks, alone(3), Wishes(shape=EnergyShape.RISING), {("a", "b"): ""})
    seen = appraised(problem, (0, 1, 2), tracks)
    assert (seen.fitting, seen.creative, seen.clashes, seen.unknown_keys) == (1, 0, 1, 0)
    assert (seen.leaps, seen.same_artist, seen.pairings, seen.short_rooms, seen.tracks) == (1, 1, 1, 2, 3)
    assert seen.largest_bend == pytest.approx(0.16)
    assert seen.mean_bend == pytest.approx((0.16 + 6 / 126) / 2)
    assert seen.seconds == pytest.approx(600.0)
    assert seen.cost == pytest.approx(problem.cost((0, 1, 2)), abs=1e-4)
    assert appraised(problem, (0, 1), tracks[:2]).cost is None
