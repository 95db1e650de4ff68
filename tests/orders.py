"""Made-up tracks to be put in order."""

from __future__ import annotations

import numpy as np

from fernbrook.core.ordering import Candidate
from fernbrook.core.track import Key


def candidates(count: int, seed: int = 0, artists: int | None = None) -> list[Candidate]:
    """Tracks of mixed tempi, keys and energies, some at half the tempo of the others."""
    rng = np.random.default_rng(seed)
    made = []
    for number in range(count):
        bpm = round(float(rng.uniform(85, 90) if rng.random() < 0.1 else np.clip(rng.normal(125, 4), 105, 140)), 2)
        made.append(
            Candidate(
                track_id=f"t{number}",
                entry_id=f"e{number}",
                title=f"Title {number}",
                artist=f"Artist {rng.integers(artists or 4 * count)}",
                bpm=bpm,
                own_bpm=bpm,
                counts=(1.0, 0.5, 2.0),
                key=Key(tonic=int(rng.integers(12)), minor=bool(rng.integers(2))) if rng.random() < 0.95 else None,
                sure=round(float(rng.uniform(0.4, 1.0)), 2),
                energy=round(float(rng.uniform(0.2, 0.9)), 3),
                comes_in=float(rng.integers(0, 32)),
                goes_out=float(rng.integers(0, 32)),
                lead_s=float(rng.integers(0, 20)),
                plays_s=float(rng.integers(150, 300)),
                tail_s=float(rng.integers(0, 30)),
            )
        )
    return made
