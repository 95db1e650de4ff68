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
from fernbrook.audio.writer import OutputFormat, write_audio
from fernbrook.core.mix import Mix
from fernbrook.core.plan import RATE, plan
from fernbrook.core.track import TrackFacts
from fernbrook.render.renderer import render
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


def analyse_track(root: str, path: str, name: str, content_hash: str, slot: int) -> dict[str, Any]:
    """Analyse a file, write its peaks, and return the columns of its row."""
    found = analyse(Path(path), _progress(slot), name)
    folders = Folders(Path(root))
    for bucket, peaks in found.peaks.items():
        write_atomically(folders.peaks_file(content_hash, bucket), peaks.tobytes())
    return {
        "grid": found.grid.model_dump() if found.grid else None,
        "clarity": found.clarity,
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
