"""Cues and loops: what stays where when grids are mended, what decides, what is suggested."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fernbrook.core.mix.commands import AddTracks, PlaceTransition
from fernbrook.core.mix.commands import apply as apply_to_mix
from fernbrook.core.mix.model import Mix
from fernbrook.core.plan import WarningKind, plan
from fernbrook.core.track import (
    Cue,
    CueRole,
    Energy,
    Grid,
    Loop,
    Markup,
    Section,
    SectionKind,
    TrackFacts,
    VoiceSpan,
    analysed_again,
    apply,
    chosen,
)
from fernbrook.core.track import commands as m
from fernbrook.core.track.cue import with_cues, without_cues
from fernbrook.core.track.loop import nearest_length
from fernbrook.core.track.markup import MarkupError

GRID = Grid.constant(120.0, 2.0)
SECTIONS = (
    Section(kind=SectionKind.BEAT, start=0.0, end=64.0),
    Section(kind=SectionKind.FULL, start=64.0, end=256.0),
    Section(kind=SectionKind.BREAK, start=256.0, end=320.0),
    Section(kind=SectionKind.FULL, start=320.0, end=512.0),
    Section(kind=SectionKind.BEAT, start=512.0, end=576.0),
)


def cue(name: str, at: float, role: CueRole = CueRole.PLAIN, preferred: bool = False) -> Cue:
    return Cue(id=name, at=at, role=role, name=name, preferred=preferred)


def track(name: str = "a", **more: object) -> TrackFacts:
    return TrackFacts(id=name, title=name.upper(), duration_s=290.0, grid=GRID, sections=SECTIONS).model_copy(
        update=more
    )


edits = st.one_of(
    st.floats(-0.2, 0.2).map(lambda x: m.Slide(by_s=x)),
    st.floats(100.0, 140.0).map(lambda x: m.SetTempo(bpm=x, about_beat=0.0)),
    st.floats(-0.1, 0.1).map(lambda x: m.MoveLine(beat=64.0, to_s=34.0 + x)),
    st.integers(-16, 16).map(lambda x: m.CountFrom(beat=float(x))),
    st.sampled_from([0.5, 2.0]).map(lambda x: m.ScaleTempo(factor=x)),
)


@given(edit=edits, line=st.integers(0, 500), off=st.floats(0.05, 0.95))
def test_a_cue_on_a_line_keeps_to_lines_and_one_off_the_grid_to_its_moment(
    edit: m.MarkupCommand, line: int, off: float
) -> None:
    markup = Markup(grid=GRID, cues=(cue("on", float(line)), cue("off", line + off)))
    changed = apply(markup, edit)
    assert changed.grid is not None
    now = {c.id: c.at for c in changed.cues}
    moment = float(GRID.time_at(line + off))
    assert float(changed.grid.time_at(now["off"])) == pytest.approx(moment, abs=1e-6)
    # Half of a beat is as near to its moment as a line can be; at half the tempo an odd beat lies on a half.
    unit = 0.5 if isinstance(edit, m.ScaleTempo) and edit.factor == 0.5 else 1.0
    assert (now["on"] / unit) % 1.0 == pytest.approx(0.0, abs=1e-9)
    assert abs(now["on"] - float(changed.grid.beat_at(GRID.time_at(line)))) <= 0.5 + 1e-6


@given(roles=st.lists(st.tuples(st.sampled_from(list(CueRole)), st.booleans(), st.integers(0, 40)), max_size=12))
def test_of_each_role_one_decides(roles: list[tuple[CueRole, bool, int]]) -> None:
    cues: tuple[Cue, ...] = ()
    for number, (role, preferred, at) in enumerate(roles):
        cues = with_cues(cues, [cue(f"c{number}", float(at), role, preferred)])
        if preferred and role in (CueRole.MIX_IN, CueRole.MIX_OUT):
            assert chosen(cues, role).id == f"c{number}"  # type: ignore[union-attr]
    assert [c.at for c in cues] == sorted(c.at for c in cues)
    for role in (CueRole.MIX_IN, CueRole.MIX_OUT):
        of_role = [c for c in cues if c.role is role]
        assert sum(c.preferred for c in of_role) == min(1, len(of_role))
        if of_role:
            rest = without_cues(cues, [next(c.id for c in of_role if c.preferred)])
            assert (chosen(rest, role) is not None) == (len(of_role) > 1)
    assert sum(c.role is CueRole.START for c in cues) <= 1
    assert sum(c.role is CueRole.ALONE_FROM for c in cues) <= 1
    assert not any(c.preferred for c in cues if c.role is CueRole.PLAIN)


def test_loops_keep_to_their_lines_and_lengths() -> None:
    markup = Markup(grid=GRID, loops=(Loop(id="l", start=8.0, beats=16.0), Loop(id="s", start=1.5, beats=0.25)))
    assert [(x.start, x.beats) for x in apply(markup, m.Slide(by_s=0.03)).loops if x.id == "l"] == [(8.0, 16.0)]
    doubled = {x.id: (x.start, x.beats) for x in apply(markup, m.ScaleTempo(factor=2.0)).loops}
    assert doubled == {"s": (3.0, 0.5), "l": (16.0, 32.0)}
    halved = {x.id: x.beats for x in apply(markup, m.ScaleTempo(factor=0.5)).loops}
    assert halved == {"s": 0.25, "l": 8.0}
    with pytest.raises(ValueError, match="whole beats"):
        Loop(id="x", start=0.0, beats=1.5)
    assert [nearest_length(b) for b in (0.01, 0.5, 3.4, 5000.0)] == [0.25, 0.5, 3.0, 768.0]


def test_cues_outlast_an_analysis_and_a_track_that_has_no_grid_yet() -> None:
    early = Markup(cues=(cue("door", 10.0),))
    found = Markup(grid=GRID, sections=SECTIONS)
    first = analysed_again(early, Markup(), found)
    assert first.sections == SECTIONS
    # Beat 10 of the stand-in is five seconds in.
    assert float(GRID.time_at(first.cues[0].at)) == pytest.approx(5.0)
    again = analysed_again(first, found, Markup(grid=GRID.counted(2.0, 0.0), sections=()))
    assert float(again.grid.time_at(again.cues[0].at)) == pytest.approx(5.0)  # type: ignore[union-attr]
    assert analysed_again(first, found, Markup()).cues[0].at == pytest.approx(10.0)


def test_commands_on_cues_and_loops_are_taken_one_by_one() -> None:
    markup = apply(Markup(grid=GRID), m.PutCues(cues=(cue("a", 4.0), cue("b", 8.0))))
    moved = apply(markup, m.PutCues(cues=(cue("a", 12.0),)))
    assert [(c.id, c.at) for c in moved.cues] == [("b", 8.0), ("a", 12.0)]
    assert apply(moved, m.RemoveCues(ids=("a", "b"))).cues == ()
    looped = apply(markup, m.PutLoops(loops=(Loop(id="l", start=0.0, beats=4.0),)))
    assert apply(looped, m.RemoveLoops(ids=("l",))) == markup
    many = tuple(cue(f"c{i}", float(i)) for i in range(200))
    with pytest.raises(MarkupError, match="200 cues"):
        apply(markup, m.PutCues(cues=many))


def test_what_is_suggested_follows_what_is_heard_and_says_why() -> None:
    singing = track(voice=(VoiceSpan(start=98.6, end=130.0),))
    told = {p.cue.role: (p.cue.at, p.reason) for p in singing.suggested_cues if p.cue.role is not CueRole.PLAIN}
    assert told == {
        CueRole.START: (0.0, "the first downbeat"),
        CueRole.MIX_IN: (0.0, "drums alone from here"),
        CueRole.ALONE_FROM: (96.0, "the voice enters"),
        CueRole.MIX_OUT: (512.0, "drums alone from here"),
    }
    plain = [(p.cue.name, p.cue.at) for p in singing.suggested_cues if p.cue.role is CueRole.PLAIN]
    assert plain == [("voice ends", 132.0), ("break", 256.0), ("drop", 320.0)]
    halves = (
        Section(kind=SectionKind.BREAK, start=256.0, end=288.0),
        Section(kind=SectionKind.BEATLESS, start=288.0, end=320.0),
    )
    broken = track(sections=(*SECTIONS[:2], *halves, *SECTIONS[3:]))
    assert [p.cue.at for p in broken.suggested_cues if p.cue.name == "break"] == [256.0]
    assert track().cue_for(CueRole.ALONE_FROM).at == 64.0  # type: ignore[union-attr]
    mine = singing.model_copy(update={"cues": (cue("mine", 32.0, CueRole.MIX_IN),)})
    assert CueRole.MIX_IN not in {p.cue.role for p in mine.suggested_cues}
    assert mine.cue_for(CueRole.MIX_IN).at == 32.0  # type: ignore[union-attr]
    assert [(p.loop.start, p.loop.beats) for p in singing.suggested_loops] == [(0.0, 64.0), (512.0, 64.0)]


def test_a_track_that_thins_out_is_left_there() -> None:
    sections = (
        Section(kind=SectionKind.FULL, start=0.0, end=480.0),
        Section(kind=SectionKind.FULL, start=480.0, end=576.0),
    )
    energy = Energy(first_bar=0, by_bar=(0.9,) * 120 + (0.3,) * 24)
    thin = track(sections=sections, energy=energy)
    assert thin.cue_for(CueRole.MIX_OUT).at == 480.0  # type: ignore[union-attr]
    flat = track(sections=sections, energy=Energy(first_bar=0, by_bar=(0.9,) * 144))
    assert flat.cue_for(CueRole.MIX_OUT).at == 512.0  # type: ignore[union-attr]


def _mix(**tracks: TrackFacts) -> Mix:
    return apply_to_mix(Mix(name="m"), AddTracks(track_ids=tuple(tracks)), tracks)


def test_cues_place_what_nobody_shaped() -> None:
    tracks = {
        "a": track(cues=(cue("out", 400.0, CueRole.MIX_OUT), cue("go", 16.0, CueRole.START))),
        "b": track("b", cues=(cue("in", 32.0, CueRole.MIX_IN), cue("sings", 96.0, CueRole.ALONE_FROM))),
    }
    placed = plan(_mix(**tracks), tracks)
    t = placed.transitions[0].transition
    assert (t.out_at, t.in_at, t.beats) == (400.0, 32.0, 64.0)
    soon = tracks | {"b": track("b", cues=(tracks["b"].cues[0], cue("sings", 68.0, CueRole.ALONE_FROM)))}
    assert plan(_mix(**soon), soon).transitions[0].transition.beats == 32.0
    assert float(placed.entries[0].time_map.source_at(0.0)) == pytest.approx(float(GRID.time_at(16.0)))
    assert not [s for s in placed.warnings if s.kind is WarningKind.NOT_CLEAR]
    doubled = plan(_mix(**tracks).model_copy(update={"entries": tuple(
        e.model_copy(update={"count": 2.0}) for e in _mix(**tracks).entries)}), tracks)  # fmt: skip
    t = doubled.transitions[0].transition
    assert (t.out_at, t.in_at) == (800.0, 64.0)


def test_an_overlap_that_outlasts_the_alone_from_cue_is_a_warning_that_says_by_how_much() -> None:
    tracks = {"a": track(), "b": track("b", cues=(cue("sings", 48.0, CueRole.ALONE_FROM),))}
    mix = apply_to_mix(
        _mix(**tracks), PlaceTransition(out_id="e1", in_id="e2", out_at=480.0, in_at=0.0, beats=64.0), tracks
    )
    told = [s.message for s in plan(mix, tracks).warnings if s.kind is WarningKind.NOT_CLEAR]
    assert told == ["The overlap ends 16 beats after ‘sings’ of ‘B’."]
    # What is only suggested is no reason to complain.
    assert not [s for s in plan(mix, {"a": track(), "b": track("b")}).warnings if s.kind is WarningKind.NOT_CLEAR]
