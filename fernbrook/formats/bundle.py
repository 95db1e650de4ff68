"""A mix as one file that opens on another machine: what is in it, and how it is checked. See ``docs/formats.md``."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated, Any

from pydantic import Field

from fernbrook.core.library import Findings, Level, Tempo
from fernbrook.core.track import Doubt, StemsFact
from fernbrook.core.value import MOST_SECONDS, Value, When
from fernbrook.formats.archive import ArchiveKind

MIX, TRACKS = "mix.json", "tracks.json"
FOLDERS = ("audio", "peaks", "stems")
LARGEST_JSON = 256 << 20
BESIDE_SOUND = 64 << 20
"""So many bytes a file of a track may have beside its sound: pictures, and those that somebody put into it."""


def _holds(name: str) -> bool:
    folder, _, rest = name.partition("/")
    return name in (MIX, TRACKS) or (folder in FOLDERS and bool(rest) and "/" not in rest)


BUNDLE = ArchiveKind("fernbrook-bundle", "bundle", 2, _holds)


Number = Annotated[int, Field(ge=0, le=(1 << 63) - 1)]
"""By which a state is known: a database counts no further."""


class BundleAudio(StrEnum):
    """How the music travels: as it is, as FLAC, or not at all, with hashes by which it is found elsewhere."""

    ORIGINAL = "original"
    FLAC = "flac"
    NONE = "none"


class BundledState(Value):
    """A revision of a mix or of a track's markup: ``state`` is as it is stored, with its version."""

    id: Number
    parent: Number | None = None
    label: str = Field(max_length=500)
    name: str = Field(default="", max_length=200)
    created_at: When
    state: dict[str, Any]
    counted_by: dict[str, Number] = Field(default_factory=dict, max_length=10_000)


class BundledMix(Value):
    """A mix: its revisions, of which ``head`` is the one that counts. With one revision it has no past.

    ``heard`` is a mix whose transitions are those that nobody shaped, as they came out where it was made.
    """

    name: str = Field(max_length=200)
    head: Number
    revisions: tuple[BundledState, ...] = Field(min_length=1, max_length=100_000)
    heard: BundledState | None = None

    @property
    def states(self) -> tuple[BundledState, ...]:
        """All states of it that are in the bundle."""
        return (*self.revisions, *([self.heard] if self.heard else []))


class TrackColumns(Value):
    """What is known of a track's file and of its sound, beside what was set by hand."""

    content_hash: str = Field(pattern="^[0-9a-f]{64}$")
    file_name: str = Field(max_length=255)
    title: str = Field(max_length=1000)
    artist: str = Field(default="", max_length=1000)
    key_tag: str | None = Field(default=None, max_length=16)
    bpm_tag: Tempo | None = None
    format: str = Field(max_length=16)
    coding: str = Field(max_length=60)
    rate: int = Field(ge=1, le=1_000_000)
    channels: int = Field(ge=1, le=64)
    duration_s: float = Field(ge=0.0, le=MOST_SECONDS)
    bytes: int = Field(ge=0, le=1 << 50)
    doubts: tuple[Doubt, ...] | None = Field(default=None, max_length=100)
    key: str | None = Field(default=None, max_length=4)
    findings: Findings | None = None
    tempo_low: Tempo | None = None
    tempo_high: Tempo | None = None
    clarity: float | None = Field(default=None, ge=-1e6, le=1e6)
    loudness_lufs: Level | None = None
    true_peak_dbtp: Level | None = None
    sound_start_s: float = Field(default=0.0, ge=0.0, le=1e6)
    sound_end_s: float | None = Field(default=None, ge=0.0, le=1e6)
    analysis_version: int | None = Field(default=None, ge=0, le=1_000_000)
    album: str = Field(default="", max_length=1000)
    genre: str = Field(default="", max_length=1000)
    comment: str = Field(default="", max_length=10_000)
    year: int | None = Field(default=None, ge=0, le=9999)
    bit_rate: int | None = Field(default=None, ge=0, le=1 << 40)
    tags: tuple[Annotated[str, Field(max_length=200)], ...] | None = Field(default=None, max_length=1000)
    energy: float | None = Field(default=None, ge=0.0, le=1.0)
    stems: StemsFact | None = None


class BundledTrack(Value):
    """A track: what is known of it, the states of its markup that the mix counts by, and its files in the bundle.

    ``audio`` is the name of its music there; None where that does not travel along. ``kept_hash`` is that of its file
    where it came from, which is not that of the import once tags were written into it.
    """

    id: str = Field(pattern="^[0-9a-z]{1,16}$")
    columns: TrackColumns
    head: Number | None = None
    revisions: tuple[BundledState, ...] = Field(default=(), max_length=100_000)
    audio: str | None = None
    kept_hash: str | None = Field(default=None, pattern="^[0-9a-f]{64}$")
    peaks: tuple[str, ...] = Field(default=(), max_length=100)
    stems: tuple[str, ...] = Field(default=(), max_length=100)

    @property
    def most_bytes(self) -> int:
        """More than any of its files needs: sound at eight bytes a value, and what is beside it."""
        columns = self.columns
        return BESIDE_SOUND + round(columns.duration_s * max(columns.rate, 48_000) * max(columns.channels, 2) * 8)


class BundledTracks(Value):
    """All tracks of a bundle."""

    tracks: tuple[BundledTrack, ...] = Field(max_length=10_000)
