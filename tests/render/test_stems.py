"""Stems of a track, turned and dropped, listened to with code."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np
import pytest

from fernbrook.audio.sources.stem_file import write_stem
from fernbrook.audio.stretch.kept_blocks import KeptBlocks
from fernbrook.core.mix import commands as c
from fernbrook.core.mix.curves import Control, Curve
from fernbrook.core.mix.transitions import ReadyShape, Side
from fernbrook.core.plan import RATE, stem_key
from fernbrook.core.track import KEPT, STEMS, DropOut, Repeat, Stem, StemsFact, TrackFacts
from fernbrook.render.renderer import render
from tests.listen import level_db
from tests.render.test_effects import steady, written
from tests.render.test_render import Deck

FACT = StemsFact(coherent=0.7, is_clean=True, has_voice=True)


@dataclass(frozen=True)
class Apart:
    """A track of four noises, each of which is a stem of it."""

    facts: TrackFacts
    path: Path
    stems: dict[Stem, np.ndarray]


def apart(folder: Path, name: str, seed: int) -> Apart:
    parts = {stem: steady(seed=seed + i).astype(np.float32) * 0.5 for i, stem in enumerate(STEMS)}
    made = written(folder, name, sum(parts.values(), start=np.zeros((1, 2), np.float32)), 120.0)
    for stem in KEPT:
        write_stem(folder / f"{name}.{stem.value}.flac", parts[stem], RATE)
    return Apart(made.facts.model_copy(update={"stems": FACT}), made.path, parts)


@pytest.fixture(scope="module")
def two(tmp_path_factory: pytest.TempPathFactory) -> tuple[Apart, Apart]:
    folder = tmp_path_factory.mktemp("stems")
    return apart(folder, "one", 1), apart(folder, "two", 20)


def deck_of(two: tuple[Apart, Apart]) -> Deck:
    deck = Deck(*two).shaped(ReadyShape.EVEN_BLEND, out_at=64.0, in_at=8.0, beats=32.0)
    stems = {
        stem_key(t.facts.id, stem): t.path.with_name(f"{t.facts.id}.{stem.value}.flac") for t in two for stem in KEPT
    }
    deck.paths = {**deck.paths, **stems}
    return deck


def turn(deck: Deck, side: Side, control: Control, *points: tuple[float, float]) -> Deck:
    pair = {"out_id": "e1", "in_id": "e2"}
    return deck.do(c.SetCurve(side=side, control=control, curve=Curve.of(*points), **pair))


def test_with_all_stems_on_nothing_changes(two: tuple[Apart, Apart]) -> None:
    plain, turned = deck_of(two), deck_of(two)
    turn(turned, Side.OUTGOING, Control.DRUMS, (0.0, 1.0), (0.9, 1.0), (1.0, 0.0))
    before = round(turned.plan.transitions[0].start_s * RATE)
    assert turned.plan.parts[0].turns_stems
    assert np.array_equal(plain.render(0, before), turned.render(0, before))


@pytest.mark.parametrize("stem", STEMS)
def test_each_stem_is_turned_down_and_no_other(two: tuple[Apart, Apart], stem: Stem) -> None:
    deck = deck_of(two)
    turn(deck, Side.OUTGOING, Control.VOLUME, (0.0, 1.0), (1.0, 1.0))
    start = round(deck.plan.transitions[0].start_s * RATE)
    span = slice(start + 2 * RATE, start + 8 * RATE)
    full = deck.render(span.start, span.stop, 0)
    turn(deck, Side.OUTGOING, Control(stem.value), (0.0, 1.0), (0.05, 0.0), (1.0, 0.0))
    gone = full - deck.render(span.start, span.stop, 0)
    assert np.allclose(gone, two[0].stems[stem][span], atol=2e-6)


def test_a_stem_that_is_dropped_is_out_wherever_its_span_is_heard(two: tuple[Apart, Apart]) -> None:
    deck = deck_of(two)
    edits = (
        Repeat(id="r", start=16.0, end=24.0, times=2),
        DropOut(id="d", start=16.0, end=20.0, stems=(Stem.DRUMS, Stem.MUSIC)),
    )
    deck.do(c.PutEdits(entry_id="e1", edits=edits))
    plain = deck_of(two).render(21 * RATE // 2, 23 * RATE // 2)
    left = two[0].stems[Stem.BASS] + two[0].stems[Stem.VOICE]
    for at in (16, 24):
        begin = at * RATE // 2
        heard = deck.render(begin + 400, begin + 3 * RATE // 2)
        assert np.allclose(heard, left[8 * RATE + 400 : 8 * RATE + 3 * RATE // 2], atol=2e-6)
    assert np.array_equal(deck.render(21 * RATE // 2, 23 * RATE // 2), plain)


def test_a_preview_with_stems_is_the_file_wherever_it_begins(two: tuple[Apart, Apart]) -> None:
    deck = deck_of(two)
    deck.do(c.SetHomeTempo(entry_id="e2", bpm=126.0))
    turn(deck, Side.OUTGOING, Control.VOICE, (0.0, 1.0), (0.5, 0.2), (1.0, 0.0))
    turn(deck, Side.INCOMING, Control.DRUMS, (0.0, 0.0), (0.5, 0.0), (0.6, 1.0), (1.0, 1.0))
    whole = deck.render()
    start = round(deck.plan.transitions[0].start_s * RATE)
    for at in np.random.default_rng(3).integers(start - RATE, start + 15 * RATE, 10):
        assert np.array_equal(deck.render(int(at), int(at) + RATE // 2), whole[at : at + RATE // 2]), at


def test_a_track_without_stems_plays_as_it_is_and_a_warning_says_so(two: tuple[Apart, Apart]) -> None:
    deck = deck_of(two)
    before = deck.render(30 * RATE, 40 * RATE)
    deck.tracks = {i: t.model_copy(update={"stems": None}) for i, t in deck.tracks.items()}
    turn(deck, Side.OUTGOING, Control.DRUMS, (0.0, 1.0), (0.1, 0.0), (1.0, 0.0))
    assert np.array_equal(deck.render(30 * RATE, 40 * RATE), before)
    assert [s.message for s in deck.plan.warnings if s.kind.value == "stems"] == [
        "The outgoing track has no such stems to turn: drums. Make its stems first."
    ]
    assert level_db(before) > -40.0


def test_what_was_stretched_is_not_taken_for_other_levels(two: tuple[Apart, Apart]) -> None:
    deck = deck_of(two)
    deck.do(c.SetHomeTempo(entry_id="e1", bpm=126.0))
    start = round(deck.plan.transitions[0].start_s * RATE)
    kept = KeptBlocks(1 << 30)
    for low in (0.0, 0.5):
        turn(deck, Side.OUTGOING, Control.DRUMS, (0.0, 1.0), (0.1, low), (1.0, low))
        fresh = deck.render(start, start + 5 * RATE)
        again = np.concatenate(list(render(deck.plan, deck.paths, start, start + 5 * RATE, kept=kept)))
        assert np.array_equal(again, fresh), low


def test_of_stems_that_are_split_anew_nothing_old_is_heard(two: tuple[Apart, Apart], tmp_path: Path) -> None:
    deck = turn(deck_of(two), Side.OUTGOING, Control.DRUMS, (0.0, 1.0), (0.1, 0.0), (1.0, 0.0))
    turn(deck, Side.OUTGOING, Control.REVERB, (0.0, 0.0), (0.1, 0.5), (1.0, 0.5))
    deck.do(c.SetHomeTempo(entry_id="e1", bpm=126.0))
    start = round(deck.plan.transitions[0].start_s * RATE)
    drums = stem_key(two[0].facts.id, Stem.DRUMS)
    file = tmp_path / "drums.flac"
    kept = KeptBlocks(1 << 30)
    for level in (1.0, 0.2):
        write_stem(file, two[0].stems[Stem.DRUMS] * np.float32(level), RATE)
        deck.paths = {**deck.paths, drums: file}
        fresh = deck.render(start + RATE, start + 5 * RATE)
        again = np.concatenate(list(render(deck.plan, deck.paths, start + RATE, start + 5 * RATE, kept=kept)))
        assert np.array_equal(again, fresh), level
