"""A mix as one file that opens on another machine: what is in it, and how it is checked. See ``docs/formats.md``."""

from __future__ import annotations

from enum import StrEnum
from typing import Any

from pydantic import Field

from fernbrook.core.track.facts import Doubt
from fernbrook.core.track.stems import StemsFact
from fernbrook.core.value import Value, When
from fernbrook.formats.archive import ArchiveKind

MIX, TRACKS = "mix.json", "tracks.json"
FOLDERS = ("audio", "peaks", "stems")
LARGEST_JSON = 512 << 20


def _holds(name: str) -> bool:
    folder, _, rest = name.partition("/")
    return name in (MIX, TRACKS) or (folder in FOLDERS and bool(rest) and "/" not in rest)


BUNDLE = ArchiveKind("fernbrook-bundle", "bundle", 1, _holds)


class BundleAudio(StrEnum):
    """How the music travels: as it is, as FLAC, or not at all, with hashes by which it is found elsewhere."""

    ORIGINAL = "original"
    FLAC = "flac"
    NONE = "none"


class BundledState(Value):
    """A revision of a mix or of a track's markup: ``state`` is as it is stored, with its version."""

    id: int
    parent: int | None = None
    label: str = Field(max_length=500)
    name: str = Field(default="", max_length=200)
    created_at: When
    state: dict[str, Any]
    counted_by: dict[str, int] = Field(default_factory=dict)


class BundledMix(Value):
    """A mix: its revisions, of which ``head`` is the one that counts. With one revision it has no past."""

    name: str = Field(max_length=200)
    head: int
    revisions: tuple[BundledState, ...] = Field(min_length=1, max_length=100_000)


class TrackColumns(Value):
    """What is known of a track's file and of its sound, beside what was set by hand."""

    content_hash: str = Field(pattern="^[0-9a-f]{64}$")
    file_name: str = Field(max_length=255)
    title: str = Field(max_length=1000)
    artist: str = Field(default="", max_length=1000)
    key_tag: str | None = Field(default=None, max_length=16)
    bpm_tag: float | None = None
    format: str = Field(max_length=16)
    coding: str = Field(max_length=60)
    rate: int = Field(ge=1, le=1_000_000)
    channels: int = Field(ge=1, le=64)
    duration_s: float = Field(ge=0.0, le=1e6)
    bytes: int = Field(ge=0)
    doubts: tuple[Doubt, ...] | None = None
    key: str | None = Field(default=None, max_length=4)
    findings: dict[str, Any] | None = None
    tempo_low: float | None = None
    tempo_high: float | None = None
    clarity: float | None = None
    loudness_lufs: float | None = None
    true_peak_dbtp: float | None = None
    sound_start_s: float = 0.0
    sound_end_s: float | None = None
    analysis_version: int | None = None
    album: str = Field(default="", max_length=1000)
    genre: str = Field(default="", max_length=1000)
    comment: str = Field(default="", max_length=10_000)
    year: int | None = None
    bit_rate: int | None = None
    tags: tuple[str, ...] | None = None
    energy: float | None = None
    stems: StemsFact | None = None


class BundledTrack(Value):
    """A track: what is known of it, the states of its markup that the mix counts by, and its files in the bundle.

    ``audio`` is the name of its music there; None where that does not travel along. ``kept_hash`` is that of its file
    where it came from, which is not that of the import once tags were written into it.
    """

    id: str = Field(pattern="^[0-9a-z]{1,16}$")
    columns: TrackColumns
    head: int | None = None
    revisions: tuple[BundledState, ...] = ()
    audio: str | None = None
    kept_hash: str | None = Field(default=None, pattern="^[0-9a-f]{64}$")
    peaks: tuple[str, ...] = ()
    stems: tuple[str, ...] = ()


class BundledTracks(Value):
    """All tracks of a bundle."""

    tracks: tuple[BundledTrack, ...] = Field(max_length=10_000)
