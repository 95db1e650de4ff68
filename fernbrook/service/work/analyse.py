"""Analysing a track."""

from __future__ import annotations

from pathlib import Path

from fernbrook.analysis.analyse import VERSION, Analysis, analyse
from fernbrook.analysis.beat.grid_search import DEFAULT_RANGE
from fernbrook.core.track import Markup
from fernbrook.core.value import Value
from fernbrook.service.work.worker import Report, Result
from fernbrook.store.folders import Folders
from fernbrook.whole import write_whole


class AnalyseOrder(Value):
    """Which file to analyse, what messages call it, and the tempi that its beat may have."""

    path: str
    name: str
    content_hash: str
    tempo_range: tuple[float, float] | None = None


def analyse_track(order: AnalyseOrder, root: Path, report: Report) -> Result:
    """Analyse a file, write its peaks and features, and return what its row is to hold."""
    folders = Folders(root)
    found = analyse(folders.audio_file(order.path), report, order.name, order.tempo_range or DEFAULT_RANGE)
    write_whole(folders.features_file(order.content_hash), found.features.to_bytes())
    write_whole(folders.onsets_file(order.content_hash), found.features.picture().tobytes())
    write_whole(folders.true_peaks_file(order.content_hash), found.true_peaks.astype("<f2").tobytes())
    for bucket, peaks in found.peaks.items():
        write_whole(folders.peaks_file(order.content_hash, bucket), peaks.tobytes())
    return columns_of(found)


def columns_of(found: Analysis) -> Result:
    """What an analysis found as JSON, by the columns that hold it."""
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
            "swing": reading.swing,
            "short_term_max_lufs": found.loudness.short_term_max_lufs,
            "first_bar": reading.first_bar,
            "energy": reading.energy,
            "file": found.file.model_dump(mode="json"),
        },
        "loudness_lufs": found.loudness.integrated_lufs,
        "true_peak_dbtp": found.loudness.true_peak_dbtp,
        "sound_start_s": found.sound_start_s,
        "sound_end_s": found.sound_end_s,
        "duration_s": found.duration_s,
        "analysis_version": VERSION,
    }
