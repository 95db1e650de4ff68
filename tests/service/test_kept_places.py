"""What has been heard stays: a newer Fernbrook places transitions otherwise, and those of before lie where they lay."""

from __future__ import annotations

from collections.abc import Callable

import pytest

from fernbrook.core.mix.commands import (
    AddTracks,
    CommandError,
    PlaceTransition,
    RenameMix,
    SetNudge,
    SettlePlaces,
    SetUntouched,
)
from fernbrook.core.mix.placing import Span, placing
from fernbrook.core.mix.transitions import ReadyShape
from fernbrook.core.plan import heard_in
from fernbrook.core.track import Cue, CueRole, PutCues, PutGrid
from fernbrook.service.mixes import outcomes
from fernbrook.service.mixes.mixes import OpenMix
from fernbrook.service.services import Services
from fernbrook.store import mixes as stored
from fernbrook.store.folders import Folders
from tests.conftest import Made
from tests.service.conftest import until

pytestmark = pytest.mark.usefixtures("no_analyses")


@pytest.fixture
def opened(services: Services, first: Made, second: Made) -> OpenMix:
    """A mix of three entries of which the first transition was placed by hand."""
    ids = []
    for made in (first, second):
        ids.append(services.library.bring_in_path(made.path).track.id)
        services.marking.change(ids[-1], None, PutGrid(grid=made.truth.grid))
    mix = services.mixes.create("Night")
    mix = services.mixes.change(mix.id, mix.version, AddTracks(track_ids=(*ids, ids[0])))
    pair = dict(zip(("out_id", "in_id"), mix.plan.transitions[0].transition.pair, strict=True))
    return services.mixes.change(mix.id, mix.version, PlaceTransition(out_at=24.0, beats=8.0, **pair))


Later = Callable[[Services], Services]


@pytest.fixture
def later(folders: Folders, monkeypatch: pytest.MonkeyPatch) -> Later:
    """Go on with a newer Fernbrook: one that makes what nobody shaped half as long."""
    here = placing.default_place

    def shorter(out: Span, into: Span) -> tuple[float, float, float]:
        out_at, in_at, beats = here(out, into)
        return out_at + beats / 2, in_at, beats / 2

    def upgraded(services: Services) -> Services:
        services.stop()
        monkeypatch.setattr(placing, "default_place", shorter)
        # A new Fernbrook has nothing in mind of the old one's.
        monkeypatch.setattr(placing, "default_transition", placing.default_transition.__wrapped__)
        monkeypatch.setattr(stored, "PLACING_RULES", stored.PLACING_RULES + 1)
        return Services(folders, workers=1)

    return upgraded


def lengths(mix: OpenMix) -> list[float]:
    return [t.transition.beats for t in mix.plan.transitions]


def test_it_lies_where_it_was_heard_until_it_is_placed_again(services: Services, opened: OpenMix, later: Later) -> None:
    before = services.mixes.open(opened.id)
    now = later(services)
    try:
        after = now.mixes.open(opened.id)
        assert (lengths(after), after.plan.duration_s) == (lengths(before), before.plan.duration_s)
        assert after.plan.mix.kept == (before.plan.transitions[1].transition.pair,)
        assert [m.duration_s for m in now.mixes.list()] == [before.plan.duration_s]
        placed = now.mixes.change(opened.id, now.mixes.open(opened.id).version, SettlePlaces(again=True))
        assert lengths(placed) == [8.0, lengths(before)[1] / 2]
        assert placed.plan.mix.kept == ()
        back = now.mixes.undo(opened.id, placed.version)
        assert lengths(back) == lengths(before)
        left = now.mixes.change(opened.id, back.version, SettlePlaces(again=False))
        assert (lengths(left), left.plan.mix.kept) == (lengths(before), ())
        with pytest.raises(CommandError, match="already"):
            now.mixes.change(opened.id, left.version, SettlePlaces(again=True))
    finally:
        now.stop()


def test_a_change_made_first_thing_is_undone_alone(services: Services, opened: OpenMix, later: Later) -> None:
    before = services.mixes.open(opened.id)
    now = later(services)
    try:
        changed = now.mixes.change(opened.id, before.version, RenameMix(name="Morning"))
        back = now.mixes.undo(opened.id, changed.version)
        assert (back.plan.mix.name, lengths(back)) == ("Night", lengths(before))
        assert back.steps.redo == "rename the mix"
    finally:
        now.stop()


def test_what_is_shaped_then_or_told_otherwise_is_kept_no_more(
    services: Services, opened: OpenMix, later: Later
) -> None:
    before = services.mixes.open(opened.id)
    now = later(services)
    try:
        out_id, in_id = before.plan.transitions[1].transition.pair
        shaped = now.mixes.change(opened.id, before.version, SetNudge(out_id=out_id, in_id=in_id, ms=3.0))
        assert (lengths(shaped), shaped.plan.mix.kept) == (lengths(before), ())
        back = now.mixes.undo(opened.id, shaped.version)
        cut = now.mixes.change(opened.id, back.version, SetUntouched(untouched=ReadyShape.CLEAN_CUT))
        assert (lengths(cut), cut.plan.mix.kept) == ([8.0, 0.0], ())
    finally:
        now.stop()


def test_the_rules_of_now_go_on_to_follow_the_marks(services: Services, opened: OpenMix, later: Later) -> None:
    """No upgrade: a cue that is set moves what nobody shaped. After one: new transitions go by the new rules."""
    services.mixes.outcomes.note()
    last = opened.plan.entries[1].track.id
    cue = Cue(id="c", role=CueRole.MIX_OUT, at=40.0)
    services.marking.change(last, None, PutCues(cues=(cue,)))
    followed = services.mixes.open(opened.id)
    assert followed.plan.transitions[1].transition.out_at == 40.0
    now = later(services)
    try:
        kept = now.mixes.open(opened.id)
        assert kept.plan.transitions[1].transition == followed.plan.transitions[1].transition
        more = now.mixes.change(opened.id, kept.version, AddTracks(track_ids=(last,)))
        assert more.plan.mix.kept == kept.plan.mix.kept
        assert not more.plan.transitions[2].shaped
    finally:
        now.stop()


def test_a_list_of_many_waits_for_none_and_is_told_when_all_are_known(
    services: Services, opened: OpenMix, monkeypatch: pytest.MonkeyPatch
) -> None:
    more = [services.mixes.duplicate(opened.id).id for _ in range(3)]
    monkeypatch.setattr(outcomes, "AT_ONCE_S", 0.0)
    heard: list[dict[str, object]] = []
    monkeypatch.setattr(services.events, "tell", heard.append)
    assert {m.duration_s for m in services.mixes.list()} == {None}
    until(lambda: {"type": "mixes"} in heard)
    assert {m.id for m in services.mixes.list()} == {opened.id, *more}
    assert {m.duration_s for m in services.mixes.list()} == {opened.plan.duration_s}


def test_what_was_shaped_since_or_would_lie_alike_is_nothing_to_decide_on(
    services: Services, opened: OpenMix, later: Later, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Killed after a change, only what was kept before it is known."""
    alike = services.mixes.duplicate(opened.id)
    services.mixes.outcomes.note()
    out_id, in_id = opened.plan.transitions[1].transition.pair
    shaped = services.mixes.change(opened.id, opened.version, SetNudge(out_id=out_id, in_id=in_id, ms=5.0))
    monkeypatch.setattr(outcomes, "AT_THE_END_S", -1.0)
    here = placing.default_place
    now = later(services)
    try:
        after = now.mixes.open(opened.id).plan
        assert after.transitions[1].transition == shaped.plan.transitions[1].transition
        assert after.mix.kept == ()
        monkeypatch.setattr(placing, "default_place", here)
        assert now.mixes.open(alike.id).plan.mix.kept == (), "by rules that place it alike it is untouched"
        assert [m.id for m in now.mixes.list()] == [opened.id, alike.id]
    finally:
        now.stop()


def test_what_is_kept_by_itself_is_no_change_of_yesterday(services: Services, opened: OpenMix, later: Later) -> None:
    other = services.mixes.duplicate(opened.id).id
    now = later(services)
    try:
        now.mixes.outcomes.note()
        assert [m.id for m in now.mixes.list()] == [other, opened.id]
        assert now.mixes.open(opened.id).plan.mix.kept
    finally:
        now.stop()


def test_fades_between_tracks_without_a_grid_follow_no_rule_that_changes(services: Services, first: Made) -> None:
    track = services.library.bring_in_path(first.path).track.id
    mix = services.mixes.create("Bare")
    mix = services.mixes.change(mix.id, mix.version, AddTracks(track_ids=(track, track)))
    assert len(mix.plan.transitions) == 1
    assert heard_in(mix.plan).transitions == ()
