"""Lanes for an editor, listened to with code: together they are the mix before its limiter, to the sample."""

from __future__ import annotations

import numpy as np
import pytest

from fernbrook.core.mix import commands as c
from fernbrook.core.mix.curves import Control, Curve
from fernbrook.core.mix.layers import Layer, OfTrack, OnMix
from fernbrook.core.mix.transitions import Side, SideCurves
from fernbrook.core.plan import RATE, MarkerKind, markers, teaser
from fernbrook.core.plan.teaser import LONGEST_S
from fernbrook.core.track import Cue, CueRole, Stem
from fernbrook.render.lanes import Lane, lane_blocks, lanes_of
from fernbrook.render.renderer import render
from tests.listen import level_db
from tests.render.test_effects import steady, written
from tests.render.test_render import Deck
from tests.render.test_stems import Apart, apart, deck_of, turn


@pytest.fixture(scope="module")
def deck(tmp_path_factory: pytest.TempPathFactory) -> Deck:
    """Two tracks whose stems are known, a bass that is turned, an echo, and a layer over it that is heard twice."""
    folder = tmp_path_factory.mktemp("lanes")
    two: tuple[Apart, Apart] = (apart(folder, "one", 1), apart(folder, "two", 20))
    other = written(folder, "other", steady(seed=40), 120.0)
    made = deck_of(two)
    turn(made, Side.OUTGOING, Control.BASS, (0.0, 1.0), (0.5, 0.0))
    turn(made, Side.OUTGOING, Control.ECHO, (0.0, 0.0), (1.0, 0.8))
    made.tracks |= {"other": other.facts}
    made.paths = {**made.paths, "other": other.path}
    opens = SideCurves.of(volume=Curve.of((0.0, 0.0), (1.0, 1.0)))
    sound = OfTrack(track_id="other", start=16.0, beats=8.0)
    layer = Layer(id="l1", sound=sound, at=OnMix(beat=20.0), times=2, apart=20.0, curves=opens)
    return made.do(c.PutLayers(layers=(layer,)))


def sound_of(deck: Deck, lane: Lane) -> np.ndarray:
    return np.concatenate(list(lane_blocks(lane, deck.paths, deck.plan.frames)))


def test_lanes_together_are_the_mix_before_its_limiter(deck: Deck) -> None:
    lanes = lanes_of(deck.plan, by_stem=False, curves=True)
    assert [(x.number, x.is_layer) for x in lanes] == [(1, False), (2, False), (1, True)]
    together = sum((sound_of(deck, x).astype(np.float64) for x in lanes), start=np.zeros((1, 2)))
    unreachable = 60.0
    mix = np.concatenate(list(render(deck.plan, deck.paths, ceiling_dbtp=unreachable)))
    assert len(together) == len(mix)
    assert np.abs(together - mix).max() < 1e-6


def test_one_lane_a_stem_is_that_stem_and_together_they_are_the_track(deck: Deck) -> None:
    lanes = lanes_of(deck.plan, by_stem=True, curves=True)
    own = [x for x in lanes if x.number == 2 and not x.is_layer]
    assert [x.stem for x in own] == list(Stem)
    assert [x.stem for x in lanes if x.is_layer] == [None]
    after = round(deck.plan.transitions[0].end_s * RATE) + RATE
    span = slice(after, after + 4 * RATE)
    apart_ = {x.stem: sound_of(deck, x) for x in own}
    together = sum((s.astype(np.float64) for s in apart_.values()), start=np.zeros((1, 2)))
    (plain,) = (x for x in lanes_of(deck.plan, by_stem=False, curves=True) if x.number == 2 and not x.is_layer)
    assert level_db((together - sound_of(deck, plain))[span]) < level_db(together[span]) - 60
    for stem, sound in apart_.items():
        assert level_db(sound[span]) == pytest.approx(level_db(together[span]) - 6.0, abs=0.6), stem


def test_without_curves_each_is_as_loud_as_it_is_from_first_to_last(deck: Deck) -> None:
    faded, plain = (lanes_of(deck.plan, by_stem=False, curves=curves) for curves in (True, False))
    at = deck.plan.transitions[0]
    first, last = (round(s * RATE) for s in (at.start_s, at.end_s))
    late = slice(last - 2 * RATE, last - RATE)
    early = slice(first - 2 * RATE, first - RATE)
    with_, without = (sound_of(deck, lanes[0]) for lanes in (faded, plain))
    assert level_db(without[late]) == pytest.approx(level_db(without[early]), abs=0.5)
    assert level_db(with_[late]) < level_db(without[late]) - 3
    assert not without[last + RATE // 100 :].any()
    assert with_[last + RATE // 100 : last + RATE].any()


def test_markers_are_where_entries_come_take_over_and_go_and_where_their_cues_are_heard(deck: Deck) -> None:
    cues = (Cue(id="c1", at=24.0, role=CueRole.PLAIN, name="claps"), Cue(id="c2", at=4.0, role=CueRole.MIX_IN))
    facts = deck.tracks["two"]
    cued = Deck.__new__(Deck)
    cued.tracks = {**deck.tracks, "two": facts.model_copy(update={"cues": cues})}
    cued.mix, cued.paths = deck.mix, deck.paths
    plan = cued.plan
    found = markers(plan)
    assert [m.at_s for m in found] == sorted(m.at_s for m in found)
    into = plan.entries[1]
    named = {(m.title, m.kind, m.cue): m.at_s for m in found}
    title = into.track.title
    assert named[title, MarkerKind.COMES_IN, ""] == pytest.approx(plan.transitions[0].start_s)
    assert named[plan.entries[0].track.title, MarkerKind.GONE, ""] == pytest.approx(plan.transitions[0].end_s)
    claps = float(into.tempo.time_at(24.0 + into.offset))
    assert named[title, MarkerKind.CUE, "claps"] == pytest.approx(claps)
    assert (title, MarkerKind.CUE, "mix in") not in named, "that beat is before it comes in"


def test_a_teaser_has_short_overlaps_in_the_middle_and_begins_on_a_bar(deck: Deck) -> None:
    plan = deck.plan
    (piece,) = teaser(plan)
    at = plan.transitions[0]
    bar = 4 * 60.0 / 120.0
    assert piece.end_s - piece.start_s == pytest.approx(min(LONGEST_S, plan.duration_s - piece.start_s))
    assert (piece.start_s + piece.end_s) / 2 == pytest.approx((at.start_s + at.end_s) / 2, abs=bar)
    moments, firsts = plan.bars.ticks(0.0, plan.duration_s)
    assert np.abs(moments[firsts] - piece.start_s).min() < 1e-6
    assert piece.name == " → ".join(e.track.title for e in plan.entries)
