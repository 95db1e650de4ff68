"""What worker processes do. Everything here runs outside the server, on plain values, and writes files whole."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from ctypes import c_double
from multiprocessing.sharedctypes import SynchronizedArray
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from fernbrook.analysis.analyse import VERSION, analyse
from fernbrook.analysis.grid_search import DEFAULT_RANGE
from fernbrook.audio.writer import OutputFormat, write_audio
from fernbrook.core.markup import Markup
from fernbrook.core.mix import Mix
from fernbrook.core.plan import RATE, plan
from fernbrook.core.straight import straight_plan
from fernbrook.core.track import TrackFacts
from fernbrook.render.renderer import FULL_SCALE_DBTP, render
from fernbrook.service.tags import Tags, write_tags
from fernbrook.store.folders import Folders, write_atomically

_board: Any = None


def begin(board: SynchronizedArray[c_double]) -> None:
    """Set up a worker: ``board`` is the shared memory on which progress is written, a place for each job."""
    global _board  # noqa: PLW0603  (a worker process has exactly one)
    _board = board


def _progress(slot: int) -> Callable[[float], None]:
    def report(share: float) -> None:
        if _board is not None:
            _board[slot] = share

    return report


def analyse_track(
    root: str, path: str, name: str, content_hash: str, slot: int, tempo_range: tuple[float, float] | None = None
) -> dict[str, Any]:
    """Analyse a file, write its peaks and features, and return what its row is to hold."""
    found = analyse(Path(path), _progress(slot), name, tempo_range or DEFAULT_RANGE)
    folders = Folders(Path(root))
    write_atomically(folders.features_file(content_hash), found.features.to_bytes())
    write_atomically(folders.onsets_file(content_hash), found.features.picture().tobytes())
    for bucket, peaks in found.peaks.items():
        write_atomically(folders.peaks_file(content_hash, bucket), peaks.tobytes())
    reading, key = found.reading, found.reading.key
    return {
        "markup": Markup(grid=reading.grid, sections=reading.sections, voice=reading.voice).model_dump(mode="json"),
        "clarity": found.clarity,
        "doubts": [d.model_dump(mode="json") for d in reading.doubts],
        "key": key.key.name if key else None,
        "findings": {
            "second_key": key.second.name if key else None,
            "key_confidence": key.confidence if key else None,
            "tuning_cents": key.tuning_cents if key else None,
            "runner_up_bpm": reading.runner_up[0] if reading.runner_up else None,
            "short_term_max_lufs": found.loudness.short_term_max_lufs,
            "first_bar": reading.first_bar,
            "energy": reading.energy,
        },
        "loudness_lufs": found.loudness.integrated_lufs,
        "true_peak_dbtp": found.loudness.true_peak_dbtp,
        "sound_start_s": found.sound_start_s,
        "sound_end_s": found.sound_end_s,
        "duration_s": found.duration_s,
        "analysis_version": VERSION,
    }


def render_mix(
    mix: str, tracks: list[str], paths: dict[str, str], target: str, output: str, slot: int
) -> dict[str, Any]:
    """Render a mix to a file and return what it is. ``mix`` and ``tracks`` are JSON."""
    facts = [TrackFacts.model_validate_json(t) for t in tracks]
    resolved = plan(Mix.model_validate_json(mix), {f.id: f for f in facts})
    report = _progress(slot)

    def watched() -> Iterator[NDArray[np.float32]]:
        done = 0
        for block in render(resolved, {i: Path(p) for i, p in paths.items()}):
            yield block
            done += len(block)
            report(done / resolved.frames)

    frames = write_audio(Path(target), watched(), resolved.frames, RATE, OutputFormat(output))
    return {"file": Path(target).name, "bytes": Path(target).stat().st_size, "duration_s": frames / RATE}


def straighten_track(
    track: str, bpm: float, path: str, target: str, output: str, key: str | None, slot: int
) -> dict[str, Any]:
    """Render a track (JSON) at a steady tempo to a tagged file and return what it is."""
    facts = TrackFacts.model_validate_json(track)
    resolved = straight_plan(facts, bpm)
    report = _progress(slot)

    def watched() -> Iterator[NDArray[np.float32]]:
        done = 0
        for block in render(resolved, {facts.id: Path(path)}, ceiling_dbtp=FULL_SCALE_DBTP):
            yield block
            done += len(block)
            report(done / resolved.frames)

    under_way = Path(target).with_name(f".{Path(target).name}.tagged.part")
    try:
        frames = write_audio(under_way, watched(), resolved.frames, RATE, OutputFormat(output))
        title = f"{facts.title} ({bpm:g} BPM)"
        write_tags(under_way, OutputFormat(output).container, Tags(title=title, artist=facts.artist, bpm=bpm, key=key))
        under_way.replace(target)
    finally:
        under_way.unlink(missing_ok=True)
    return {"file": Path(target).name, "bytes": Path(target).stat().st_size, "duration_s": frames / RATE}
