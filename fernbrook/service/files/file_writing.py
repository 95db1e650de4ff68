"""Writing into the files of tracks what is known of them, and reading it when they come back.

A file is copied, its copy is written and decoded again; only when its sound is the same to the sample does it take the
place of the old one, at once. What the fields were before is kept, so that they can be brought back.
"""

from __future__ import annotations

import os
import re
import shutil
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from itertools import zip_longest
from pathlib import Path
from threading import Lock

import mutagen
import numpy as np
import soundfile
from sqlalchemy import select
from sqlalchemy.orm import Session

from fernbrook.core.mix.entries import suggested_gain
from fernbrook.core.mix.model import DEFAULT_TARGET_LUFS
from fernbrook.core.track import Key
from fernbrook.errors import AudioFileError, NotFoundError, RefusedError
from fernbrook.formats.file_fields import Field, read_fields, write_fields
from fernbrook.formats.tag_block import TagBlock, block_of, comments_of, put_back, put_comments
from fernbrook.formats.track_document import TrackDocument, document_text, read_document
from fernbrook.service.files.sound_files import SoundFiles, content_hash, note_kept
from fernbrook.service.ground import Events
from fernbrook.store import markup as kept
from fernbrook.store.database import Database
from fernbrook.store.folders import Folders
from fernbrook.store.tables import FileFieldsRow, TrackRow
from fernbrook.whole import write_whole

Fields = Mapping[Field, str | None]
BLOCK = 1 << 18
WHOLE, COMMENTS = b"block\n", b"comments\n"
"""How what is kept of a file begins: all but its sound, or its comments."""
NAMED = re.compile(r"\{([^{}]*)\}")
PATTERN_NAMES = ("title", "artist", "bpm", "key", "album", "genre", "year", "tags")


@dataclass(frozen=True)
class Wanted:
    """What is to be written. ``key`` is ``music`` or ``wheel``; ``title`` and ``comment`` are patterns."""

    bpm: bool = False
    key: str | None = None
    comment: str | None = None
    title: str | None = None
    gain: bool = False
    markup: bool = False


@dataclass(frozen=True)
class Change:
    """A field that would be, or was, changed; None where it is not there."""

    field: Field
    before: str | None
    after: str | None


class FileWriting:
    """All use cases that concern what stands in the files of tracks."""

    def __init__(self, folders: Folders, database: Database, events: Events, files: SoundFiles) -> None:
        self._folders = folders
        self._database = database
        self._events = events
        self._files = files
        self._writing = Lock()
        """One file at a time: two that write into the same one would each undo what the other did."""

    def preview(self, track_id: str, wanted: Wanted) -> list[Change]:
        """What writing would change in a track's file.

        Raises
        ------
        RefusedError
            When a pattern names what there is not.
        AudioFileError
            When the file is missing, or holds no tags.
        """
        path = self._files.checked([track_id]).get(track_id)
        with self._database.read() as session:
            row = _row(session, track_id)
            values = _values(session, row, wanted)
        if path is None:
            raise NotFoundError("That track is not in the library any more.")
        there = read_fields(path)
        return [Change(f, there[f], v) for f, v in values.items() if _apart(f, there[f], v)]

    def write(self, track_id: str, wanted: Wanted) -> list[Change]:
        """Write into a track's file; returns what was changed. Raises as ``preview`` does."""
        with self._writing:
            changes = self.preview(track_id, wanted)
            if changes:
                self._put(track_id, {c.field: c.after for c in changes}, {c.field: c.before for c in changes})
        return changes

    def restore(self, track_id: str) -> list[Change]:
        """Bring back what the fields of a file were before anything was written into it."""
        with self._writing:
            return self._restored(track_id)

    def _restored(self, track_id: str) -> list[Change]:
        path = self._files.checked([track_id]).get(track_id)
        with self._database.read() as session:
            row = session.get(FileFieldsRow, track_id)
            if row is None or path is None:
                raise RefusedError("Nothing was written into the file of this track.")
            before = {Field(name): value for name, value in row.before.items()}
        there = read_fields(path)
        self._put(track_id, before, None)
        now = read_fields(path)
        return [Change(f, there[f], now[f]) for f in Field if there[f] != now[f]]

    def clear(self) -> None:
        """Forget what was kept of files into which nothing was written: that was cut off before."""
        with self._database.read() as session:
            written = set(session.scalars(select(FileFieldsRow.track_id)))
        for path in self._folders.tags.glob("*.block"):
            if path.stem not in written:
                path.unlink(missing_ok=True)

    def _is_written(self, track_id: str) -> bool:
        with self._database.read() as session:
            return session.get(FileFieldsRow, track_id) is not None

    def _put(self, track_id: str, values: Fields, before: Fields | None) -> None:
        """Write fields, note the file as it then is, and what the fields were; None forgets that.

        What the file will be is noted before it takes its place: killed between, the file is known all the same.
        """
        path = self._files.find(track_id)
        kept_at = self._folders.tag_block(track_id)

        def change(copy: Path) -> None:
            if before is None and _as_it_was(path, kept_at, copy):
                return
            if before is not None and not self._is_written(track_id):
                block = block_of(path)
                write_whole(kept_at, WHOLE + block.to_bytes() if block else COMMENTS + (comments_of(path) or b""))
            write_fields(copy, values)

        def expect(content: str) -> None:
            with self._database.write() as session:
                _row(session, track_id).next_hash = content
                if before is not None:
                    _note_before(session, track_id, before)

        replace_file(path, change, self._folders, expect)
        with self._database.write() as session:
            note_kept(session, _row(session, track_id), path)
            if before is None:
                session.delete(session.get_one(FileFieldsRow, track_id))
        if before is None:
            kept_at.unlink(missing_ok=True)
        self._events.tell({"type": "tracks"})


def _as_it_was(path: Path, kept_at: Path, copy: Path) -> bool:
    """Make a copy of a file what the file was before anything was written into it, as far as that was kept."""
    try:
        kept_as = kept_at.read_bytes()
        if kept_as.startswith(WHOLE):
            return put_back(path, TagBlock.from_bytes(kept_as.removeprefix(WHOLE)), copy)
        if kept_as.startswith(COMMENTS) and len(kept_as) > len(COMMENTS):
            put_comments(copy, kept_as.removeprefix(COMMENTS))
            return True
        return False
    except (OSError, ValueError, KeyError, TypeError, mutagen.MutagenError):
        return False  # kept by an older version, or damaged: the fields are put back


def _note_before(session: Session, track_id: str, before: Fields) -> None:
    """Keep what fields were; what was noted of them first is what the file came with."""
    named = {f.value: v for f, v in before.items()}
    row = session.get(FileFieldsRow, track_id)
    if row is None:
        session.add(FileFieldsRow(track_id=track_id, before=named))
    else:
        row.before = named | row.before


def replace_file(
    path: Path, change: Callable[[Path], None], folders: Folders, expect: Callable[[str], None] = lambda _: None
) -> None:
    """Change a copy of a file, and put it in the file's place when its sound is the same.

    ``expect`` is told the content hash of what the file is about to become. Where the file is a link, what it leads to
    is replaced, and the link stays.

    Raises
    ------
    AudioFileError
        When the sound would not be the same. The file is as it was.
    """
    path = path.resolve()
    with folders.appearing_elsewhere(path, f"the tags of ‘{path.name}’ were not written") as copy:
        shutil.copy2(path, copy)
        change(copy)
        if not _same_sound(path, copy):
            raise AudioFileError(f"Writing into ‘{path.name}’ would change its sound. It was left as it is.")
        expect(content_hash(copy))


def document_in(path: Path) -> TrackDocument | None:
    """What travels in a file; None where there is nothing, or nothing that can be read."""
    try:
        return read_document(read_fields(path)[Field.MARKUP])
    except AudioFileError:
        return None


def document_of(session: Session, row: TrackRow) -> TrackDocument:
    """All that was set by hand on a track."""
    head = kept.head_of(session, row)
    return TrackDocument(
        changed_at=head.created_at if head else row.added_at,
        of=row.content_hash,
        duration_s=row.duration_s,
        key=row.key,
        tags=tuple(row.tags or ()),
        markup=kept.markup_of(session, row),
    )


def take_document(session: Session, row: TrackRow, document: TrackDocument) -> None:
    """Give a track what came in its file."""
    row.tags, row.offered = list(document.tags) or row.tags, None
    row.key = document.key or row.key
    kept.advance(session, row, document.markup, "from its file")


def _values(session: Session, row: TrackRow, wanted: Wanted) -> dict[Field, str | None]:
    """The values of the fields that are wanted and known."""
    markup = kept.markup_of(session, row)
    key = Key.parse(row.key or row.key_tag or "")
    spelled = None if key is None else key.wheel if wanted.key == "wheel" else key.name
    words = {
        "title": row.title, "artist": row.artist, "bpm": f"{row.bpm:.2f}".rstrip("0").rstrip(".") if row.bpm else "",
        "key": spelled or "", "album": row.album, "genre": row.genre, "year": str(row.year or ""),
        "tags": ", ".join(row.tags or ()),
    }  # fmt: skip
    values: dict[Field, str | None] = {}
    if wanted.bpm and row.bpm:
        values[Field.BPM] = words["bpm"]
    if wanted.key and spelled:
        values[Field.KEY] = spelled
    if wanted.comment is not None:
        values[Field.COMMENT] = _filled(wanted.comment, words)
    if wanted.title is not None:
        values[Field.TITLE] = _filled(wanted.title, words)
    gain = suggested_gain(row.loudness_lufs, row.true_peak_dbtp, DEFAULT_TARGET_LUFS)
    if wanted.gain and gain is not None:
        values[Field.GAIN] = f"{gain + markup.trim_db:+.2f} dB"
    if wanted.markup:
        values[Field.MARKUP] = document_text(document_of(session, row))
    return values


def _filled(pattern: str, words: Mapping[str, str]) -> str:
    """A pattern with its names replaced: ``{bpm} {key} {artist} - {title}``."""

    def word(found: re.Match[str]) -> str:
        name = found[1]
        if name not in words:
            known = ", ".join(f"{{{name}}}" for name in PATTERN_NAMES)
            raise RefusedError(f"‘{found[0][:40]}’ in the pattern stands for nothing. Known are {known}.")
        return words[name]

    if re.search(r"[{}]", re.sub(NAMED, "", pattern)):
        raise RefusedError(f"A bracket in the pattern ‘{pattern[:80]}’ has no other. It takes names like {{title}}.")
    return " ".join(re.sub(NAMED, word, pattern).split())


def _apart(field: Field, one: str | None, other: str | None) -> bool:
    """Whether two values of a field differ by more than how they are written."""
    if field is Field.MARKUP:
        was, now_is = read_document(one), read_document(other)
        return was is None or now_is is None or was.model_copy(update={"changed_at": now_is.changed_at}) != now_is
    return (one or None) != (other or None)


def _same_sound(one: Path, other: Path) -> bool:
    """Whether two files decode to the same samples."""
    pairs = zip_longest(_blocks(one), _blocks(other))
    return all(a is not None and b is not None and np.array_equal(a, b) for a, b in pairs)


def _blocks(path: Path) -> Iterator[np.ndarray]:
    try:
        yield from soundfile.blocks(os.fsencode(path), BLOCK, dtype="float64", always_2d=True)
    except soundfile.SoundFileError as error:
        raise AudioFileError(f"‘{path.name}’ cannot be decoded: it is damaged.") from error


def _row(session: Session, track_id: str) -> TrackRow:
    row = session.get(TrackRow, track_id)
    if row is None:
        raise NotFoundError("That track is not in the library any more.")
    return row
