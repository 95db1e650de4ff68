"""The audio files behind tracks: where they lie, and whether they still are what was analysed.

Size and time of a file are compared at each use; only when they differ from what is noted is its content read and
hashed. A file that was copied or restored gets its new time noted, one with other content is refused.
"""

from __future__ import annotations

import hashlib
import logging
from collections.abc import Iterable
from pathlib import Path

from sqlalchemy.orm import Session

from fernbrook.enclosed import OutsideError, open_regular
from fernbrook.errors import AudioFileError, DiskFullError, NotFoundError
from fernbrook.store.database import Database
from fernbrook.store.folders import Folders
from fernbrook.store.tables import TrackRow

DECODED_ONCE = {
    "m4a", "m4b", "mp4", "aac", "mov", "3gp", "mka", "mkv", "webm", "wv", "wma", "asf", "caf", "ac3", "eac3", "ape",
    "tta", "dts", "mp2",
}  # fmt: skip
"""Kinds of files that are decoded at import, to FLAC."""

log = logging.getLogger(__name__)


class SoundFiles:
    """Finds and checks the files of tracks."""

    def __init__(self, folders: Folders, database: Database) -> None:
        self._folders = folders
        self._database = database

    def find(self, track_id: str) -> Path:
        """Where the file of a track lies, or should.

        Raises
        ------
        NotFoundError
            When there is no such track.
        """
        with self._database.read() as session:
            track = session.get(TrackRow, track_id)
            if track is None:
                raise NotFoundError("That track is not in the library any more.")
            return self._path(track)

    def checked_all(self, keys: Iterable[str]) -> dict[str, Path]:
        """The files of some tracks and of their stems, by what parts know them by (``stem_key``).

        Raises
        ------
        AudioFileError
            As ``checked`` does; also when the stems of a track are gone.
        """
        wanted = dict.fromkeys(keys)
        found = self.checked([key for key in wanted if "/" not in key])
        with self._database.read() as session:
            for key in wanted:
                track_id, _, stem = key.partition("/")
                track = session.get(TrackRow, track_id) if stem else None
                if track is None:
                    continue
                path = self._folders.stem_file(track.content_hash, stem)
                if not path.is_file():
                    raise AudioFileError(f"The stems of ‘{track.title}’ are gone. Make them again.")
                found[key] = path
        return found

    def checked(self, track_ids: Iterable[str]) -> dict[str, Path]:
        """The files of some tracks, by track id, each known to be the one that was analysed.

        Raises
        ------
        AudioFileError
            When one is missing or was changed or replaced; it is named.
        """
        found, wrong = self.checked_each(track_ids)
        for error in wrong.values():
            raise error
        return found

    def checked_each(self, track_ids: Iterable[str]) -> tuple[dict[str, Path], dict[str, AudioFileError]]:
        """As ``checked``, but what is wrong with a file is told beside the files of the others."""
        with self._database.read() as session:
            tracks = [t for t in (session.get(TrackRow, i) for i in dict.fromkeys(track_ids)) if t is not None]
        found: dict[str, Path] = {}
        wrong: dict[str, AudioFileError] = {}
        seen = []
        for track in tracks:
            try:
                seen += [track] if self._has_new_times(track) else []
                found[track.id] = self._path(track)
            except AudioFileError as error:
                wrong[track.id] = error
        if seen:
            self._note(seen)
        return found, wrong

    def is_there(self, track: TrackRow) -> bool:
        """Whether the file of a track is there and is the one that was analysed."""
        try:
            self._has_new_times(track)
        except AudioFileError:
            return False
        return True

    def _path(self, track: TrackRow) -> Path:
        try:
            return self._folders.audio_file(track.path)
        except OutsideError as error:
            raise AudioFileError(f"The file of ‘{track.title}’ cannot be used: {error}") from error

    def _has_new_times(self, track: TrackRow) -> bool:
        """Whether size or time of a file are not those noted, though its content is; raises where that differs too."""
        path = self._path(track)
        try:
            now = path.stat()
        except OSError:
            raise AudioFileError(
                f"The file of ‘{track.title}’ is missing. Put it back, or import the track again: that puts it back."
            ) from None
        if (now.st_size, now.st_mtime_ns) == (track.kept_bytes, track.kept_mtime_ns):
            return False
        content = content_hash(path)
        if content not in (track.kept_hash or _imported_as(track) or content, track.next_hash):
            raise AudioFileError(
                f"The file of ‘{track.title}’ was changed or replaced since it was imported. Put the original back, or "
                "import it again: that puts it back. To use the new file, import it as a track of its own."
            )
        track.kept_bytes, track.kept_mtime_ns, track.kept_hash = now.st_size, now.st_mtime_ns, content
        return True

    def _note(self, seen: list[TrackRow]) -> None:
        """Remember sizes and times, so that the content need not be read next time."""
        try:
            with self._database.write() as session:
                for track in seen:
                    row = session.get(TrackRow, track.id)
                    if row is not None:
                        _copy_kept(track, row)
        except DiskFullError:
            log.warning("the disk is full: what was seen of files is not noted")


def note_kept(session: Session, row: TrackRow, path: Path) -> None:
    """Note a file as the one that is played."""
    now = path.stat()
    row.kept_bytes, row.kept_mtime_ns, row.kept_hash = now.st_size, now.st_mtime_ns, content_hash(path)
    session.flush()


def _imported_as(track: TrackRow) -> str | None:
    """The content that a file noted by an older version must have; None where it was decoded at import."""
    return None if track.format.lower() in DECODED_ONCE else track.content_hash


def _copy_kept(source: TrackRow, target: TrackRow) -> None:
    target.kept_bytes, target.kept_mtime_ns = source.kept_bytes, source.kept_mtime_ns
    target.kept_hash = source.kept_hash


def content_hash(path: Path) -> str:
    """The SHA-256 of a file's content, in hexadecimal."""
    try:
        with open_regular(path) as file:
            return hashlib.file_digest(file, "sha256").hexdigest()
    except OSError as error:
        raise AudioFileError(f"‘{path.name}’ cannot be opened: {error.strerror}.") from error
