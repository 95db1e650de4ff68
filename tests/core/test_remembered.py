"""What is planned again after a change is what is planned from nothing."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fernbrook.core import remembered as module
from fernbrook.core.mix import commands as c
from fernbrook.core.mix.model import Mix
from fernbrook.core.mix.transitions import Kind, TempoPolicy
from fernbrook.core.ordering import running
from fernbrook.core.plan import Plan, plan
from fernbrook.core.remembered import remembered
from tests.core.test_commands import TRACKS, mix_of


class Thing:
    """Something with an identity."""


def _counting() -> tuple[Callable[..., object], list[tuple[object, ...]]]:
    made: list[tuple[object, ...]] = []

    @remembered
    def make(*args: object) -> object:
        made.append(args)
        return Thing()

    return make, made


def test_the_very_same_arguments_give_the_very_same_value() -> None:
    make, made = _counting()
    thing = Thing()
    first = make(thing, 1.5, "a", None, (thing, 2))
    assert make(thing, 1.5, "a", None, (thing, 2)) is first
    assert len(made) == 1
    others = [
        (Thing(), 1.5, "a", None, (thing, 2)),
        (thing, 1.25, "a", None, (thing, 2)),
        (thing, 1.5, "b", None, (thing, 2)),
        (thing, 1.5, "a", thing, (thing, 2)),
        (thing, 1.5, "a", None, (Thing(), 2)),
    ]
    assert all(make(*other) is not first for other in others)


def test_no_object_is_taken_for_one_that_is_gone() -> None:
    make, made = _counting()
    for _ in range(200):
        make(Thing())
    assert len(made) == 200


def test_little_is_kept_and_what_is_used_stays(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(module, "MOST", 10)
    make, made = _counting()
    first = make(0)
    for number in range(1, 100):
        make(number)
        assert make(0) is first
    assert len(made) == 100
    make(50)
    assert len(made) == 101


PLACES = st.integers(0, 4)


@st.composite
def _commands(draw: st.DrawFn, mix: Mix) -> c.AnyMixCommand:
    """Any of the commands that move, bend, hush or reorder something."""
    entry = mix.entries[draw(st.integers(0, len(mix.entries) - 1))]
    at = draw(st.integers(0, len(mix.entries) - 2))
    pair = {"out_id": mix.entries[at].id, "in_id": mix.entries[at + 1].id}
    return draw(
        st.sampled_from(
            [
                c.SetGain(entry_id=entry.id, gain_db=draw(st.sampled_from([-3.0, 0.0, None]))),
                c.SetHomeTempo(entry_id=entry.id, bpm=draw(st.sampled_from([118.0, 126.5, None]))),
                c.SetKeyShift(entry_id=entry.id, semitones=draw(st.integers(-2, 2))),
                c.SetKind(to=draw(st.sampled_from(list(Kind))), **pair),
                c.SetTempoPolicy(tempo=draw(st.sampled_from(list(TempoPolicy))), **pair),
                c.PlaceTransition(out_at=draw(st.integers(40, 60)) * 4.0, in_at=0.0, **pair),
                c.MoveEntries(entry_ids=(entry.id,), to=draw(st.integers(0, len(mix.entries) - 1))),
                c.SetLimiting(db=draw(st.sampled_from([0.0, 3.0]))),
            ]
        )
    )


@settings(max_examples=25, deadline=None)
@given(st.data())
def test_after_any_changes_a_plan_is_the_one_made_from_nothing(data: st.DataObject) -> None:
    mix = mix_of("a", "b", "c", "d", "a")
    for _ in range(data.draw(st.integers(1, 6))):
        try:
            mix = c.apply(mix, data.draw(_commands(mix)), TRACKS)
        except c.CommandError:
            continue
        fresh = Mix.model_validate_json(mix.model_dump_json())
        assert fresh == mix
        assert _seen(plan(mix, TRACKS)) == _seen(plan(fresh, {i: t.model_copy() for i, t in TRACKS.items()}))


def _seen(planned: Plan) -> object:
    entries = [
        (e.entry, e.index, e.offset, e.level, e.start_s, e.end_s, e.start_beat, e.end_beat, e.voice, e.sections)
        for e in planned.entries
    ]
    played = [(s.start_s, s.end_s, s.mode, s.time_map.shift_s) for e in planned.entries for s in e.segments]
    shown = running(planned, {})
    return entries, played, planned.transitions, planned.tempo, planned.duration_s, planned.warnings, shown
