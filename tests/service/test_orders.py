"""Orders found for a mix, used, and heard before they are; jumps and what bridges them."""

from __future__ import annotations

import numpy as np
import pytest

from fernbrook.core.mix.commands import AddTracks, FixEntry, KeepTogether, Seat, SetGain, UseOrder
from fernbrook.core.mix.entries import LAST
from fernbrook.core.ordering import EnergyShape, Wishes
from fernbrook.core.track import Grid, PutGrid
from fernbrook.errors import NotFoundError, RefusedError
from fernbrook.service.mixes.mixes import OpenMix
from fernbrook.service.mixes.orders import Search
from fernbrook.service.services import Services
from fernbrook.store.jobs import JobState
from tests.conftest import Made
from tests.service.conftest import until

TEMPI = (120.0, 128.0, 121.0, 126.5, 123.0, 64.5)

pytestmark = pytest.mark.usefixtures("no_analyses")


def _library(services: Services, made: Made, count: int) -> list[str]:
    """Tracks of one file that differ by a byte at their end, with grids of their own."""
    ids = []
    for number in range(count):
        path = made.path.with_name(f"order-{number}{made.path.suffix}")
        path.write_bytes(made.path.read_bytes() + bytes([number]))
        with path.open("rb") as stream:
            track_id = services.library.bring_in(stream, path.name).track.id
        services.marking.change(
            track_id, None, PutGrid(grid=Grid.constant(TEMPI[number % len(TEMPI)], 0.1), why="test")
        )
        ids.append(track_id)
    return ids


@pytest.fixture
def tracks(services: Services, first: Made) -> list[str]:
    return _library(services, first, 6)


def _mix(services: Services, tracks: list[str]) -> OpenMix:
    opened = services.mixes.create("m")
    return services.mixes.change(opened.id, opened.version, AddTracks(track_ids=tuple(tracks)))


def _found(services: Services, mix_id: str) -> Search:
    def ended() -> bool:
        search = services.orders.latest(mix_id)
        return search is not None and not search.job.is_open

    until(ended)
    search = services.orders.latest(mix_id)
    assert search is not None
    return search


@pytest.mark.slow
def test_an_order_is_found_used_and_undone(services: Services, tracks: list[str]) -> None:
    opened = _mix(services, tracks)
    for command in (
        FixEntry(entry_id="e4", place=1),
        FixEntry(entry_id="e1", place=LAST),
        KeepTogether(entry_ids=("e2", "e3")),
    ):
        opened = services.mixes.change(opened.id, opened.version, command)
    services.start()
    services.orders.start(opened.id, Wishes(shape=EnergyShape.ANY), None)
    search = _found(services, opened.id)
    assert search.job.state == JobState.DONE, search.job.error
    assert search.proposed is not None
    assert search.is_current
    best = search.proposed.proposals[0]
    assert best.gap == 0.0
    assert best.appraisal.cost is not None
    assert search.proposed.present.appraisal.cost is not None
    assert best.appraisal.cost <= search.proposed.present.appraisal.cost
    seats = tuple(Seat(entry_id=c.entry_id, count=c.count, key_shift=c.key_shift) for c in best.seats)
    used = services.mixes.change(opened.id, opened.version, UseOrder(seats=seats))
    ids = [e.entry.id for e in used.plan.entries]
    assert (ids[0], ids[-1]) == ("e4", "e1")
    assert ids.index("e3") == ids.index("e2") + 1
    assert [e.fixed for e in used.plan.mix.entries] == [1, None, None, None, None, LAST]
    assert used.version == opened.version + 1
    back = services.mixes.undo(used.id, used.version)
    assert [(e.id, e.fixed, e.with_next) for e in back.plan.mix.entries] == [
        (e.id, e.fixed, e.with_next) for e in opened.plan.mix.entries
    ]
    more = services.mixes.change(back.id, back.version, AddTracks(track_ids=(tracks[0],)))
    latest = services.orders.latest(more.id)
    assert latest is not None
    assert not latest.is_current


@pytest.mark.slow
def test_a_search_takes_the_place_of_the_one_before_and_goes_with_its_mix(
    services: Services, tracks: list[str]
) -> None:
    opened = _mix(services, tracks[:3])
    with pytest.raises(RefusedError, match="two tracks or more"):
        services.orders.start(_mix(services, tracks[:1]).id, Wishes(), None)
    before = services.orders.start(opened.id, Wishes(), None)
    after = services.orders.start(opened.id, Wishes(shape=EnergyShape.ARC), tracks)
    latest = services.orders.latest(opened.id)
    assert latest is not None
    assert (latest.job.id, latest.wishes.shape) == (after.job.id, EnergyShape.ARC)
    assert before.job.id != after.job.id
    services.start()
    assert _found(services, opened.id).proposed is not None
    services.orders.delete_all(opened.id)
    assert services.orders.latest(opened.id) is None


def test_a_gap_is_bridged_from_the_library_or_a_part_of_it(services: Services, tracks: list[str]) -> None:
    opened = _mix(services, tracks[:2])
    jump = services.orders.jump(opened.id, "e1", None)
    assert {b.track_id for b in jump.bridges} < set(tracks[2:]), "one of them would make it larger"
    assert jump.bridges[0].track_id == tracks[4]
    assert [b.track_id for b in services.orders.jump(opened.id, "e1", [tracks[3]]).bridges] == [tracks[3]]
    with pytest.raises(NotFoundError):
        services.orders.jump(opened.id, "e2", None)


def test_a_trial_is_heard_as_the_mix_would_be_and_changes_nothing(services: Services, tracks: list[str]) -> None:
    opened = _mix(services, tracks[:2])
    command = SetGain(entry_id="e1", gain_db=-6.0)
    trial = services.mixes.trial(opened.id, command)
    frames, blocks = services.listening.preview(opened.id, 0, 40_000, None, trial=trial.id)
    heard = np.concatenate(list(blocks))
    assert frames == 40_000
    assert services.mixes.open(opened.id).version == opened.version
    changed = services.mixes.change(opened.id, opened.version, command)
    assert trial.plan == changed.plan
    assert np.array_equal(heard, np.concatenate(list(services.listening.preview(opened.id, 0, 40_000, None)[1])))
    with pytest.raises(NotFoundError, match="Try it again"):
        services.mixes.tried("gone")


def test_steps_know_pairings_as_soon_as_they_are_saved(services: Services, tracks: list[str]) -> None:
    opened = _mix(services, tracks[:2])
    assert opened.running.steps[0].pairing is None
    services.collection.pair(tracks[0], tracks[1], "at the fair")
    assert services.mixes.open(opened.id).running.steps[0].pairing == "at the fair"
