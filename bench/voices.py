"""Voices: where they are heard in club tracks and composed pieces, and how well they come out of them.

The tracks of ``bench/singers.py`` know their voices; the composed pieces of ``bench/pieces.py`` have none. Beside our
own stands the voice's network alone, as its authors use it, and moving partials, which serve where it is not there.
"""

from __future__ import annotations

from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from multiprocessing import get_context

import numpy as np
from numpy.typing import NDArray

from bench import arrangements, pieces, singers, stems
from bench.rows import Row
from fernbrook.analysis.separation.separate import separate
from fernbrook.analysis.voice.movement import MovementMeter, moving_spans
from fernbrook.analysis.voice.patches import taken_out
from fernbrook.analysis.voice.presence import PresenceMeter
from fernbrook.analysis.voice.weights import are_installed
from fernbrook.core.track import VoiceSpan

RATE = 44_100
SECONDS = 110
STEP_S = 0.05
STEMS_OF = (0, 1, 2, 3, 6, 7, 10, 11)
"""The tracks of which the voice is taken out; each has one."""

Spans = list[tuple[float, float]]
Sound = NDArray[np.float32]


@dataclass(frozen=True)
class Heard:
    """One track, in seconds: voice that there is, found and false by our own, and by moving partials."""

    half: str
    what: str
    length: float
    true: float
    ours: tuple[float, float]
    theirs: tuple[float, float]


def rows() -> Iterator[Row]:
    """The figures of each half."""
    if not are_installed() or not singers.sung():
        return
    composed = pieces.made(pieces.PIECES[:60:3])
    cases: list[singers.Sung | pieces.Piece] = [*singers.sung(), *composed]
    with ProcessPoolExecutor(2, mp_context=get_context("spawn")) as pool:
        heard = list(pool.map(_heard, cases))
        for half in ("tuned on", "held back"):
            yield from _half(half, [h for h in heard if h.half == half])
        voices = list(pool.map(_taken_out, [s for s in singers.sung() if s.number in STEMS_OF]))
    for name, odd in (("tuned on", 0), ("held back", 1)):
        ours, alone = (np.mean([v[i] for v in voices if v[0] % 2 == odd], axis=0) for i in (1, 2))
        yield Row(
            f"voice stem, {name}: SI-SDR of it / dropped: voice / music left",
            " / ".join(f"{x:.1f}" for x in ours) + " dB",
            "the network alone: " + " / ".join(f"{x:.1f}" for x in alone),
            "9 / -12 / -1",
        )


def _half(half: str, some: list[Heard]) -> Iterator[Row]:
    for what in sorted({h.what for h in some}):
        group = [h for h in some if h.what == what]
        true, length = (sum(getattr(h, name) for h in group) for name in ("true", "length"))
        ours, theirs = (np.sum([getattr(h, name) for h in group], axis=0) for name in ("ours", "theirs"))
        yield Row(
            f"voice heard, {what}, {half}: found of {true:.0f} s, false in {length - true:.0f} s",
            f"{ours[0]:.0f}, {ours[1]:.0f}",
            f"moving partials {theirs[0]:.0f}, {theirs[1]:.0f}",
            "85 %, 2 %",
        )


def _heard(case: singers.Sung | pieces.Piece) -> Heard:
    if isinstance(case, singers.Sung):
        music, over = (part[: SECONDS * RATE] for part in case.parts())
        sound, number, what = music + over, case.number, case.what
        spans = singers.spans(over) if case.has_voice() else []
    else:
        import soundfile

        sound = soundfile.read(case.path, dtype="float32", always_2d=True)[0][: SECONDS * RATE]
        sound = np.ascontiguousarray(np.broadcast_to(sound, (len(sound), 2)))
        number, what, spans = case.number // 3, "composed piece", []
    presence, movement = PresenceMeter(), MovementMeter(RATE)
    for start in range(0, len(sound), 10 * RATE):
        presence.add(sound[start : start + 10 * RATE])
        movement.add(sound[start : start + 10 * RATE].mean(axis=1))
    length = len(sound) / RATE
    true = _at(spans, length)

    def judged(found: Spans) -> tuple[float, float]:
        here = _at(found, length)
        return float((here & true).sum() * STEP_S), float((here & ~true).sum() * STEP_S)

    ours, theirs = judged(presence.result().spans_s()), judged(moving_spans(movement.result()))
    half = "held back" if number % 2 else "tuned on"
    return Heard(half, what, length, float(true.sum() * STEP_S), ours, theirs)


def _at(spans: Spans, length_s: float) -> NDArray[np.bool_]:
    times = np.arange(0.0, length_s, STEP_S)
    inside = np.zeros(len(times), bool)
    for start, end in spans:
        inside |= (times >= start) & (times < end)
    return inside


def _taken_out(case: singers.Sung) -> tuple[int, list[float], list[float]]:
    """The voice's SI-SDR, and what is left of voice and music where it is dropped: ours, and by the network alone."""
    parts = {name: part[: SECONDS * RATE] for name, part in arrangements.stems(case.track).items()}
    music = np.asarray(sum(parts.values()))
    recorded, over = (part[: len(music)] for part in case.parts())
    voice = over * np.float32(np.sqrt(np.mean(music**2) / np.mean(recorded**2)))
    sound, grid = music + voice, case.track.grid
    known = tuple(VoiceSpan(start=float(grid.beat_at(a)), end=float(grid.beat_at(b))) for a, b in singers.spans(voice))
    ours = separate(sound, grid, case.track.sections, known, RATE).voice
    alone = np.concatenate([stretch for _, stretch in taken_out(sound)])
    sings = np.abs(voice).max(axis=1) > 1e-4

    def judged(found: Sound) -> list[float]:
        left = (sound - found)[sings].ravel()
        ratio = stems.si_sdr(found, voice)
        return [ratio, *(stems.kept_db(left, true[sings].ravel()) for true in (voice, music))]

    return case.number, judged(ours), judged(alone)
