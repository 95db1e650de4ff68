"""The data folder: what is where in it, and that what is noted of it leads nowhere else."""

from __future__ import annotations

import os
import re
import secrets
from collections.abc import Iterable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from pathlib import Path
from urllib.parse import quote, unquote_to_bytes

from platformdirs import user_data_path

from fernbrook.enclosed import OutsideError, is_plain, open_regular
from fernbrook.whole import appearing, beside, clear, delete, is_unfinished, write_whole

AS_URI = "file://"
DATABASE = "fernbrook.db"
PRIVATE = 0o700
ARRIVED = ".arrived"
"""What the name of a bundle ends in that was brought here."""
PENDING = ".pending"
"""What the name of a note ends in that says which files come or go with a change of the database."""
ELSEWHERE = ".elsewhere"
"""What the name of a note ends in that says where an unfinished file lies, beside one outside the data folder."""


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
    def tags(self) -> Path:
        """What stood in the files of tracks before tags were written into them."""
        return self.root / "tags"

    def tag_block(self, track_id: str) -> Path:
        """What stood in a track's file."""
        return self.ours(f"{self.tags.name}/{track_id}.block", self.tags)

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

    @property
    def _written(self) -> tuple[Path, ...]:
        """Folders in which files appear when they are whole."""
        return (self.peaks, self.covers, self.tags, self.renders, self.stems, self.backups, self.bundles)

    def prepare(self) -> None:
        """Make all folders, for this user's eyes only, and clear away what interrupted work left: in them, and beside
        files elsewhere that were being written."""
        self.root.mkdir(parents=True, exist_ok=True)
        with suppress(OSError):  # a disk without permissions, or a folder of somebody else's
            self.root.chmod(PRIVATE)
        for folder in (self.audio, self.incoming, *self._written):
            folder.mkdir(exist_ok=True)
        for note in self.incoming.glob(f"*{ELSEWHERE}"):
            _clear_noted(note)
        shelves = (d for d in self.audio.iterdir() if d.is_dir())
        unfinished = [p for f in (self.root, *self._written, *shelves) for p in f.glob(".*.part*")]
        for leftover in (*self.incoming.iterdir(), *unfinished):
            if leftover.suffix != PENDING:
                delete(leftover)

    def clear_after(self, owner: str) -> None:
        """Clear away what one owner, a job that has ended, did not finish."""
        for folder in self._written:
            clear(folder, owner)

    @contextmanager
    def pending(self, paths: Iterable[Path]) -> Iterator[None]:
        """Note files that come or go with a change of the database, until both are through: killed in between, the next
        start finds by the note which of them belong to nothing."""
        note = self.incoming / f"{secrets.token_hex(6)}{PENDING}"
        write_whole(note, "\n".join(p.relative_to(self.root).as_posix() for p in paths).encode())
        try:
            yield
        finally:
            note.unlink(missing_ok=True)

    def left_pending(self) -> Iterator[list[Path]]:
        """The files of each change that was cut off; its note goes once the caller has seen to them."""
        for note in sorted(self.incoming.glob(f"*{PENDING}")):
            named = note.read_text(errors="replace").splitlines()
            yield [self.root / name for name in named if is_plain(name)]
            note.unlink(missing_ok=True)

    @contextmanager
    def appearing_elsewhere(self, target: Path, what: str) -> Iterator[Path]:
        """As ``appearing``, for a file that need not lie in the data folder: its unfinished copy is noted, so that it
        goes at the next start if this process is killed."""
        partial = beside(target.absolute())
        note = self.incoming / f"{secrets.token_hex(6)}{ELSEWHERE}"
        write_whole(note, os.fsencode(partial), what)
        try:
            with appearing(target, what, partial=partial):
                yield partial
        finally:
            note.unlink(missing_ok=True)

    def ours(self, noted: str, folder: Path | None = None) -> Path:
        """A file of the data folder, or of one folder in it, by how it is noted: relative.

        Raises
        ------
        OutsideError
            When it lies elsewhere. Databases and orders may come from another machine.
        """
        path = self.root / noted
        if not is_plain(noted) or not path.is_relative_to(folder or self.root):
            raise OutsideError(f"‘{noted[:80]}’ is no file of this library. It was left alone.")
        return path

    def pictures_of(self, content_hash: str) -> list[Path]:
        """All that is drawn of a file, as far as it is there."""
        return sorted(self.peaks.glob(f"{_hash(content_hash)}.*"))

    def peaks_file(self, content_hash: str, bucket: int) -> Path:
        """The peaks of a file at one resolution."""
        return self.peaks / f"{_hash(content_hash)}.{bucket}.bin"

    def features_file(self, content_hash: str) -> Path:
        """What the analysis kept of a file's sound."""
        return self.peaks / f"{_hash(content_hash)}.features.npz"

    def onsets_file(self, content_hash: str) -> Path:
        """The onset strengths of a file, to draw."""
        return self.peaks / f"{_hash(content_hash)}.onsets.bin"

    def true_peaks_file(self, content_hash: str) -> Path:
        """The largest true peak of each 100 ms of a file."""
        return self.peaks / f"{_hash(content_hash)}.true-peaks.bin"

    def stem_file(self, content_hash: str, stem: str) -> Path:
        """A stem of a file."""
        return self.ours(f"{self.stems.name}/{_hash(content_hash)}.{stem}.flac", self.stems)

    def audio_file(self, stored: str) -> Path:
        """The audio file of a track: relative paths lie in the data folder, others stayed in their own place.

        Raises
        ------
        OutsideError
            When a relative one leads out of it.
        """
        if stored.startswith(AS_URI):
            return Path(os.fsdecode(unquote_to_bytes(stored.removeprefix(AS_URI))))
        path = Path(stored)
        return path if path.is_absolute() else self.ours(stored)

    def is_ours(self, stored: str) -> bool:
        """Whether the audio file of a track lies in the data folder, to be deleted with the track."""
        try:
            self.ours(stored, self.audio)
        except OutsideError:
            return False
        return True

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


def _hash(content_hash: str) -> str:
    """A hash as part of a name, which it is only if it is one."""
    if not re.fullmatch(r"[0-9a-f]{64}", content_hash):
        raise OutsideError(f"‘{content_hash[:80]}’ is no hash of a file. Import the track again.")
    return content_hash


def _clear_noted(note: Path) -> None:
    """Delete the unfinished file that a note names. A file of any other name is none of ours."""
    with suppress(OSError), open_regular(note, follow=False) as file:
        path = Path(os.fsdecode(file.read(1 << 16)))
        if path.is_absolute() and is_unfinished(path) and path.is_file() and not path.is_symlink():
            path.unlink(missing_ok=True)
