"""Trains what weighs the evidence for keys: ``python -m bench.key_fitting``.

Trained on the tracks of ``bench/keyed.py`` with an even number, reported on the others: how many are right, and what
was said against how often it was right. The table of ``analysis/tone/key_evidence.py`` is printed as Python.
"""

from __future__ import annotations

import pprint
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context

import numpy as np

from bench import keyed
from bench.fitting import Choice, reported, trained
from fernbrook.analysis.tone.harmony import Harmony, HarmonyMeter
from fernbrook.analysis.tone.key import pitch_classes, tuning_of
from fernbrook.analysis.tone.key_evidence import WEIGHTS, evidence_by_key

PENALTY = 0.02


def heard(track: keyed.Keyed) -> Harmony:
    """The harmony of a track."""
    import soundfile

    sound, rate = soundfile.read(track.path, dtype="float32", always_2d=True)
    meter = HarmonyMeter(rate)
    for start in range(0, len(sound), 10 * rate):
        meter.add(sound[start : start + 10 * rate].mean(axis=1))
    return meter.result()


def _choice(track: keyed.Keyed) -> Choice:
    harmony = heard(track)
    tuning = tuning_of(harmony)
    assert tuning is not None, track.name
    evidence = evidence_by_key(pitch_classes(harmony.fine, tuning), harmony, track.grid)
    right = np.arange(24) == track.key.tonic + 12 * track.key.minor
    return Choice(track.name, evidence, right, track.number % 2 == 1)


def main() -> None:
    """Train, report, print."""
    with ProcessPoolExecutor(mp_context=get_context("spawn")) as pool:
        choices = list(pool.map(_choice, keyed.made(), chunksize=4))
    names = tuple(WEIGHTS)
    net = trained([c for c in choices if not c.held], names, 0, PENALTY)
    reported("keys, trained on", [c for c in choices if not c.held], net)
    reported("keys, held back", [c for c in choices if c.held], net)
    weights = net.straight / net.scale
    pprint.pp({n: round(float(w), 2) for n, w in zip(names, weights, strict=True)}, sort_dicts=False)


if __name__ == "__main__":
    main()
