"""The filter, the echo, the reverb and the gap, listened to with code."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np
import pytest
import soundfile
from scipy.signal import welch

from fernbrook.audio.stretch import KeptBlocks
from fernbrook.core.mix import commands as c
from fernbrook.core.mix.curves import Control, Curve, Onward, high_pass_hz, low_pass_hz
from fernbrook.core.mix.transitions import GapBefore, GapSide, ReadyShape, Side, TempoPolicy
from fernbrook.core.plan import RATE
from fernbrook.core.track import Grid, TrackFacts
from fernbrook.render.blocks import BLOCK
from fernbrook.render.processors import Chain
from fernbrook.render.renderer import render
from tests.conftest import Made
from tests.listen import band, level_db, mono
from tests.render.test_render import Deck

FULL = Curve.of((0.0, 1.0), (1.0, 1.0))


@dataclass(frozen=True)
class Played:
    """A file of known sound with a grid."""

    facts: TrackFacts
    path: Path


def written(folder: Path, name: str, sound: np.ndarray, bpm: float) -> Played:
    path = folder / f"{name}.wav"
    soundfile.write(path, sound.astype(np.float32), RATE, subtype="FLOAT")
    facts = TrackFacts(id=name, title=name, duration_s=len(sound) / RATE, grid=Grid.constant(bpm, 0.0))
    return Played(facts, path)


def steady(*, seconds: float = 60.0, seed: int = 1) -> np.ndarray:
    return 0.1 * np.random.default_rng(seed).standard_normal((round(seconds * RATE), 2))


def clicks(bpm: float, every: int, seconds: float = 60.0) -> np.ndarray:
    """A short click on each so many beats."""
    sound = np.zeros((round(seconds * RATE), 2))
    t = np.arange(300) / RATE
    click = 0.5 * np.exp(-t * 900) * np.sin(2 * np.pi * 3000 * t)
    for beat in np.arange(0, seconds * bpm / 60.0 - 1, every):
        at = round(beat * 60.0 / bpm * RATE)
        sound[at : at + 300] += click[:, None]
    return sound


@pytest.fixture(scope="module")
def noises(tmp_path_factory: pytest.TempPathFactory) -> Deck:
    """Two noises of one tempo over 32 beats, both at full level."""
    folder = tmp_path_factory.mktemp("noises")
    deck = Deck(written(folder, "one", steady(seed=1), 120.0), written(folder, "two", steady(seed=2), 120.0))
    return flat(deck)


def flat(deck: Deck) -> Deck:
    deck.shaped(ReadyShape.EVEN_BLEND, out_at=64.0, in_at=8.0, beats=32.0)
    for side in Side:
        shape(deck, side, Control.VOLUME, FULL)
    return deck


def pair(deck: Deck) -> dict[str, str]:
    return {"out_id": deck.mix.entries[0].id, "in_id": deck.mix.entries[1].id}


def shape(deck: Deck, side: Side, control: Control, curve: Curve) -> Deck:
    return deck.do(c.SetCurve(side=side, control=control, curve=curve, **pair(deck)))


def another(deck: Deck) -> Deck:
    copy = Deck.__new__(Deck)
    copy.tracks, copy.paths, copy.mix = deck.tracks, deck.paths, deck.mix
    return copy


def overlap(deck: Deck) -> tuple[int, int]:
    t = deck.plan.transitions[0]
    return round(t.start_s * RATE), round(t.end_s * RATE)


def response_db(before: np.ndarray, after: np.ndarray, hz: float) -> float:
    """How a filter changes what lies at a frequency."""
    bins, one = welch(mono(before), RATE, nperseg=16_384)
    two = welch(mono(after), RATE, nperseg=16_384)[1]
    near = np.abs(bins - hz) < max(10.0, 0.02 * hz)
    return float(10.0 * np.log10(two[near].sum() / one[near].sum()))


@pytest.mark.parametrize("position", [0.1, 0.25, 0.7, 0.85])
def test_the_filter_cuts_off_where_its_law_says_and_falls_by_24_db_an_octave(noises: Deck, position: float) -> None:
    start, end = overlap(noises)
    span = (start + 4 * RATE, end - RATE)
    before = noises.render(*span, 0)
    deck = another(noises).do(c.SetEffects(resonance=0.0, **pair(noises)))
    held = Curve.of((0.0, 0.5), (0.05, position), (1.0, position))
    after = shape(deck, Side.OUTGOING, Control.FILTER, held).render(*span, 0)
    is_low = position < 0.5
    cutoff = float(low_pass_hz(position) if is_low else high_pass_hz(position))
    away = 2.0 if is_low else 0.5
    assert response_db(before, after, cutoff) == pytest.approx(-3.0, abs=1.5)
    assert response_db(before, after, cutoff / away**2) == pytest.approx(0.0, abs=0.4)
    one, two = (response_db(before, after, cutoff * away**n) for n in (1, 2))
    assert one == pytest.approx(-24.0, abs=3.0)
    assert two - one == pytest.approx(-24.0, abs=3.0)


def test_resonance_lifts_what_lies_at_the_cutoff(noises: Deck) -> None:
    start, end = overlap(noises)
    span = (start + 4 * RATE, end - RATE)
    held = Curve.of((0.0, 0.5), (0.05, 0.25), (1.0, 0.25))
    levels = []
    for resonance in (0.0, 0.5, 1.0):
        deck = another(noises).do(c.SetEffects(resonance=resonance, **pair(noises)))
        sound = shape(deck, Side.OUTGOING, Control.FILTER, held).render(*span, 0)
        levels.append(response_db(noises.render(*span, 0), sound, float(low_pass_hz(0.25))))
    assert levels[0] + 5.0 < levels[1] < levels[2] - 3.0


@pytest.mark.parametrize("to", [0.0, 1.0])
def test_a_sweep_makes_no_noise_of_its_own(tmp_path: Path, to: float) -> None:
    """A tone that is let through while the filter moves stays a tone: nothing appears elsewhere."""
    tone = 0.2 * np.sin(2 * np.pi * (60.0 if to == 0.0 else 15_000.0) * np.arange(60 * RATE) / RATE)
    deck = flat(Deck(*(written(tmp_path, n, np.repeat(tone[:, None], 2, axis=1), 120.0) for n in "ab")))
    shape(deck, Side.OUTGOING, Control.FILTER, Curve.of((0.0, 0.5), (1.0, to)))
    start, end = overlap(deck)
    heard = deck.render(start, round(start + 0.8 * (end - start)), 0)
    assert level_db(heard) > -30.0
    assert level_db(band(heard, 900.0, 5000.0)[RATE:-RATE]) < -95.0


def test_where_the_filter_is_neutral_the_sound_passes_bit_exact(noises: Deck) -> None:
    start, end = overlap(noises)
    middle = (start + end) // 2
    deck = shape(another(noises), Side.OUTGOING, Control.FILTER, Curve.of((0.0, 0.5), (0.6, 0.5), (1.0, 0.0)))
    assert np.array_equal(deck.render(start, middle, 0), noises.render(start, middle, 0))
    assert not np.array_equal(deck.render(middle, end, 0), noises.render(middle, end, 0))


@pytest.fixture(scope="module")
def ramp(tmp_path_factory: pytest.TempPathFactory) -> Deck:
    """Clicks on every fourth beat, sent to an echo through a ramp from 120 to 132; the incoming is silent."""
    folder = tmp_path_factory.mktemp("ramp")
    silence = np.zeros((60 * RATE, 2))
    deck = flat(Deck(written(folder, "clicks", clicks(120.0, 4), 120.0), written(folder, "none", silence, 132.0)))
    deck.do(c.SetEffects(echo_beats=0.75, echo_feedback=0.5, echo_damping=0.2, **pair(deck)))
    return shape(deck, Side.OUTGOING, Control.ECHO, Curve.of((0.0, 0.0), (0.05, 1.0), (1.0, 1.0)))


def peak_s(sound: np.ndarray, start: int, near_s: float) -> float:
    """Where the energy of a click near a moment lies, to less than a sample."""
    at = round(near_s * RATE) - start
    piece = mono(sound)[at - 1500 : at + 1500] ** 2
    return (start + at - 1500 + float(np.sum(np.arange(3000) * piece) / np.sum(piece))) / RATE


def test_the_echo_repeats_on_the_beat_through_a_ramp(ramp: Deck) -> None:
    plan = ramp.plan
    start, end = overlap(ramp)
    heard = ramp.render(start, end)
    first = peak_s(heard, start, float(plan.tempo.time_at(72.0)))
    late_s = first - float(plan.tempo.time_at(72.0))
    levels = []
    for k in range(1, 5):
        due = float(plan.tempo.time_at(72.0 + 0.75 * k))
        assert abs(peak_s(heard, start, due) - late_s - due) < 1e-3
        at = round(due * RATE) - start
        levels.append(level_db(heard[at - 1500 : at + 1500]))
    assert np.diff(levels) == pytest.approx([-6.0] * 3, abs=1.0)


def test_tails_ring_on_under_the_other_track_and_then_end(ramp: Deck) -> None:
    _, end = overlap(ramp)
    after = ramp.render(end, end + 12 * RATE)
    assert level_db(after[:RATE]) > -80.0
    tail = ramp.plan.entries[0].part.automations[0].tail_s
    assert 1.0 < tail < 8.1
    assert not after[round((tail + 0.2) * RATE) :].any()


def test_a_reverb_falls_by_sixty_db_in_its_length_and_ends(tmp_path: Path) -> None:
    silence = np.zeros((60 * RATE, 2))
    deck = Deck(written(tmp_path, "noise", steady(), 120.0), written(tmp_path, "none", silence, 120.0))
    deck.shaped(ReadyShape.CLEAN_CUT, out_at=64.0, in_at=8.0)
    deck.do(c.PlaceTransition(lead=8.0, **pair(deck)))
    deck.do(c.SetEffects(reverb_s=2.0, reverb_colour=1.0, **pair(deck)))
    shape(deck, Side.OUTGOING, Control.REVERB, Curve.of((0.0, 0.0), (0.1, 0.5), (1.0, 0.5)))
    cut = overlap(deck)[0]
    tail = deck.render(cut, cut + 4 * RATE)
    tenth = RATE // 10
    levels = [level_db(tail[n * tenth : (n + 1) * tenth]) for n in range(2, 15)]
    slope = np.polyfit(np.arange(len(levels)) / 10.0, levels, 1)[0]
    assert slope == pytest.approx(-30.0, abs=3.0)
    assert not tail[round(2.05 * RATE) :].any()
    left, right = tail[:RATE, 0], tail[:RATE, 1]
    assert abs(np.corrcoef(left, right)[0, 1]) < 0.2


@pytest.mark.parametrize("side", [GapSide.OUTGOING, GapSide.INCOMING, GapSide.BOTH])
def test_a_gap_leaves_out_its_beats_and_no_others(noises: Deck, side: GapSide) -> None:
    gap = c.SetGap(beats=2.0, before=GapBefore.END, side=side, rings=False, **pair(noises))
    deck = another(noises).do(gap)
    _, end = overlap(deck)
    begin = end - RATE
    for which, own in ((0, GapSide.OUTGOING), (1, GapSide.INCOMING)):
        heard, before = (d.render(begin - RATE, end + RATE, which) for d in (deck, noises))
        inside = slice(RATE, 2 * RATE - 200)
        if side in (own, GapSide.BOTH):
            assert level_db(heard[inside]) < -90.0
            assert np.array_equal(heard[2 * RATE :], before[2 * RATE :])
        else:
            assert np.array_equal(heard, before)
        assert np.array_equal(heard[: RATE - 200], before[: RATE - 200])


def test_what_was_sent_rings_through_a_gap_or_not(noises: Deck) -> None:
    _, end = overlap(noises)
    heard = {}
    for rings in (True, False):
        outgoing = GapSide.OUTGOING
        gap = c.SetGap(beats=4.0, before=GapBefore.END, side=outgoing, rings=rings, **pair(noises))
        deck = another(noises).do(gap)
        shape(deck, Side.OUTGOING, Control.REVERB, Curve.of((0.0, 0.0), (0.5, 0.7), (1.0, 0.7)))
        heard[rings] = deck.render(end - 2 * RATE, end - 200, 0)
    assert level_db(heard[True][: RATE // 2]) > -45.0
    assert level_db(heard[False]) < -90.0


def test_a_gap_before_the_hand_over_ends_where_the_bass_changes_hands(noises: Deck) -> None:
    deck = another(noises).shaped(ReadyShape.BASS)
    deck.do(c.SetGap(beats=1.0, **pair(deck)))
    swap_s = float(deck.plan.tempo.time_at(64.0 + 16.0))
    at = round(swap_s * RATE)
    assert level_db(deck.render(at - RATE // 2, at - 200)) < -90.0
    assert level_db(deck.render(at, at + 4000)) > -40.0


def test_a_step_steps_before_its_point_without_a_click(noises: Deck) -> None:
    deck = shape(
        another(noises),
        Side.OUTGOING,
        Control.VOLUME,
        Curve.of((0.0, 1.0, Onward.STEP), (0.5, 0.5, Onward.SMOOTH), (1.0, 0.0)),
    )
    start, end = overlap(deck)
    at = (start + end) // 2
    full, heard = (d.render(at - RATE, at + RATE, 0) for d in (noises, deck))
    assert np.array_equal(heard[: RATE - 300], full[: RATE - 300])
    ratio = level_db(heard[RATE : RATE + 4000]) - level_db(full[RATE : RATE + 4000])
    assert ratio == pytest.approx(-3.0, abs=0.1)


@pytest.fixture(scope="module")
def everything(first: Made, second: Made) -> Deck:
    """A blend in a ramp with all that there is."""
    deck = Deck(first, second).shaped(ReadyShape.FILTER_SWEEP, beats=32.0)
    deck.do(c.SetTempoPolicy(tempo=TempoPolicy.RAMP, **pair(deck)))
    deck.do(c.SetGap(beats=0.5, **pair(deck)))
    sends = Curve.of((0.0, 0.0), (0.3, 0.7, Onward.SMOOTH), (0.6, 0.2, Onward.STEP), (1.0, 0.8))
    shape(deck, Side.OUTGOING, Control.ECHO, sends)
    shape(deck, Side.OUTGOING, Control.REVERB, sends)
    shape(deck, Side.INCOMING, Control.ECHO, Curve.of((0.0, 0.5), (0.5, 0.0), (1.0, 0.0)))
    shape(deck, Side.OUTGOING, Control.WIDTH, Curve.of((0.0, 0.0), (0.5, 0.4, Onward.SMOOTH), (1.0, 0.9)))
    shape(deck, Side.INCOMING, Control.WIDTH, Curve.of((0.0, 0.6), (0.4, 0.0), (1.0, 0.0)))
    return shape(deck, Side.INCOMING, Control.REVERB, Curve.of((0.0, 0.9), (0.9, 0.1), (1.0, 0.0)))


def test_a_preview_is_the_file_wherever_it_begins_with_everything_on(everything: Deck) -> None:
    start, end = overlap(everything)
    whole_from = start - 2 * RATE
    whole = everything.render(whole_from, end + 10 * RATE)
    rng = np.random.default_rng(3)
    edges = [start - 1, start, end - 1, end, end + BLOCK]
    for at in [*edges, *rng.integers(start - RATE, end + 8 * RATE, 20)]:
        piece = everything.render(int(at), int(at) + 3000)
        assert np.array_equal(piece, whole[at - whole_from : at - whole_from + 3000]), at


def test_what_was_sent_is_not_made_again_and_sounds_the_same(everything: Deck, monkeypatch: pytest.MonkeyPatch) -> None:
    start, _ = overlap(everything)
    at, end = start + 4 * RATE, start + 6 * RATE
    fresh = everything.render(at, end)
    kept = KeptBlocks(1 << 30)
    made: list[int] = []
    is_kept = False
    chain = Chain.__call__

    def noted(self: Chain, number: int) -> np.ndarray:
        made.append(number)
        return chain(self, number)

    monkeypatch.setattr(Chain, "__call__", noted)
    for begin in (at, at, at + RATE):
        made.clear()
        heard = np.concatenate(list(render(everything.plan, everything.paths, begin, end, kept=kept)))
        assert np.array_equal(heard, fresh[begin - at :])
        assert bool(made) != is_kept
        is_kept = True
