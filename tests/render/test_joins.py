"""Where a stretched track reaches its own tempo, the real plan and renderer between: nothing may be heard of it."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np
import pytest
import soundfile
from scipy.signal import oaconvolve

from fernbrook.core.mix import commands as c
from fernbrook.core.mix.curves import Control, Curve
from fernbrook.core.mix.transitions import ReadyShape, Side, TempoPolicy
from fernbrook.core.plan import RATE, Mode
from fernbrook.core.track import Grid, TrackFacts
from tests import tones
from tests.render.test_render import Deck

HZ = tones.chord(220.0, 3)


@dataclass(frozen=True)
class Chord:
    """A held chord that says it has a beat."""

    path: Path
    bpm: float

    @property
    def facts(self) -> TrackFacts:
        return TrackFacts(id=self.path.stem, title="chord", duration_s=40.0, grid=Grid.constant(self.bpm, 0.0))


@pytest.fixture(scope="module")
def chords(tmp_path_factory: pytest.TempPathFactory) -> tuple[Chord, Chord]:
    folder = tmp_path_factory.mktemp("chords")
    made = []
    for bpm in (120.0, 128.0):
        path = folder / f"{bpm:g}.wav"
        soundfile.write(path, tones.partials(HZ, 40.0), RATE, subtype="FLOAT")
        made.append(Chord(path, bpm))
    return made[0], made[1]


@pytest.mark.parametrize("policy", [TempoPolicy.RAMP])
def test_every_partial_keeps_its_level_from_stretched_to_copied(
    chords: tuple[Chord, Chord], policy: TempoPolicy
) -> None:
    deck = Deck(*chords).shaped(ReadyShape.EVEN_BLEND, out_at=16.0, in_at=0.0, beats=32.0)
    pair = {"out_id": deck.mix.entries[0].id, "in_id": deck.mix.entries[1].id}
    deck.do(c.SetTempoPolicy(tempo=policy, **pair))
    for side in Side:
        deck.do(c.SetCurve(side=side, control=Control.VOLUME, curve=Curve.of((0.0, 1.0), (1.0, 1.0)), **pair))
    joins = [(i, s.start_s) for i, e in enumerate(deck.plan.entries) for s in e.segments[1:]]
    assert joins
    assert any(s.mode is Mode.STRETCH for e in deck.plan.entries for s in e.segments)
    window = np.hanning(RATE // 2)
    for only, at_s in joins:
        heard = deck.render(round((at_s - 0.6) * RATE), round((at_s + 1.0) * RATE), only)[:, 0]
        n = np.arange(len(heard))
        for hz in HZ:
            turned = heard * np.exp(-2j * np.pi * hz * n / RATE)
            level = np.abs(oaconvolve(turned, window / window.sum(), "valid"))
            assert np.ptp(20 * np.log10(level)) < 0.5, (policy, only, hz)
