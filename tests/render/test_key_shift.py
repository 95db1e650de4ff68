"""A shifted key: the pitch moves, time stays, from wherever a render begins."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import soundfile

from fernbrook.core.mix import commands as c
from fernbrook.core.plan import RATE
from fernbrook.core.track import Grid, TrackFacts
from tests import tones
from tests.listen import level_db, onsets_ms, pitch_hz
from tests.render.test_render import Deck
from tests.tones import Sound

BEATS = np.arange(2, 18) * 0.5


class Sounding:
    """A sound as a track of 120 BPM."""

    def __init__(self, sound: Sound, folder: Path) -> None:
        self.path = folder / "sound.wav"
        soundfile.write(self.path, sound, RATE, subtype="FLOAT")
        self.facts = TrackFacts(id="s", title="S", duration_s=len(sound) / RATE, grid=Grid.constant(120.0, 0.0))


def _shifted(sound: Sound, folder: Path, semitones: int, bpm: float | None = None) -> Deck:
    deck = Deck(Sounding(sound, folder))
    entry = deck.mix.entries[0].id
    deck.do(c.SetKeyShift(entry_id=entry, semitones=semitones))
    return deck.do(c.SetHomeTempo(entry_id=entry, bpm=bpm))


@pytest.mark.parametrize("semitones", [-6, -3, -1, 1, 4, 6])
@pytest.mark.parametrize("bpm", [None, 124.0])
def test_a_tone_is_moved_by_semitones_whatever_the_tempo(tmp_path: Path, semitones: int, bpm: float | None) -> None:
    tone = tones.stereo(0.3 * np.sin(2 * np.pi * 220.0 * tones.seconds(10.0)))
    heard = _shifted(tone, tmp_path, semitones, bpm).render(RATE, 8 * RATE)
    cents = 1200 * np.log2(pitch_hz(heard) / (220.0 * 2 ** (semitones / 12)))
    assert abs(cents) < 3.0
    assert level_db(heard) == pytest.approx(level_db(tone[RATE : 8 * RATE]), abs=0.1)


@pytest.mark.parametrize("semitones", [-6, -1, 2, 6])
def test_hits_stay_on_their_beats_and_sharp(tmp_path: Path, semitones: int) -> None:
    sound = tones.clicks(BEATS, 10.0) + tones.partials(tones.pad(20), 10.0, level=0.02)
    heard = _shifted(sound, tmp_path, semitones).render()
    assert len(heard) == len(sound)
    assert np.abs(onsets_ms(heard, BEATS) - onsets_ms(sound, BEATS)).max() < 2.0


def test_a_preview_from_anywhere_is_the_file(tmp_path: Path) -> None:
    deck = _shifted(tones.voice(9.0), tmp_path, -3)
    whole = deck.render()
    for start in (RATE, 123_456, 300_001):
        assert np.array_equal(deck.render(start, start + 40_000), whole[start : start + 40_000])


def test_a_shifted_entry_keeps_its_pitch_though_its_key_lock_is_off(tmp_path: Path) -> None:
    tone = tones.stereo(0.3 * np.sin(2 * np.pi * 220.0 * tones.seconds(8.0)))
    deck = _shifted(tone, tmp_path, 2, 130.0)
    deck.do(c.SetKeyLock(entry_id=deck.mix.entries[0].id, key_lock=False))
    assert pitch_hz(deck.render(RATE, 6 * RATE)) == pytest.approx(220.0 * 2 ** (2 / 12), rel=2e-3)


def test_shifted_back_it_is_untouched(tmp_path: Path) -> None:
    voice = tones.voice(4.0)
    assert np.array_equal(_shifted(voice, tmp_path, 0).render(), voice)


def test_what_would_lie_beyond_what_can_be_heard_is_gone_and_not_folded_back(tmp_path: Path) -> None:
    tone = tones.stereo(0.3 * np.sin(2 * np.pi * 18_000.0 * tones.seconds(5.0)))
    assert level_db(_shifted(tone, tmp_path, 6).render(RATE, 4 * RATE)) < level_db(tone) - 60.0
