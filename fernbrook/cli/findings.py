"""All that an analysis found in a file, as one JSON object or one line of text. Documented in ``docs/analysis.md``."""

from __future__ import annotations

import json
from typing import Any

import numpy as np

from fernbrook.analysis.analyse import VERSION, Analysis
from fernbrook.core.track import Grid


def findings_json(file: str, found: Analysis) -> str:
    """One JSON object on one line. Moments are seconds, places in music are beats of the grid, from its beat 0."""
    reading, grid, key = found.reading, found.grid, found.reading.key
    out: dict[str, Any] = {
        "file": file,
        "analysis_version": VERSION,
        "duration_s": found.duration_s,
        "sound_start_s": found.sound_start_s,
        "sound_end_s": found.sound_end_s,
        "bpm": round(grid.mean_bpm(found.sound_start_s, found.sound_end_s), 4) if grid else None,
        "steady": grid.is_constant if grid else None,
        "first_downbeat_s": float(grid.time_at(0)) if grid else None,
        "beats_per_bar": grid.beats_per_bar if grid else None,
        "bars_from": [b.model_dump() for b in grid.bars_from] if grid else [],
        "beats_s": _beats(grid, found.duration_s) if grid else [],
        "anchors": [a.model_dump() for a in grid.anchors] if grid else [],
        "bpm_before": grid.bpm_before if grid else None,
        "bpm_after": grid.bpm_after if grid else None,
        "clarity": found.clarity,
        "other_tempo": {"bpm": reading.runner_up[0], "against_first": reading.runner_up[1]}
        if reading.runner_up
        else None,
        "swing": reading.swing,
        "key": key.key.name if key else None,
        "key_wheel": key.key.wheel if key else None,
        "key_confidence": key.confidence if key else None,
        "second_key": key.second.name if key else None,
        "tuning_cents": key.tuning_cents if key else None,
        "sections": [s.model_dump(mode="json", exclude={"name"}) for s in reading.sections],
        "voice": [v.model_dump() for v in reading.voice],
        "energy": {"first_bar": reading.first_bar, "by_bar": list(reading.energy)},
        "loudness_lufs": found.loudness.integrated_lufs,
        "short_term_max_lufs": found.loudness.short_term_max_lufs,
        "true_peak_dbtp": found.loudness.true_peak_dbtp,
        "doubts": [d.model_dump(mode="json", exclude_none=True) for d in reading.doubts],
    }
    return json.dumps(out, ensure_ascii=False, allow_nan=False)


def findings_line(name: str, found: Analysis) -> str:
    """What matters most, for the eye."""
    grid, key, lufs = found.grid, found.reading.key, found.loudness.integrated_lufs
    if grid:
        bpm = grid.mean_bpm(found.sound_start_s, found.sound_end_s)
        tempo = f"{bpm:7.2f} BPM, first downbeat at {float(grid.time_at(0)):.3f} s"
    else:
        tempo = "no beat"
    words = [
        f"{name}: {tempo}",
        key.key.name if key else "no key",
        f"{lufs:.1f} LUFS" if lufs is not None else "silent",
    ]
    doubts = "".join(f" ({d.text})" for d in found.reading.doubts)
    return ", ".join(words) + doubts


def _beats(grid: Grid, duration_s: float) -> list[float]:
    first, last = grid.beat_at([0.0, duration_s])
    return [round(float(t), 4) for t in grid.time_at(np.arange(np.ceil(first), np.floor(last) + 1))]
