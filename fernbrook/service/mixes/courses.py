"""The course of a mix: how loud each entry is over the whole of it, coarse enough for one answer."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from sqlalchemy import select

from fernbrook.core.plan import RATE, MixWarning, Plan, PlannedEntry
from fernbrook.core.remembered import remembered
from fernbrook.kept import KeptValues
from fernbrook.service.mixes.limiting import Limits
from fernbrook.service.mixes.mixes import Mixes
from fernbrook.store.database import Database
from fernbrook.store.folders import Folders
from fernbrook.store.tables import TrackRow

MOST_COLUMNS = 4000
BUCKET = 4096
KEPT = 1000

Peaks = NDArray[np.uint8]


@dataclass(frozen=True)
class CourseEntry:
    """One entry's part of a course.

    ``low`` and ``full`` are its levels, 0..255 of full scale with its gain applied, in each column from ``first`` on;
    both are empty while there is no waveform.
    """

    first: int
    columns: int
    low: NDArray[np.uint8]
    full: NDArray[np.uint8]


@dataclass(frozen=True)
class Course:
    """A whole mix in columns of equal time: its entries, and by how many dB the limiter will be busy in each."""

    entries: list[CourseEntry]
    limiting: NDArray[np.float64]
    warnings: tuple[MixWarning, ...]


class Courses:
    """Draws the courses of mixes from the coarse peaks of their tracks."""

    def __init__(self, folders: Folders, database: Database, mixes: Mixes) -> None:
        self._folders = folders
        self._database = database
        self._mixes = mixes
        self._limits = Limits(folders)
        self._peaks: KeptValues[Path, Peaks] = KeptValues(KEPT)

    def course(self, mix_id: str, columns: int) -> Course:
        """The course of a mix in so many columns of equal time."""
        plan = self._mixes.open(mix_id).plan
        hashes = self._hashes(plan)
        files = {i: self._folders.peaks_file(content, BUCKET) for i, content in hashes.items()}
        foreseen = self._limits.foresee(plan, hashes)
        return Course(
            entries=[
                _entry(entry, self._read(files.get(entry.track.id)), columns, plan.duration_s) for entry in plan.entries
            ],
            limiting=foreseen.by_columns(columns),
            warnings=foreseen.warnings,
        )

    def _hashes(self, plan: Plan) -> dict[str, str]:
        """The content of each track's file."""
        wanted = select(TrackRow.id, TrackRow.content_hash).where(TrackRow.id.in_([t.id for t in plan.tracks]))
        with self._database.read() as session:
            return {track: content for track, content in session.execute(wanted)}

    def _read(self, file: Path | None) -> Peaks | None:
        if file is None:
            return None
        try:
            return self._peaks.value(file, lambda: np.frombuffer(file.read_bytes(), np.uint8).reshape(-1, 3))
        except (OSError, ValueError):  # not made yet, or damaged: there is no waveform
            return None


@remembered
def _entry(entry: PlannedEntry, peaks: Peaks | None, columns: int, duration_s: float) -> CourseEntry:
    """The part of an entry in the course of a mix of that length."""
    width = max(duration_s, 1e-9) / columns
    first = min(int(entry.start_s / width), columns - 1)
    last = min(max(int(np.ceil(entry.end_s / width)), first + 1), columns)
    if peaks is None:
        return CourseEntry(first, last - first, np.zeros(0, np.uint8), np.zeros(0, np.uint8))
    edges = np.arange(first, last + 1, dtype=np.float64) * width
    places = np.rint(entry.source_at(edges) * RATE / BUCKET).astype(np.int64)
    gain = 10.0 ** (entry.gain_db / 20.0)
    low, full = (_means(band, places) * gain for band in (peaks[:, 0], peaks.max(axis=1)))
    return CourseEntry(first, last - first, _bytes(low), _bytes(full))


def _means(band: NDArray[np.uint8], places: NDArray[np.int64]) -> NDArray[np.float64]:
    """The mean of a band between each two successive places; shape (len(places) - 1,)."""
    sums = np.concatenate(([0.0], np.cumsum(band, dtype=np.float64)))
    begin = np.clip(places[:-1], 0, len(band) - 1)
    end = np.clip(np.maximum(places[1:], places[:-1] + 1), begin + 1, len(band))
    return np.asarray((sums[end] - sums[begin]) / (end - begin))


def _bytes(levels: NDArray[np.float64]) -> NDArray[np.uint8]:
    return np.clip(np.rint(levels), 0, 255).astype(np.uint8)
