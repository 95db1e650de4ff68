"""A track of the library, as lists and pages see it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from functools import lru_cache
from typing import Any

from fernbrook.analysis.analyse import VERSION
from fernbrook.core.library import FileDoubt
from fernbrook.core.track import Doubt, Key
from fernbrook.service.jobs import Job
from fernbrook.store.tables import TrackRow
from fernbrook.store.tracks import LISTED


@dataclass(frozen=True, slots=True)
class Track:
    """What a list shows of a track, and its analysis job while that has not ended well.

    ``key`` is the key that was found, else that of the file's tags. ``cue_marks`` are the moments of its cues, and what
    stands on them; ``file_doubts`` what may be wrong with its file, each in a sentence; ``lists`` and ``used_in`` the
    names of the lists and mixes that have it.
    """

    id: str
    version: int
    title: str
    artist: str
    album: str
    genre: str
    comment: str
    year: int | None
    file_name: str
    bpm: float | None
    comes_bpm: float | None
    leaves_bpm: float | None
    steady: bool
    clarity: float | None
    key: str | None
    key_wheel: str | None
    key_tag: str | None
    energy: float | None
    voice_share: float | None
    format: str
    coding: str
    bit_rate: int | None
    rate: int
    channels: int
    duration_s: float
    loudness_lufs: float | None
    true_peak_dbtp: float | None
    added_at: datetime
    tags: tuple[str, ...]
    cue_marks: tuple[tuple[float, str], ...]
    checked: bool
    grid_by_hand: bool
    doubts: tuple[Doubt, ...]
    outdated: bool
    has_peaks: bool
    file_doubts: dict[FileDoubt, str]
    lists: tuple[str, ...]
    used_in: tuple[str, ...]
    job: Job | None

    @classmethod
    def of(
        cls,
        columns: dict[str, Any],
        job: Job | None,
        file_doubts: dict[FileDoubt, str] | None = None,
        lists: tuple[str, ...] = (),
        used_in: tuple[str, ...] = (),
    ) -> Track:
        """A track from the columns of a list."""
        seen = {name: columns[name] for name in LISTED}
        analysed_by = seen.pop("analysis_version")
        name, wheel = _spelled(seen.pop("key") or seen["key_tag"])
        seen["doubts"] = tuple(Doubt.model_validate(d) for d in seen["doubts"] or ())
        seen["tags"] = tuple(seen["tags"] or ())
        seen["cue_marks"] = tuple((float(at), str(plate)) for at, plate in seen["cue_marks"] or ())
        return cls(
            **seen,
            key=name,
            key_wheel=wheel,
            outdated=analysed_by is not None and analysed_by < VERSION,
            has_peaks=analysed_by is not None,
            file_doubts=file_doubts or {},
            lists=lists,
            used_in=used_in,
            job=job,
        )

    @classmethod
    def of_row(cls, row: TrackRow, job: Job | None) -> Track:
        """A track from its row, by itself: what follows from the rest of the library is not told."""
        return cls.of({name: getattr(row, name) for name in LISTED}, job)

    @property
    def misread(self) -> bool:
        """Whether its name looks as one does that is read in another encoding."""
        return FileDoubt.MISREAD in self.file_doubts

    @property
    def is_waiting(self) -> bool:
        """Whether its analysis is still to come."""
        return self.job is not None and self.job.is_open


@lru_cache(maxsize=256)
def _spelled(key: str | None) -> tuple[str | None, str | None]:
    """A key in musical and in wheel notation; what is neither is given as it is."""
    parsed = Key.parse(key) if key else None
    return (parsed.name, parsed.wheel) if parsed else (key, None)
