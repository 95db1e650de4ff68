"""What a part goes through, listened to with code: its bands, its level, its edges, the limiter."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from scipy.signal import resample_poly

from fernbrook.audio.sources.source import Source
from fernbrook.core.mix import commands as c
from fernbrook.core.mix.curves import CONTROLS, Control, Curve, Processor
from fernbrook.core.mix.transitions import ReadyShape, Side
from fernbrook.core.plan import RATE
from fernbrook.render.blocks import BLOCK
from fernbrook.render.channel import Channel
from tests.conftest import Made
from tests.listen import band, level_db, mono
from tests.render.test_render import Deck

BANDS = {Control.LOW: (40, 160), Control.MID: (500, 1500), Control.HIGH: (5000, 15_000)}


def _overlap(deck: Deck) -> tuple[int, int]:
    t = deck.plan.transitions[0]
    return round(t.start_s * RATE), round(t.end_s * RATE)


def _shaped(deck: Deck, side: Side, control: Control, *points: tuple[float, float]) -> Deck:
    pair = {"out_id": deck.mix.entries[0].id, "in_id": deck.mix.entries[1].id}
    return deck.do(c.SetCurve(side=side, control=control, curve=Curve.of(*points), **pair))


@pytest.fixture(scope="module")
def flat(first: Made, second: Made) -> Deck:
    """An overlap of 8 bars at which both sides stay at full level."""
    deck = Deck(first, second).shaped(ReadyShape.EVEN_BLEND, beats=32.0)
    _shaped(deck, Side.OUTGOING, Control.VOLUME, (0.0, 1.0), (1.0, 1.0))
    return _shaped(deck, Side.INCOMING, Control.VOLUME, (0.0, 1.0), (1.0, 1.0))


@pytest.mark.parametrize("turned", list(BANDS))
def test_each_band_of_the_equaliser_turns_its_own_sound_and_no_other(
    flat: Deck, first: Made, second: Made, turned: Control
) -> None:
    start, end = _overlap(flat)
    before = flat.render(start, end, 0)
    deck = Deck(first, second)
    deck.mix = flat.mix
    after = _shaped(deck, Side.OUTGOING, turned, (0.0, 1.0), (0.1, 0.0), (1.0, 0.0)).render(start, end, 0)
    late = slice(len(before) // 3, -RATE)
    for control, (low, high) in BANDS.items():
        change = level_db(band(after, low, high)[late]) - level_db(band(before, low, high)[late])
        assert change < -20 if control is turned else abs(change) < 1.0, control


def test_all_controls_of_the_table_are_heard(flat: Deck, first: Made, second: Made) -> None:
    start, end = _overlap(flat)
    before = flat.render(start, end, 0)
    for control, spec in CONTROLS.items():
        if spec.processor is Processor.STEM:
            continue  # tests/render/test_stems.py
        deck = Deck(first, second)
        deck.mix = flat.mix
        away = spec.low if spec.low != spec.neutral else spec.high
        moved = _shaped(deck, Side.OUTGOING, control, (0.0, spec.neutral), (0.01, away), (1.0, away))
        taken = before - moved.render(start, end, 0)
        assert level_db(taken[len(before) // 2 :]) > level_db(before) - 35.0, control


def test_the_limiter_stands_at_the_end_of_every_render(flat: Deck) -> None:
    deck = Deck.__new__(Deck)
    deck.tracks, deck.paths, deck.mix = flat.tracks, flat.paths, flat.mix
    for entry in flat.mix.entries:
        deck.do(c.SetGain(entry_id=entry.id, gain_db=18.0))
    start, _ = _overlap(deck)
    heard = deck.render(start - 2 * RATE, start + 6 * RATE)
    assert 20 * np.log10(np.abs(resample_poly(heard, 8, 1, axis=0)).max()) < -0.99
    assert level_db(heard) > -12.0
    again = deck.render(start + RATE, start + 2 * RATE)
    assert np.array_equal(again, heard[3 * RATE : 4 * RATE])


@pytest.mark.parametrize("level", [0.0, 0.5])
def test_before_the_overlap_nothing_is_louder_than_its_curve_begins(
    flat: Deck, first: Made, second: Made, level: float
) -> None:
    deck = Deck(first, second)
    deck.mix = flat.mix
    # The incoming at bar 2, so that there is sound before its first beat too.
    pair = {"out_id": deck.mix.entries[0].id, "in_id": deck.mix.entries[1].id}
    deck.do(c.PlaceTransition(in_at=4.0, **pair))
    full = deck.render(*(s - 400 for s in _overlap(deck)), 1)
    shaped = _shaped(deck, Side.INCOMING, Control.VOLUME, (0.0, level), (0.5, level), (1.0, 1.0))
    start, end = _overlap(shaped)
    heard = shaped.render(start - 400, end - 400, 1)
    assert not heard[:200].any()
    ratio = np.sin(np.pi / 2 * level)
    edge = slice(240, 400)
    assert np.abs(full[edge]).max() > 1e-3
    assert np.allclose(heard[edge], full[edge] * ratio, atol=1e-6)


def test_nothing_is_louder_before_the_overlap_when_a_block_begins_just_there(
    flat: Deck, first: Made, second: Made
) -> None:
    """The edge of a part may lie in a block that has nothing of the overlap yet."""
    deck = Deck(first, second)
    deck.mix = flat.mix
    start, _ = _overlap(deck)
    earlier_s = (BLOCK + start % BLOCK - 100) / RATE
    pair = {"out_id": deck.mix.entries[0].id, "in_id": deck.mix.entries[1].id}
    here = deck.plan.transitions[0].transition
    deck.do(c.PlaceTransition(out_at=here.out_at - earlier_s * 120 / 60, in_at=4.0, **pair))
    _shaped(deck, Side.INCOMING, Control.VOLUME, (0.0, 0.0), (1.0, 1.0))
    start, _ = _overlap(deck)
    assert start % BLOCK == pytest.approx(100, abs=2)
    assert not deck.render(start - 200, start - 10, 1).any()


def test_a_part_sounds_between_its_two_ends_only(first: Made) -> None:
    """Also one that neither comes in nor goes softly, and whose source goes on."""
    deck = Deck(first)
    part = replace(deck.plan.parts[0], end_s=20.0)
    channel = Channel(part, deck.paths)
    number = 20 * RATE // BLOCK
    heard = channel.block(number)
    channel.close()
    assert heard is not None
    last = 20 * RATE - number * BLOCK
    assert heard[last - 1024 : last].any()
    assert not heard[last:].any()


def test_a_part_that_goes_by_itself_has_gone_softly_at_its_last_sample(flat: Deck) -> None:
    _, end = _overlap(flat)
    loud = Deck.__new__(Deck)
    loud.tracks, loud.paths, loud.mix = flat.tracks, flat.paths, flat.mix
    heard = loud.render(end - 2000, end + 2000, 0)
    at = round(loud.plan.entries[0].end_s * RATE) - (end - 2000)
    assert not heard[at:].any()
    last = np.abs(heard[at - 1000 : at]).max(axis=1)
    assert last[-5:].max() < 0.06 * last[:800].max()
    assert last[-90:-80].max() > 0.0


def test_a_preview_deep_in_a_stretched_track_reads_only_what_is_near(
    first: Made, monkeypatch: pytest.MonkeyPatch
) -> None:
    deck = Deck(first)
    deck.do(c.SetHomeTempo(entry_id=deck.mix.entries[0].id, bpm=126.0))
    whole = deck.render()
    read: list[int] = []
    real = Source.read

    def counted(source: Source, start: int, frames: int) -> np.ndarray:
        read.append(start)
        return real(source, start, frames)

    monkeypatch.setattr(Source, "read", counted)
    at = 40 * RATE
    assert np.array_equal(deck.render(at, at + 1000), whole[at : at + 1000])
    assert min(read) / RATE > 40 * 1.05 - 8 * 0.5 * 1.05 - 1.5


def test_attacks_stay_as_sharp_under_a_stretch_as_they_were(first: Made) -> None:
    deck = Deck(first)
    deck.do(c.SetHomeTempo(entry_id=deck.mix.entries[0].id, bpm=126.0))
    source, heard = mono(first.sound()), mono(deck.render())

    def rises(sound: np.ndarray, times: np.ndarray) -> float:
        """How much louder the 2 ms after each beat are than the 2 ms before."""
        n = round(0.002 * RATE)
        ratios = [
            np.abs(sound[at : at + n]).max() / (np.abs(sound[at - 2 * n : at - 10]).max() + 1e-6)
            for at in np.round(times * RATE).astype(int)
        ]
        return float(np.median(ratios))

    beats = np.arange(8, 100, 1)
    before = rises(band(source, 2000, 15_000), np.asarray(first.truth.grid.time_at(beats)))
    after = rises(band(heard, 2000, 15_000), np.asarray(deck.plan.tempo.time_at(beats)))
    assert after > 0.7 * before
