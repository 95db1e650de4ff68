"""Tracks that change their tempo, rendered: their beats are where those of the mix are."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np
import pytest
import soundfile

from fernbrook.core.mix import commands as c
from fernbrook.core.mix.entries import Follows
from fernbrook.core.mix.transitions import ReadyShape
from fernbrook.core.plan import RATE
from fernbrook.core.track import Grid, TrackFacts
from fernbrook.core.track import grid_edits as edits
from tests.listen import offset_ms
from tests.render.test_render import Deck

BEATS = 144
STEP = edits.tempo_from(Grid.constant(136.0, 0.5), 64.0, 174.0)
RAMP = edits.ramp_from(Grid.constant(124.0, 0.5), 56.0, 32.0, 150.0)


@dataclass(frozen=True)
class Hits:
    """A made track: a hit of noise on each beat of its grid, each unlike the others."""

    facts: TrackFacts
    path: Path

    @classmethod
    def on(cls, name: str, grid: Grid, folder: Path) -> Hits:
        rng = np.random.default_rng(sum(map(ord, name)))
        duration_s = float(grid.time_at(BEATS)) + 1.0
        sound = np.zeros(int(duration_s * RATE))
        shape = np.exp(-np.arange(2600) / 500.0)
        for time_s in grid.time_at(np.arange(BEATS)):
            at = round(float(time_s) * RATE)
            # Soft enough that it is still like itself where it is resampled by a tenth.
            hit = np.convolve(rng.standard_normal(len(shape)), np.hanning(32), "same")
            sound[at : at + len(shape)] += 0.02 * shape * hit
        path = folder / f"{name}.wav"
        soundfile.write(path, sound.clip(-1.0, 1.0), RATE, subtype="FLOAT")
        end_s = float(grid.time_at(BEATS))
        return cls(TrackFacts(id=name, title=name, duration_s=duration_s, sound_end_s=end_s, grid=grid), path)

    def sound(self) -> np.ndarray:
        return np.asarray(soundfile.read(self.path, dtype="float32")[0])


@pytest.mark.parametrize("grid", [STEP, RAMP], ids=["step", "ramp"])
@pytest.mark.parametrize("lock", [True, False], ids=["key kept", "key goes along"])
def test_beats_of_a_route_are_those_of_the_mix_between_two_steady_tracks(
    grid: Grid, lock: bool, tmp_path: Path
) -> None:
    low = Hits.on("low", Grid.constant(130.0, 0.25), tmp_path)
    route = Hits.on("route", grid, tmp_path)
    high = Hits.on("high", Grid.constant(160.0, 0.25), tmp_path)
    deck = Deck(low, route, high)
    for i in (0, 1):
        deck.shaped(ReadyShape.EVEN_BLEND, i, out_at=(112.0, 120.0)[i], in_at=0.0, beats=16.0)
    for entry in deck.mix.entries:
        deck.do(c.SetKeyLock(entry_id=entry.id, key_lock=lock))
    resolved = deck.plan
    entry = resolved.entries[1]
    assert entry.entry.goes_by(route.facts) is Follows.OWN
    heard = deck.render(0, None, only=1).mean(axis=1)
    beats = np.arange(np.ceil(entry.start_beat) + 3, np.floor(entry.end_beat) - 3)
    errors = [
        offset_ms(route.sound(), float(entry.played.time_at(beat - entry.offset)), heard, float(at))
        for beat, at in zip(beats, resolved.tempo.time_at(beats), strict=True)
    ]
    assert len(errors) > 120
    assert np.max(np.abs(errors)) <= 1.0


def test_between_its_transitions_a_route_passes_sample_by_sample(tmp_path: Path) -> None:
    low = Hits.on("low", Grid.constant(130.0, 0.25), tmp_path)
    route = Hits.on("route", RAMP, tmp_path)
    deck = Deck(low, route).shaped(ReadyShape.EVEN_BLEND, out_at=112.0, in_at=0.0, beats=16.0)
    resolved = deck.plan
    begin = round(resolved.transitions[0].end_s * RATE) + 64
    heard = deck.render(begin, begin + 20 * RATE, only=1).mean(axis=1)
    source = round(float(resolved.entries[1].source_at(np.asarray([begin / RATE]))[0]) * RATE)
    gain = 10.0 ** (resolved.entries[1].gain_db / 20.0)
    assert np.allclose(heard, gain * route.sound()[source : source + len(heard)], atol=1e-6)
