"""Layers over a mix, listened to with code: on the beat, through ramps, by themselves, the same from wherever."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from fernbrook.core.mix import commands as c
from fernbrook.core.mix.curves import Control, Curve
from fernbrook.core.mix.layers import Edge, Layer, Made, MadeSound, OfTrack, OnEntry, OnMix, OnTransition
from fernbrook.core.mix.transitions import Effects, ReadyShape, SideCurves
from fernbrook.core.plan import RATE, stem_key
from fernbrook.core.track import KEPT, Stem
from fernbrook.render.renderer import Listen, render
from tests.listen import band, level_db, mono
from tests.render.test_effects import Played, clicks, steady, written
from tests.render.test_render import Deck
from tests.render.test_stems import apart

PAIR = {"out_id": "e1", "in_id": "e2"}
SILENT = np.zeros((60 * RATE, 2))


def span(track: Played, *, at: float = 40.0, start: float = 16.0, beats: float = 8.0, **more: object) -> Layer:
    """A layer of a track on a beat of the mix."""
    sound = OfTrack(track_id=track.facts.id, start=start, beats=beats)
    return Layer.model_validate({"id": "l1", "sound": sound, "at": OnMix(beat=at), **more})


def made(sound: MadeSound, *, at: float = 48.0, beats: float = 8.0) -> Layer:
    return Layer(id="l1", sound=Made(sound=sound, beats=beats), at=OnEntry(entry_id="e1", beat=at))


def laid(*over: Layer, tracks: tuple[Played, ...], of: tuple[Played, ...] = ()) -> Deck:
    """A mix of tracks with layers of others over it."""
    deck = Deck(*tracks)
    deck.tracks |= {t.facts.id: t.facts for t in of}
    deck.paths = {**deck.paths, **{t.facts.id: t.path for t in of}}
    return deck.do(c.PutLayers(layers=over))


def alone(deck: Deck, start: int = 0, end: int | None = None, owner: str = "l1") -> np.ndarray:
    """What is heard of a layer by itself."""
    blocks = list(render(deck.plan, deck.paths, start, end, Listen(frozenset({owner}))))
    return np.concatenate(blocks)


def second(deck: Deck, beat: float) -> float:
    return float(deck.plan.tempo.time_at(beat))


@pytest.fixture(scope="module")
def quiet(tmp_path_factory: pytest.TempPathFactory) -> tuple[Played, Played]:
    """Two tracks, of 120 and 126 BPM, in which nothing is heard."""
    folder = tmp_path_factory.mktemp("quiet")
    return written(folder, "a", SILENT, 120.0), written(folder, "b", SILENT, 126.0)


def test_attacks_lie_on_the_beats_of_a_ramp(quiet: tuple[Played, Played], tmp_path: Path) -> None:
    hits = written(tmp_path, "hits", clicks(93.0, 1), 93.0)
    deck = Deck(*quiet).shaped(ReadyShape.EVEN_BLEND, out_at=40.0, in_at=0.0, beats=32.0)
    deck.tracks |= {"hits": hits.facts}
    deck.paths = {**deck.paths, "hits": hits.path}
    deck.do(c.PutLayers(layers=(span(hits, at=44.0, beats=8.0, times=3),)))
    sound = mono(alone(deck))
    for beat in range(44, 44 + 24):
        at = round(second(deck, beat) * RATE)
        near = np.abs(sound[at - 1500 : at + 1500])
        assert near.max() > 0.05, beat
        assert abs(int(np.argmax(near > 0.3 * near.max())) - 1500) < 0.001 * RATE, beat


def test_a_layer_at_its_own_speed_is_its_source_to_the_sample(quiet: tuple[Played, Played], tmp_path: Path) -> None:
    noise = steady(seed=5)
    track = written(tmp_path, "n", noise, 120.0)
    deck = laid(span(track), tracks=quiet[:1], of=(track,))
    sound, first = alone(deck), round(second(deck, 40.0) * RATE)
    source = noise.astype(np.float32)[8 * RATE :]
    assert np.array_equal(sound[first : first + 4 * RATE - 200], source[: 4 * RATE - 200])
    assert not sound[: first - 200].any()
    assert not sound[first + 4 * RATE :].any()


def test_it_is_the_same_from_wherever_and_beside_what_it_lies_over(tmp_path: Path) -> None:
    track, other = (written(tmp_path, n, steady(seed=s), b) for n, s, b in (("t", 3, 120.0), ("o", 4, 111.0)))
    curves = SideCurves.of(low=Curve.of((0.0, 0.0), (1.0, 1.0)), echo=Curve.of((0.0, 0.4), (1.0, 0.4)))
    deck = laid(span(other, times=2, apart=20.0, curves=curves, key_shift=2), tracks=(track,), of=(other,))
    whole = deck.render()
    for at in (second(deck, 38.0), second(deck, 51.3), second(deck, 63.0)):
        begin = round(at * RATE)
        assert np.array_equal(deck.render(begin, begin + RATE), whole[begin : begin + RATE])
    apart_sum = mono(alone(deck)) + mono(deck.render(only=0))
    assert np.abs(apart_sum - mono(whole)).max() < 1e-6


def test_repeats_follow_each_other_or_lie_apart_and_edges_fade(quiet: tuple[Played, Played], tmp_path: Path) -> None:
    noise = written(tmp_path, "n", steady(seed=5), 120.0)
    twice = laid(span(noise, beats=4.0, times=2, apart=12.0), tracks=quiet[:1], of=(noise,))
    loud = [
        level_db(alone(twice, round(second(twice, b) * RATE) + 500, round(second(twice, b + 1) * RATE) - 500))
        for b in (40.0, 43.0, 44.0, 51.0, 52.0, 55.0, 56.0)
    ]
    assert all(db > -25 for db in (loud[0], loud[1], loud[4], loud[5]))
    assert all(db < -100 for db in (loud[2], loud[3], loud[6]))
    looped = laid(span(noise, beats=4.0, times=4, fade_in=4.0, fade_out=8.0), tracks=quiet[:1], of=(noise,))
    levels = [
        level_db(alone(looped, round(second(looped, b) * RATE), round(second(looped, b + 1) * RATE)))
        for b in range(40, 56)
    ]
    assert levels[0] < levels[1] < levels[2] < levels[3]
    assert np.ptp(levels[4:8]) < 0.5
    assert levels[8] > levels[11] > levels[13] > levels[15]


def test_curves_run_over_all_of_it_pauses_included(quiet: tuple[Played, Played], tmp_path: Path) -> None:
    noise = written(tmp_path, "n", steady(seed=5), 120.0)
    opens = SideCurves.of(volume=Curve.of((0.0, 0.0), (1.0, 1.0)))
    deck = laid(span(noise, beats=4.0, times=2, apart=12.0, curves=opens), tracks=quiet[:1], of=(noise,))
    first, last = (
        level_db(alone(deck, round(second(deck, b) * RATE), round(second(deck, b + 1) * RATE))) for b in (43.0, 52.0)
    )
    assert first < last - 6.0


def test_one_stem_is_heard_alone(quiet: tuple[Played, Played], tmp_path: Path) -> None:
    whole = apart(tmp_path, "s", 40)
    stems = {stem_key("s", k): whole.path.with_name(f"s.{k.value}.flac") for k in KEPT}
    deck = Deck(quiet[0])
    deck.tracks |= {"s": whole.facts}
    deck.paths = {**deck.paths, "s": whole.path, **stems}
    for stem in (Stem.VOICE, Stem.MUSIC):
        sound = OfTrack(track_id="s", start=16.0, beats=8.0, stem=stem)
        deck.do(c.PutLayers(layers=(Layer(id="l1", sound=sound, at=OnMix(beat=40.0)),)))
        first = round(second(deck, 40.0) * RATE)
        heard = alone(deck, first, first + 3 * RATE)
        assert np.abs(heard - whole.stems[stem][8 * RATE : 11 * RATE]).max() < 2e-6, stem


def test_what_has_no_grid_plays_at_its_own_speed(quiet: tuple[Played, Played], tmp_path: Path) -> None:
    noise = steady(seed=8, seconds=10.0)
    bell = written(tmp_path, "bell", noise, 77.0)
    bell = Played(bell.facts.model_copy(update={"grid": None}), bell.path)
    deck = laid(span(bell, start=0.0, at=41.0), tracks=(quiet[1],), of=(bell,))
    first = round(second(deck, 41.0) * RATE)
    heard = alone(deck, first, first + RATE)
    assert min(np.abs(heard - noise[k : k + RATE]).max() for k in (0, 1)) < 1e-6


LEADS_UP = {MadeSound.SWEEP: 22.0, MadeSound.RISE: 9.0, MadeSound.REVERSED: 9.0}
"""By how many dB each rises from its first second to its last."""


@pytest.mark.parametrize("sound", list(LEADS_UP))
def test_what_leads_up_swells_and_ends_on_the_drop(quiet: tuple[Played, Played], sound: MadeSound) -> None:
    deck = laid(made(sound), tracks=quiet[:1])
    heard, drop = alone(deck), round(second(deck, 48.0) * RATE)
    levels = [level_db(heard[drop + k * RATE : drop + (k + 1) * RATE]) for k in range(-4, 0)]
    assert levels == sorted(levels)
    assert levels[-1] - levels[0] > LEADS_UP[sound]
    assert not heard[drop:].any()
    assert not heard[: drop - 4 * RATE - 200].any()
    assert np.abs(heard[drop - 1000 : drop - 200]).max() > 0.1


def test_a_sweep_opens_and_a_rise_climbs(quiet: tuple[Played, Played]) -> None:
    sweep = mono(alone(laid(made(MadeSound.SWEEP), tracks=quiet[:1])))
    drop = 24 * RATE
    early, late = sweep[drop - 4 * RATE : drop - 3 * RATE], sweep[drop - RATE : drop]
    share = [level_db(band(x, 6000.0, 12000.0)) - level_db(x) for x in (early, late)]
    assert share[1] - share[0] > 15.0
    rise = mono(alone(laid(made(MadeSound.RISE), tracks=quiet[:1])))
    pitch = [
        np.argmax(np.abs(np.fft.rfft(rise[n : n + RATE // 4] * np.hanning(RATE // 4)))) * 4.0
        for n in (drop - 3 * RATE, drop - 2 * RATE, drop - RATE)
    ]
    assert pitch[0] < 0.7 * pitch[1] < 0.5 * pitch[2]


def test_a_made_sound_that_is_heard_twice_begins_anew(quiet: tuple[Played, Played]) -> None:
    once, twice = (laid(made(MadeSound.SWEEP).model_copy(update={"times": n}), tracks=quiet[:1]) for n in (1, 2))
    one, two = alone(once), alone(twice)
    drop, length = 24 * RATE, 4 * RATE
    assert np.array_equal(two[drop - length : drop - 300], one[drop - length : drop - 300])
    assert np.array_equal(two[drop - 2 * length : drop - length - 300], one[drop - length : drop - 300])
    hush = made(MadeSound.HUSH, beats=4.0).model_copy(update={"times": 2, "apart": 8.0})
    noise_gaps = laid(hush, tracks=quiet[:1]).plan.parts[0].silences
    assert [(s.start_s, s.end_s) for s in noise_gaps] == [(18.0, 20.0), (22.0, 24.0)]


def test_a_sub_drop_falls_from_its_place(quiet: tuple[Played, Played]) -> None:
    heard, drop = mono(alone(laid(made(MadeSound.SUB_DROP), tracks=quiet[:1]))), 24 * RATE
    assert not heard[: drop - 200].any()
    assert level_db(heard[drop : drop + RATE]) > level_db(heard[drop + 2 * RATE : drop + 3 * RATE]) + 6.0
    assert level_db(band(heard[drop : drop + 3 * RATE], 200.0, 5000.0)) < level_db(heard[drop : drop + 3 * RATE]) - 30


def test_a_roll_strikes_with_the_drum_that_it_leads_to(tmp_path: Path) -> None:
    sound = np.zeros((60 * RATE, 2))
    t = np.arange(4000) / RATE
    sound[24 * RATE : 24 * RATE + 4000] = (0.5 * np.exp(-t * 300) * np.sin(2 * np.pi * 700 * t))[:, None]
    struck = written(tmp_path, "drum", sound, 120.0)
    heard = mono(alone(laid(made(MadeSound.ROLL, beats=4.0), tracks=(struck,))))
    start = 22 * RATE
    on = [n for n in range(64) if np.abs(heard[start + n * RATE // 32 : start + n * RATE // 32 + 600]).max() > 0.05]
    hits = [n for n in on if n - 1 not in on or n >= 48]
    assert hits[:5] == [0, 8, 16, 24, 32]
    assert {36, 40, 44, 48, 50, 52, 54, 56, 58, 60, 62} <= set(on)
    assert not heard[24 * RATE :].any()


def test_a_silence_leaves_a_tail_and_ends_on_the_beat(tmp_path: Path) -> None:
    noise = written(tmp_path, "n", steady(seed=5), 120.0)
    hush = made(MadeSound.HUSH, beats=4.0).model_copy(update={"effects": Effects(reverb_s=1.5)})
    deck, plain = laid(hush, tracks=(noise,)), Deck(noise)
    heard, before = deck.render(), plain.render()
    begin, drop = 22 * RATE, 24 * RATE
    assert np.array_equal(heard[drop : drop + RATE // 2] != 0, before[drop : drop + RATE // 2] != 0)
    assert level_db(heard[begin : begin + RATE // 4]) > -45.0
    assert level_db(heard[drop - RATE // 4 : drop - 300]) < level_db(heard[begin : begin + RATE // 4]) - 12.0
    assert np.array_equal(heard[drop + 4 * RATE :], before[drop + 4 * RATE :])
    assert np.array_equal(deck.render(begin + 5000, begin + 9000), heard[begin + 5000 : begin + 9000])


@pytest.mark.parametrize(("edge", "beat"), [(Edge.START, 40.0), (Edge.MIDDLE, 56.0), (Edge.END, 72.0)])
def test_what_is_tied_to_a_transition_moves_along(quiet: tuple[Played, Played], edge: Edge, beat: float) -> None:
    deck = Deck(*quiet).shaped(ReadyShape.EVEN_BLEND, out_at=40.0, in_at=0.0, beats=32.0)
    layer = Layer(id="l1", sound=Made(sound=MadeSound.SUB_DROP, beats=4.0), at=OnTransition(edge=edge, **PAIR))
    deck.do(c.PutLayers(layers=(layer,)))
    assert deck.plan.layers[0].start_beat == pytest.approx(beat)
    deck.do(c.PlaceTransition(out_at=48.0, **PAIR))
    assert deck.plan.layers[0].start_beat == pytest.approx(beat + 8.0)
    heard = alone(deck)
    first = round(deck.plan.layers[0].start_s * RATE)
    assert np.argmax(np.abs(heard[:, 0]) > 0.02) in range(first - 200, first + 900)


def test_a_layer_s_fader_is_its_own(quiet: tuple[Played, Played], tmp_path: Path) -> None:
    noise = written(tmp_path, "n", steady(seed=5), 120.0)
    falls = SideCurves({Control.VOLUME: Curve.of((0.0, 1.0), (0.5, 1.0), (0.75, 0.0), (1.0, 0.0))})
    deck = laid(span(noise, curves=falls, gain_db=-6.0), tracks=quiet[:1], of=(noise,))
    at = round(second(deck, 40.0) * RATE)
    assert level_db(alone(deck, at, at + RATE)) == pytest.approx(-26.0, abs=0.2)
    assert level_db(alone(deck, at + 3 * RATE + 100, at + 4 * RATE)) < -100
