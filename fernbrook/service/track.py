"""A track of the library, as lists and pages see it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from functools import lru_cache
from typing import Any

from fernbrook.analysis.analyse import VERSION
from fernbrook.core.track.facts import Doubt
from fernbrook.core.track.key import Key
from fernbrook.service.jobs import Job
from fernbrook.store.tables import TrackRow
from fernbrook.store.tracks import LISTED


@dataclass(frozen=True, slots=True)
class Track:
    """What a list shows of a track, and its analysis job while that has not ended well.

    ``key`` is the key that was found, else that of the file's tags.
    """

    id: str
    version: int
    title: str
    artist: str
    file_name: str
    bpm: float | None
    steady: bool
    clarity: float | None
    key: str | None
    key_wheel: str | None
    key_tag: str | None
    format: str
    coding: str
    rate: int
    channels: int
    duration_s: float
    loudness_lufs: float | None
    true_peak_dbtp: float | None
    added_at: datetime
    checked: bool
    grid_by_hand: bool
    doubts: tuple[Doubt, ...]
    outdated: bool
    has_peaks: bool
    job: Job | None

    @classmethod
    def of(cls, columns: dict[str, Any], job: Job | None) -> Track:
        """A track from the columns of a list."""
        seen = dict(columns)
        analysed_by = seen.pop("analysis_version")
        name, wheel = _spelled(seen.pop("key") or seen["key_tag"])
        doubts = tuple(Doubt.model_validate(d) for d in seen.pop("doubts") or ())
        outdated = analysed_by is not None and analysed_by < VERSION
        has_peaks = analysed_by is not None
        return cls(**seen, key=name, key_wheel=wheel, doubts=doubts, outdated=outdated, has_peaks=has_peaks, job=job)

    @classmethod
    def of_row(cls, row: TrackRow, job: Job | None) -> Track:
        """A track from its row."""
        return cls.of({column.key: getattr(row, column.key) for column in LISTED}, job)

    @property
    def is_waiting(self) -> bool:
        """Whether its analysis is still to come."""
        return self.job is not None and self.job.is_open


@lru_cache(maxsize=256)
def _spelled(key: str | None) -> tuple[str | None, str | None]:
    """A key in musical and in wheel notation; what is neither is given as it is."""
    parsed = Key.parse(key) if key else None
    return (parsed.name, parsed.wheel) if parsed else (key, None)
