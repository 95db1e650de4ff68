"""The data folder, and how files come to lie in it: whole or not at all."""

from __future__ import annotations

import os
import shutil
from dataclasses import dataclass
from pathlib import Path
from urllib.parse import quote, unquote_to_bytes

from platformdirs import user_data_path

from fernbrook.disk import writing

AS_URI = "file://"
DATABASE = "fernbrook.db"


@dataclass(frozen=True)
class Folders:
    """Where everything is kept."""

    root: Path

    @classmethod
    def default(cls) -> Folders:
        """The user's own data folder."""
        return cls(user_data_path("fernbrook"))

    @property
    def database(self) -> Path:
        """The SQLite file."""
        return self.root / DATABASE

    @property
    def audio(self) -> Path:
        """Where the files of the library are kept."""
        return self.root / "audio"

    @property
    def peaks(self) -> Path:
        """Where the waveforms are kept."""
        return self.root / "peaks"

    @property
    def renders(self) -> Path:
        """Where rendered mixes are kept."""
        return self.root / "renders"

    @property
    def stems(self) -> Path:
        """Where the stems of tracks are kept."""
        return self.root / "stems"

    @property
    def covers(self) -> Path:
        """Pictures that somebody chose for mixes."""
        return self.root / "covers"

    @property
    def backups(self) -> Path:
        """Where backups that were made here lie until they are taken elsewhere."""
        return self.root / "backups"

    @property
    def bundles(self) -> Path:
        """Bundles that were made here, and those that were brought here to be opened."""
        return self.root / "bundles"

    @property
    def incoming(self) -> Path:
        """Files on their way in; what lies here at a start was cut off and is thrown away."""
        return self.root / "incoming"

    def prepare(self) -> None:
        """Make all folders, and clear away what an interrupted import or render left."""
        written = (self.renders, self.stems, self.backups, self.bundles)
        for folder in (self.audio, self.peaks, self.covers, self.incoming, *written):
            folder.mkdir(parents=True, exist_ok=True)
        unfinished = [p for f in written for p in f.glob(".*.part")]
        for leftover in (*self.incoming.iterdir(), *unfinished):
            if leftover.is_dir():
                shutil.rmtree(leftover, ignore_errors=True)
            else:
                leftover.unlink(missing_ok=True)

    def peaks_file(self, content_hash: str, bucket: int) -> Path:
        """The peaks of a file at one resolution."""
        return self.peaks / f"{content_hash}.{bucket}.bin"

    def features_file(self, content_hash: str) -> Path:
        """What the analysis kept of a file's sound."""
        return self.peaks / f"{content_hash}.features.npz"

    def onsets_file(self, content_hash: str) -> Path:
        """The onset strengths of a file, to draw."""
        return self.peaks / f"{content_hash}.onsets.bin"

    def true_peaks_file(self, content_hash: str) -> Path:
        """The largest true peak of each 100 ms of a file."""
        return self.peaks / f"{content_hash}.true-peaks.bin"

    def stem_file(self, content_hash: str, stem: str) -> Path:
        """A stem of a file."""
        return self.stems / f"{content_hash}.{stem}.flac"

    def audio_file(self, stored: str) -> Path:
        """The audio file of a track: relative paths lie in the data folder, others stayed in their own place."""
        if stored.startswith(AS_URI):
            return Path(os.fsdecode(unquote_to_bytes(stored.removeprefix(AS_URI))))
        path = Path(stored)
        return path if path.is_absolute() else self.root / path

    def stored(self, path: Path) -> str:
        """How a file is noted in the database; the inverse of ``audio_file``.

        A path whose bytes are no text (an old disk's Latin-1 name) is noted as a URI.
        """
        noted = path.relative_to(self.root).as_posix() if path.is_relative_to(self.root) else str(path)
        try:
            noted.encode()
        except UnicodeEncodeError:
            return AS_URI + quote(os.fsencode(path))
        return noted

    def render_target(self, name: str) -> str:
        """Where a rendered file of a name lies, as noted: relative to the data folder."""
        return f"{self.renders.name}/{name}"


def write_atomically(path: Path, content: bytes) -> None:
    """Write a file so that it is either wholly there or as it was; raises DiskFullError where there is no room."""
    partial = path.with_name(f".{path.name}.part")
    try:
        with writing(f"‘{path.name}’ was not written", path), partial.open("wb") as file:
            file.write(content)
            file.flush()
            os.fsync(file.fileno())
        partial.replace(path)
    finally:
        partial.unlink(missing_ok=True)
