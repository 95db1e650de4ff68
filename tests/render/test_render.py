"""Renders, listened to with code."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import Protocol

import numpy as np
import pytest

from fernbrook.core.mix import commands as c
from fernbrook.core.mix.model import Mix
from fernbrook.core.mix.transitions import ReadyShape, TempoPolicy
from fernbrook.core.plan import RATE, Mode, Plan, plan
from fernbrook.core.track import TrackFacts
from fernbrook.errors import AudioFileError
from fernbrook.render.blocks import BLOCK
from fernbrook.render.renderer import Listen, render
from tests.conftest import Made
from tests.listen import band, click, level_db, mono, offset_ms


class Playable(Protocol):
    """A file, and what the rules know of it."""

    @property
    def facts(self) -> TrackFacts: ...

    @property
    def path(self) -> Path: ...


class Deck:
    """A mix of made tracks, changed by commands and rendered."""

    def __init__(self, *made: Playable) -> None:
        self.tracks = {m.facts.id: m.facts for m in made}
        self.paths: Mapping[str, Path] = {m.facts.id: m.path for m in made}
        self.mix = Mix(name="m", target_lufs=None)
        self.do(c.AddTracks(track_ids=tuple(m.facts.id for m in made)))

    def do(self, command: c.AnyMixCommand) -> Deck:
        self.mix = c.apply(self.mix, command, self.tracks)
        return self

    def shaped(self, name: ReadyShape, index: int = 0, **place: float) -> Deck:
        pair = {"out_id": self.mix.entries[index].id, "in_id": self.mix.entries[index + 1].id}
        self.do(c.ApplyShape(shape=name, **pair))
        return self.do(c.PlaceTransition(**place, **pair)) if place else self

    @property
    def plan(self) -> Plan:
        return plan(self.mix, self.tracks)

    def render(self, start: int = 0, end: int | None = None, only: int | None = None) -> np.ndarray:
        listen = Listen(None if only is None else frozenset({self.mix.entries[only].id}))
        return np.concatenate(list(render(self.plan, self.paths, start, end, listen)))


@pytest.fixture(scope="module")
def blend(first: Made, second: Made) -> Deck:
    """120 into 126 BPM over 8 bars, an even blend with a ramp."""
    return Deck(first, second).shaped(ReadyShape.EVEN_BLEND, beats=32.0)


@pytest.fixture(scope="module")
def blend_sound(blend: Deck) -> np.ndarray:
    return blend.render()


def test_length_is_the_plan_s(blend: Deck, blend_sound: np.ndarray) -> None:
    assert len(blend_sound) == blend.plan.frames


def test_what_is_not_changed_passes_bit_exact(blend: Deck, blend_sound: np.ndarray, first: Made, second: Made) -> None:
    resolved = blend.plan
    before = round(resolved.transitions[0].start_s * RATE) - 600
    assert np.array_equal(blend_sound[:before], first.sound()[:before])
    after = resolved.frames - round(resolved.transitions[0].end_s * RATE) - 1
    tail = second.sound()
    lead = len(tail) - after
    assert np.array_equal(blend_sound[-after:], tail[lead:])


@pytest.mark.parametrize("policy", list(TempoPolicy))
@pytest.mark.parametrize("only", [0, 1])
def test_beats_sound_where_they_are_expected(
    blend: Deck, policy: TempoPolicy, only: int, first: Made, second: Made
) -> None:
    """Mean error at most 1 ms, none above 3 ms, whatever the tempo does over the overlap."""
    entries = blend.mix.entries
    deck = Deck(first, second)
    deck.mix = c.apply(
        blend.mix, c.SetTempoPolicy(tempo=policy, out_id=entries[0].id, in_id=entries[1].id), deck.tracks
    )
    resolved = deck.plan
    t, entry = resolved.transitions[0], resolved.entries[only]
    source = mono((first, second)[only].sound())
    begin = round(t.start_s * RATE) - RATE
    heard = mono(deck.render(begin, round(t.end_s * RATE) + RATE, only))
    beats = np.arange(np.ceil(t.start_beat) + 8, np.floor(t.end_beat) - 8)
    errors = [
        offset_ms(source, float(entry.played.time_at(b - entry.offset)), heard, float(at) - begin / RATE)
        for b, at in zip(beats, resolved.tempo.time_at(beats), strict=True)
    ]
    assert np.mean(np.abs(errors)) <= 1.0
    assert np.max(np.abs(errors)) <= 3.0


def test_preview_from_anywhere_is_the_file(blend: Deck, blend_sound: np.ndarray) -> None:
    t = blend.plan.transitions[0]
    inside = round((t.start_s + t.end_s) / 2 * RATE)
    edge = round(t.start_s * RATE) - 9
    for start, length in ((0, 1000), (BLOCK * 3 - 7, 4 * BLOCK), (edge, 9 * BLOCK), (inside, BLOCK)):
        heard = blend.render(start, start + length)
        assert np.array_equal(heard, blend_sound[start : start + length]), start


def test_bass_hand_over_has_one_bass_at_a_time(first: Made, second: Made) -> None:
    deck = Deck(first, second).shaped(ReadyShape.BASS, beats=32.0)
    t = deck.plan.transitions[0]
    start, middle, end = (round(s * RATE) for s in (t.start_s, (t.start_s + t.end_s) / 2, t.end_s))
    out, into = (band(deck.render(start, end, only), 30, 120) for only in (0, 1))
    swap, beat = middle - start, RATE // 2
    assert level_db(into[beat : swap - beat]) < level_db(out[beat : swap - beat]) - 40
    assert level_db(out[swap + beat : -beat]) < level_db(into[swap + beat : -beat]) - 40


def test_nothing_clicks_at_the_edges(blend: Deck, blend_sound: np.ndarray, first: Made, second: Made) -> None:
    """The signal jumps no more around the edges of the overlap than the tracks do by themselves."""
    usual = max(click(first.sound()).max(), click(second.sound()).max())
    for deck, sound in ((blend, blend_sound), _with_sound(Deck(first, second).shaped(ReadyShape.CLEAN_CUT))):
        t = deck.plan.transitions[0]
        for edge in (t.start_s, t.end_s):
            at = round(edge * RATE)
            assert click(sound[at - 3000 : at + 3000]).max() <= usual * 1.05


def _with_sound(deck: Deck) -> tuple[Deck, np.ndarray]:
    return deck, deck.render()


def test_a_cut_switches_on_the_beat(first: Made, second: Made) -> None:
    deck = Deck(first, second).shaped(ReadyShape.CLEAN_CUT)
    at = round(deck.plan.transitions[0].start_s * RATE)
    sound, outgoing = deck.render(), deck.render(only=0)
    assert np.array_equal(sound[: at - 400], outgoing[: at - 400])
    assert not outgoing[at:].any()
    assert level_db(sound[at : at + 2000]) > -30


def test_without_key_lock_pitch_and_tempo_go_together(first: Made, second: Made) -> None:
    deck = Deck(first, second)
    deck.do(c.SetHomeTempo(entry_id=deck.mix.entries[0].id, bpm=126.0))
    deck.do(c.SetKeyLock(entry_id=deck.mix.entries[0].id, key_lock=False))
    entry = deck.plan.entries[0]
    assert entry.segments[0].mode is Mode.RESAMPLE
    t0, t1 = 20.0, 24.0
    source_t0 = float(entry.time_map.source_at(np.asarray(t0)))
    heard = mono(deck.render(round(t0 * RATE), round(t1 * RATE), 0))
    source = mono(first.sound())[round(source_t0 * RATE) : round((source_t0 + 4.2) * RATE)]
    stretched = np.interp(np.arange(len(heard)) * 1.05, np.arange(len(source)), source)
    low = band(np.stack([heard, stretched], axis=1), 40, 1500)
    assert np.corrcoef(low.T)[0, 1] > 0.98


def test_a_set_tempo_is_kept_with_the_pitch(first: Made) -> None:
    """Four bars at 126 instead of 120 BPM last 5 % less, and each beat sits where it should."""
    deck = Deck(first)
    deck.do(c.SetHomeTempo(entry_id=deck.mix.entries[0].id, bpm=126.0))
    resolved = deck.plan
    source, heard = mono(first.sound()), mono(deck.render())
    errors = [
        offset_ms(source, float(first.truth.grid.time_at(b)), heard, float(resolved.tempo.time_at(b)))
        for b in range(4, 100)
    ]
    assert np.mean(np.abs(errors)) <= 1.0
    assert np.max(np.abs(errors)) <= 3.0


def test_a_wandering_player_is_heard_at_a_steady_tempo(wandering: Made) -> None:
    deck = Deck(wandering)
    resolved = deck.plan
    source, heard = mono(wandering.sound()), mono(deck.render())
    beats = np.arange(8, 100)
    steady = resolved.tempo.time_at(beats)
    assert np.ptp(np.diff(steady)) < 1e-9
    errors = [
        offset_ms(source, float(wandering.truth.grid.time_at(b)), heard, float(at))
        for b, at in zip(beats, steady, strict=True)
    ]
    assert np.mean(np.abs(errors)) <= 1.0
    assert np.max(np.abs(errors)) <= 3.0


def test_another_sample_rate_stays_in_time(other_rate: Made) -> None:
    deck = Deck(other_rate)
    heard = mono(deck.render())
    kick = band(heard[:, None], 40, 150)[:, 0]
    for bar in (1, 4, 7):
        at = round(float(other_rate.truth.grid.time_at(bar * 4)) * RATE)
        assert level_db(kick[at + 200 : at + 3000]) > level_db(kick[at - 3000 : at - 500]) + 6


def test_gain_is_applied_as_set(first: Made) -> None:
    deck = Deck(first)
    deck.do(c.SetGain(entry_id=deck.mix.entries[0].id, gain_db=-6.0))
    expected = first.sound()[: 2 * RATE].astype(np.float64) * 10 ** (-6 / 20)
    assert np.allclose(deck.render(0, 2 * RATE), expected, atol=1e-7)


def test_a_file_that_vanishes_is_told_with_its_name(first: Made, tmp_path: Path) -> None:
    deck = Deck(first)
    deck.paths = {first.facts.id: tmp_path / "lost.wav"}
    with pytest.raises(AudioFileError, match=f"‘{first.song.title}’ cannot be opened"):
        deck.render(0, 1000)
