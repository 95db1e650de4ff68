"""Edits of an entry, listened to with code: joins that are not heard, beats on the beat, the same from wherever."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from fernbrook.audio.sources.splice import compared, shares
from fernbrook.core.mix import commands as c
from fernbrook.core.plan import RATE
from fernbrook.core.track import DropOut, Edit, Repeat, Skip, Swap
from tests.conftest import Made
from tests.listen import level_db, mono
from tests.render.test_effects import clicks, steady, written
from tests.render.test_render import Deck, Playable
from tests.tones import chord, partials, stereo

SKIP = Skip(id="s", start=32.0, end=44.0)
THRICE = Repeat(id="r", start=64.0, end=68.0, times=3)
SWAP = Swap(id="w", start=80.0, end=84.0, other_start=88.0, other_end=96.0)


def edited_mix(one: Playable, *edits: Edit, bpm: float | None = None, two: Playable | None = None) -> Deck:
    """A mix of one track, or of two, whose first is edited."""
    deck = Deck(*(p for p in (one, two) if p is not None))
    if bpm is not None:
        deck.do(c.SetHomeTempo(entry_id="e1", bpm=bpm))
    return deck.do(c.PutEdits(entry_id="e1", edits=edits)) if edits else deck


def sample(deck: Deck, beat: float) -> int:
    """The sample of a beat of the mix."""
    return round(float(deck.plan.tempo.time_at(beat)) * RATE)


def test_what_is_heard_is_the_source_to_the_sample_and_closes_up(tmp_path: Path) -> None:
    noise = written(tmp_path, "noise", steady(), 120.0)
    edited, whole = edited_mix(noise, SKIP, THRICE), edited_mix(noise)
    sound, source = edited.render(), whole.render()
    per_beat = RATE // 2
    for at, of in ((0.0, 0.0), (32.0, 44.0), (52.0, 64.0), (56.0, 64.0), (60.0, 64.0), (64.0, 68.0)):
        begin, there = sample(edited, at), round(of * per_beat)
        assert np.array_equal(sound[begin : begin + 3 * per_beat], source[there : there + 3 * per_beat]), at
    assert len(source) - len(sound) == (12 - 8) * per_beat


@pytest.mark.parametrize("bpm", [None, 126.0], ids=["copied", "stretched"])
def test_beats_lie_on_the_beat_after_every_edit(tmp_path: Path, bpm: float | None) -> None:
    one = written(tmp_path, "clicks", clicks(120.0, 1), 120.0)
    edited = edited_mix(one, SKIP, THRICE, SWAP, bpm=bpm)
    sound = mono(edited.render())
    for beat in range(2, 90):
        at = sample(edited, beat)
        near = np.abs(sound[at - 2000 : at + 2000])
        first = int(np.argmax(near > 0.3 * near.max())) - 2000
        assert abs(first) < 0.002 * RATE, beat


@pytest.mark.parametrize("bpm", [None, 126.0], ids=["copied", "stretched"])
def test_a_sustained_chord_goes_on_through_a_join(tmp_path: Path, bpm: float | None) -> None:
    held = partials(chord(110.0, 5), 60.0, level=0.3)
    one = written(tmp_path, "chord", held, 121.7)
    edited, whole = edited_mix(one, SKIP, THRICE, bpm=bpm), edited_mix(one, bpm=bpm)
    source = mono(whole.render())
    steepest = np.abs(np.diff(source, 2)).max()
    beside = whole.render(RATE * 5, RATE * 40)
    frames = np.sqrt(np.convolve(mono(beside) ** 2, np.ones(1024) / 1024, mode="valid"))
    for join in (32.0, 56.0, 60.0):
        at = sample(edited, join)
        near = mono(edited.render(at - 4096, at + 4096))
        assert np.abs(np.diff(near, 2)).max() < 1.3 * steepest, join
        envelope = np.sqrt(np.convolve(near**2, np.ones(1024) / 1024, mode="valid"))
        assert 20 * np.log10(envelope.max() / frames.max()) < 1.0, join
        assert 20 * np.log10(envelope.min() / frames.min()) > -1.0, join


def test_a_part_that_drops_out_is_silent_and_what_follows_is_where_it_was(tmp_path: Path) -> None:
    noise = written(tmp_path, "noise", steady(), 120.0)
    edited, whole = edited_mix(noise, DropOut(id="d", start=16.0, end=20.0)), edited_mix(noise)
    a, b = sample(edited, 16.0), sample(edited, 20.0)
    assert not edited.render(a, b - 200).any()
    assert np.array_equal(edited.render(b, b + RATE), whole.render(b, b + RATE))
    assert level_db(edited.render(a - RATE, a)) > -25.0


def test_a_preview_is_the_file_wherever_it_begins_with_edits(first: Made, second: Made) -> None:
    edits = [Skip(id="s", start=16.0, end=32.0), Repeat(id="r", start=40.0, end=44.0, times=3)]
    edited = edited_mix(first, *edits, Repeat(id="u", start=96.0, end=104.0, times=None), two=second, bpm=125.0)
    whole = edited.render()
    for at in np.random.default_rng(5).integers(0, len(whole) - RATE, 16):
        piece = edited.render(int(at), int(at) + RATE // 2)
        assert np.array_equal(piece, whole[at : at + RATE // 2]), at


def test_what_is_alike_is_aligned_and_what_is_not_stays() -> None:
    tone = stereo(0.3 * np.sin(2 * np.pi * 110.0 * np.arange(8000) / RATE))
    found = compared(tone[1000:3000], tone[1060 - 220 : 3060 + 220], RATE)
    assert found.lag == -60
    assert found.alike > 0.99
    noise = steady(seconds=1.0).astype(np.float32)
    assert compared(noise[:2000], noise[9000 : 9000 + 2440], RATE).lag == 0
    assert compared(noise[:8203], noise[9000 : 9000 + 8643], RATE).lag == 0


def test_no_note_of_a_chord_is_put_out_by_the_others() -> None:
    """Of 60 chords that go on elsewhere in any phase, the note that falls most in the middle of the splice."""
    rng = np.random.default_rng(23)
    count, most = round(0.186 * RATE), round(0.005 * RATE)
    falls = []
    for _ in range(60):
        root = rng.uniform(110.0, 330.0) * np.array([1.0, 1.19, 1.41, 1.68])[: rng.integers(3, 5)]
        hz = np.concatenate([root * n for n in (1, 2, 3)])
        loud = np.repeat([1.0, 1 / 2, 1 / 3], len(root))
        before, after = rng.uniform(0.0, 2.0 * np.pi, (2, len(hz)))
        times = np.arange(-count - most, most) / RATE
        one, other = (
            (loud[:, None] * np.cos(2.0 * np.pi * hz[:, None] * times + phase[:, None])).sum(axis=0)
            for phase in (before, after)
        )
        found = compared(stereo(one[most:-most]), stereo(other), RATE)
        out, into = shares(np.array([0.5]), found.alike)
        turned = after - before + 2.0 * np.pi * hz * found.lag / RATE
        falls.append(20.0 * np.log10(np.abs(out + into * np.exp(1j * turned)).min()))
    assert np.median(falls) > -6.0, "by the likeness of the whole alone it is -13"
    assert np.percentile(falls, 10) > -12.0, "and -30"


@pytest.mark.parametrize("bpm", [None, 126.0, 116.0], ids=["copied", "faster", "slower"])
@pytest.mark.parametrize("hz", [97.3, 131.0, 170.7, 441.0, 1500.0])
def test_a_tone_goes_on_in_phase_through_one_join_after_the_other(tmp_path: Path, hz: float, bpm: float | None) -> None:
    tone = stereo(0.3 * np.sin(2 * np.pi * hz * np.arange(60 * RATE) / RATE))
    one = written(tmp_path, "tone", tone, 121.7)
    edited = edited_mix(one, SKIP, THRICE, bpm=bpm)
    for join in (32.0, 52.0, 56.0, 60.0):
        at = sample(edited, join)
        near = mono(edited.render(at - 3000, at + 1500)).astype(float)
        wave = np.exp(-2j * np.pi * hz * np.arange(len(near)) / RATE)
        period = round(RATE / hz)
        level = np.abs(np.convolve(near * wave, np.ones(2 * period) / (2 * period), mode="valid"))
        assert 20 * np.log10(level.max() / level.min()) < 0.8, join
