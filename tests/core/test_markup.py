from __future__ import annotations

import pytest

from fernbrook.core.track import Grid, Markup, Section, SectionKind, VoiceSpan, analysed_again, apply
from fernbrook.core.track import commands as m
from fernbrook.core.track.markup import MarkupError

MARKUP = Markup(
    grid=Grid.constant(120.0, 2.0),
    sections=(
        Section(kind=SectionKind.BEAT, start=0.0, end=32.0),
        Section(kind=SectionKind.FULL, start=32.0, end=96.0),
    ),
    voice=(VoiceSpan(start=34.0, end=38.0),),
    checked=True,
)


def test_a_change_by_hand_is_remembered_and_has_to_be_checked_anew() -> None:
    changed = apply(MARKUP, m.Slide(by_s=0.01))
    assert (changed.by_hand, changed.checked) == (True, False)
    assert apply(changed, m.MarkChecked(checked=True)).checked


def test_sections_and_voices_stay_where_they_sound_when_beats_are_counted_otherwise() -> None:
    doubled = apply(MARKUP, m.ScaleTempo(factor=2.0))
    assert [(s.start, s.end) for s in doubled.sections] == [(0.0, 64.0), (64.0, 192.0)]
    assert doubled.voice[0].start == pytest.approx(68.0)
    counted = apply(MARKUP, m.CountFrom(beat=16.0))
    assert [(s.start, s.end) for s in counted.sections] == [(-16.0, 16.0), (16.0, 80.0)]


def test_a_change_that_changes_nothing_is_none() -> None:
    assert apply(MARKUP, m.SetTempo(bpm=120.0, about_beat=0.0)) == MARKUP


def test_a_tempo_gives_a_track_without_a_grid_one() -> None:
    made = apply(Markup(), m.SetTempo(bpm=97.5))
    assert made.grid == Grid.constant(97.5, 0.0)
    with pytest.raises(MarkupError, match="No grid yet"):
        apply(Markup(), m.Slide(by_s=0.1))
    with pytest.raises(MarkupError, match="no grid to check"):
        apply(Markup(), m.MarkChecked(checked=True))


def test_sections_may_not_overlap() -> None:
    overlapping = (MARKUP.sections[0], Section(kind=SectionKind.FULL, start=31.0, end=96.0))
    with pytest.raises(MarkupError, match="must follow each other"):
        apply(MARKUP, m.PutSections(sections=overlapping))
    named = tuple(s.model_copy(update={"name": "door"}) for s in MARKUP.sections)
    assert apply(MARKUP, m.PutSections(sections=named)).sections == named
    assert apply(MARKUP, m.PutVoice(voice=())).voice == ()


def test_every_command_has_words_for_undo() -> None:
    commands = [
        m.Slide(by_s=0.01), m.CountFrom(beat=1.0), m.FirstOfBar(beat=1.0), m.SetBeatsPerBar(beats=3),
        m.SetTempo(bpm=100.0), m.ScaleTempo(factor=2.0), m.ScaleTempo(factor=1.5), m.RoundTempo(),
        m.MoveLine(beat=4.0, to_s=4.1), m.AddAnchor(beat=4.0), m.RemoveAnchor(beat=0.0),
        m.TempoFrom(beat=4.0, bpm=99.0),
        m.RampFrom(beat=4.0, beats=8.0, bpm=99.0),
        m.ScaleFrom(beat=4.0, factor=2.0),
        m.PutGrid(grid=Grid.constant(99.0, 0.0)), m.MarkChecked(checked=False), m.PutSections(sections=()),
    ]  # fmt: skip
    words = [c.words() for c in commands]
    assert len(set(words)) == len(words)
    assert words[0] == "slide the grid by +10 ms"
    for command in commands:
        if not isinstance(command, m.RemoveAnchor):
            assert isinstance(apply(MARKUP, command), Markup)


def test_beats_to_the_bar_can_be_set() -> None:
    made = apply(MARKUP, m.SetBeatsPerBar(beats=3)).grid
    assert made is not None
    assert made.beats_per_bar == 3


def test_another_analysis_puts_in_what_was_not_changed_by_hand() -> None:
    before = MARKUP.model_copy(update={"checked": False, "voice": ()})
    grid = Grid.constant(60.0, 2.0)
    newer = Markup(
        grid=grid,
        sections=(Section(kind=SectionKind.FULL, start=0.0, end=48.0),),
        voice=(VoiceSpan(start=20.0, end=24.0),),
    )
    assert analysed_again(before, before, newer) == newer
    checked = analysed_again(before.model_copy(update={"checked": True}), before, newer)
    assert (checked.grid, checked.checked) == (MARKUP.grid, True)
    assert (checked.voice[0].start, checked.voice[0].end) == pytest.approx((40.0, 48.0))
    named = tuple(s.model_copy(update={"name": "door"}) for s in before.sections)
    renamed = analysed_again(before.model_copy(update={"sections": named}), before, newer)
    assert renamed.grid == grid
    assert [(s.name, s.start, s.end) for s in renamed.sections] == [("door", 0.0, 16.0), ("door", 16.0, 48.0)]
    mine = before.model_copy(update={"by_hand": True})
    assert analysed_again(mine, before, Markup()) == mine
    assert analysed_again(before, before, Markup()) == Markup()
