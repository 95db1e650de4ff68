"""Stems from files: laid where they belong, and refused where they are of something else."""

from __future__ import annotations

import numpy as np
import pytest

from fernbrook.analysis.separation.own_files import NotItsStemsError, laid
from fernbrook.core.track import STEMS, Stem

RATE = 8000


def parts(seed: int = 1) -> dict[Stem, np.ndarray]:
    rng = np.random.default_rng(seed)
    shape = np.repeat(rng.uniform(0.2, 1.0, 40), RATE // 4)[:, None]
    return {stem: (shape * rng.standard_normal((10 * RATE, 2)) * 0.1).astype(np.float32) for stem in STEMS}


def track(stems: dict[Stem, np.ndarray]) -> np.ndarray:
    return np.asarray(sum(stems.values()), dtype=np.float32)


@pytest.mark.parametrize("late", [-700, 0, 431])
def test_stems_that_begin_early_or_late_are_laid_to_the_sample(late: int) -> None:
    stems = parts()
    moved = {n: np.pad(s, ((late, 0), (0, 0))) if late >= 0 else s[-late:] for n, s in stems.items()}
    found = laid(track(stems), moved, RATE)
    for stem in STEMS:
        assert found.stems[stem].shape == stems[stem].shape
        assert np.array_equal(found.stems[stem][1000:-1000], stems[stem][1000:-1000]), stem
    assert found.residual_db is not None
    assert found.residual_db < (-60.0 if late >= 0 else -8.0)


def test_some_of_them_are_enough_and_need_not_add_up() -> None:
    stems = parts()
    found = laid(track(stems), {Stem.DRUMS: stems[Stem.DRUMS]}, RATE)
    assert found.residual_db is None
    assert np.array_equal(found.stems[Stem.DRUMS], stems[Stem.DRUMS])


def test_stems_of_another_track_or_that_do_not_add_up_are_refused() -> None:
    stems = parts()
    with pytest.raises(NotItsStemsError, match="drums have nothing in common"):
        laid(track(stems), {Stem.DRUMS: parts(seed=9)[Stem.DRUMS]}, RATE)
    louder = {**stems, Stem.BASS: 3 * stems[Stem.BASS]}
    with pytest.raises(NotItsStemsError, match="they are not the track"):
        laid(track(stems), louder, RATE)
