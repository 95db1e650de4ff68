"""What the limiter is foreseen to take, against what comes to it when the mix is rendered."""

from __future__ import annotations

import numpy as np
import pytest

from fernbrook.audio.measures.true_peak import peak_per_sample
from fernbrook.core.mix.commands import AddTracks, SetGain
from fernbrook.core.mix.entries import CEILING_DBTP
from fernbrook.core.plan import RATE, WarningKind
from fernbrook.render.renderer import render
from fernbrook.service.services import Services
from tests.conftest import Made
from tests.service.conftest import analysed, until

pytestmark = pytest.mark.slow


def test_the_limiter_is_foreseen_within_a_decibel(services: Services, first: Made, second: Made) -> None:
    tracks = [services.library.bring_in_path(m.path).track.id for m in (first, second)]
    services.start()
    until(lambda: analysed(services))
    mix = services.mixes.create("m")
    mix = services.mixes.change(mix.id, mix.version, AddTracks(track_ids=tuple(tracks)))
    assert not services.courses.course(mix.id, 100).warnings
    for entry in ("e1", "e2"):
        mix = services.mixes.change(mix.id, mix.version, SetGain(entry_id=entry, gain_db=9.0))
    course = services.courses.course(mix.id, round(mix.plan.duration_s / 0.1))
    paths = {t: m.path for t, m in zip(tracks, (first, second), strict=True)}
    sound = np.concatenate(list(render(mix.plan, paths, ceiling_dbtp=60.0))).astype(np.float64)
    step = RATE // 10
    peaks = peak_per_sample(sound)[: len(sound) // step * step].reshape(-1, step).max(axis=1)
    real = np.maximum(0.0, 20 * np.log10(np.maximum(peaks, 1e-9)) - CEILING_DBTP)
    (transition,) = mix.plan.transitions
    times = np.arange(len(real)) * 0.1
    alone = (times < transition.start_s - 0.2) | (times > transition.end_s + 0.2)
    foreseen = course.limiting[: len(real)]
    # A step of one may begin in the step before of the other.
    around = np.maximum(foreseen, np.maximum(np.roll(foreseen, 1), np.roll(foreseen, -1)))
    assert real[alone].max() > 3.0
    assert np.percentile(foreseen[alone], 99) == pytest.approx(np.percentile(real[alone], 99), abs=0.6)
    assert (around[alone] - real[alone]).min() > -0.6
    # Where both sound, it is what could come of it at most, and not far from it.
    both = (times > transition.start_s + 0.2) & (times < transition.end_s - 0.2)
    assert (around[both] - real[both]).min() > -1.0
    assert np.median(foreseen[both] - real[both]) < 3.0
    assert {s.kind for s in course.warnings} == {WarningKind.LIMITER}
