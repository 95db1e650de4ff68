"""Filling a stick: only what changed, each file whole or not at all, and looked at again after it was written.

What lies on a stick is not ours: nothing on it is followed that leads elsewhere. One track that cannot be put on it is
said, and the others are.
"""

from __future__ import annotations

import errno
import hashlib
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path

from fernbrook.audio.files import Dressing, OutputFormat, write_audio
from fernbrook.audio.pace import at_rate, frames_at
from fernbrook.audio.sources import Block, Source
from fernbrook.core.value import Value
from fernbrook.enclosed import folder_inside, inside, open_regular
from fernbrook.errors import AudioFileError, DiskFullError, FernbrookError, RefusedError
from fernbrook.formats.sleeve import Sleeve, write_sleeve
from fernbrook.formats.stick import (
    FILLING,
    LISTS,
    MANIFEST,
    MARKUP,
    MUSIC,
    Filling,
    OnStick,
    StickList,
    StickManifest,
    StickTrack,
    files_of,
)
from fernbrook.formats.track_document import TrackDocument, document_text
from fernbrook.service.work.worker import Report, Result
from fernbrook.store.folders import Folders
from fernbrook.whole import appearing, clear, write_whole

PART = 1 << 20
BLOCK = 1 << 16
OF_ONE_FILE = {errno.ENAMETOOLONG, errno.EINVAL, errno.EILSEQ, errno.EISDIR, errno.ENOTDIR, errno.EFBIG}
"""What a stick says of one file, when the others may well go onto it."""


class StickError(FernbrookError):
    """A stick that cannot be written to, or does not keep what is written. The message says what to do."""


class StickItem(Value):
    """A track for a stick; ``path`` is its file as the data folder notes it, where it is written again, and ``output``
    and ``rate`` what it becomes, where it is converted. ``pending`` has what a player changed and nobody has taken."""

    track: StickTrack
    path: str | None = None
    output: OutputFormat | None = None
    rate: int = 44_100
    source_rate: int = 44_100
    pending: TrackDocument | None = None


class StickOrder(Value):
    """What is put on a stick: tracks, and lists as texts by their files there; ``gone`` are files that go."""

    root: str
    items: tuple[StickItem, ...]
    lists: tuple[StickList, ...]
    texts: dict[OnStick, str]
    gone: tuple[OnStick, ...]


def fill_stick(order: StickOrder, folder: Path, report: Report) -> Result:
    """Fill a stick; returns how many files were written, kept and taken off, and which tracks could not be put on it.

    What was there is whole at every moment: new files come first, then markup and lists, then the manifest; what goes,
    goes last. Only what Fernbrook put there itself goes, whatever the order says.
    """
    root, folders = Path(order.root), Folders(folder)
    with _stick(root):
        for name in (MUSIC, MARKUP, LISTS):
            clear(folder_inside(root, name))
        clear(root)
        there = files_of(root)
        coming = {n for x in order.items for n in (x.track.file, x.track.markup)} | set(order.texts)
        put_text(root, FILLING, Filling(files=tuple(sorted(there | coming))).model_dump_json())
        total = sum(x.track.bytes for x in order.items if x.path is not None) or 1
        tracks: list[StickTrack] = []
        failed: list[dict[str, str]] = []
        done = written = 0
        for item in order.items:
            try:
                tracks.append(_on(item, folders, root, _told(report, done, total)))
                written += item.path is not None
            except (OSError, FernbrookError) as error:
                if not _is_of_one_file(root, error):
                    raise
                failed.append({"title": item.track.title, "reason": _reason(error)})
            done += item.track.bytes if item.path is not None else 0
        put = {t.file for t in tracks}
        missing = {f"../{x.track.file}" for x in order.items if x.track.file not in put}
        for name, text in order.texts.items():
            put_text(root, name, _without(text, missing))
        manifest = StickManifest(exported_at=datetime.now(UTC), tracks=tuple(tracks), lists=order.lists)
        put_text(root, MANIFEST, manifest.model_dump_json(indent=1))
        gone = set(order.gone) & there - manifest.files
        for name in gone:
            inside(root, name).unlink(missing_ok=True)
        inside(root, FILLING).unlink(missing_ok=True)
    report(1.0)
    return {"written": written, "kept": len(tracks) - written, "gone": len(gone), "failed": failed}


def _on(item: StickItem, folders: Folders, root: Path, report: Callable[[float], None]) -> StickTrack:
    """Put a track on a stick: its file where that is not there yet, and its markup."""
    track = item.track
    if item.path is not None:
        track = _put(item, folders.audio_file(item.path), root, report)
    put_text(root, track.markup, document_text(item.pending or track.document))
    return track


def _without(text: str, missing: set[str]) -> str:
    """A list without the files that are not there: each has a line of its own after the one that says what it is."""
    lines = text.split("\n")
    gone = {n for n, line in enumerate(lines) if line in missing}
    return "\n".join(line for n, line in enumerate(lines) if n not in gone and n + 1 not in gone)


def put_text(root: Path, name: str, text: str) -> None:
    """Write a text on a stick, all of it or nothing."""
    write_whole(inside(root, name), text.encode(), _not_put(name))


@contextmanager
def _stick(root: Path) -> Iterator[None]:
    """Tell in plain words what goes wrong with a stick."""
    try:
        if not root.is_dir():
            raise FileNotFoundError(errno.ENOENT, "gone", str(root))
        yield
    except OSError as error:
        raise stick_error(root, error) from error


def stick_error(root: Path, error: OSError) -> StickError:
    """What went wrong, in plain words."""
    if not root.is_dir() or error.errno in (errno.ENODEV, errno.EIO, errno.ENXIO):
        return StickError(
            f"The stick at {root} is not there any more. Put it in again, then go on: what is on it is kept."
        )
    if error.errno in (errno.EROFS, errno.EACCES, errno.EPERM):
        return StickError(
            f"The stick at {root} cannot be written to: it is write-protected, or belongs to someone else."
        )
    return StickError(f"The stick at {root} could not be filled: {error.strerror or error}.")


def _is_of_one_file(root: Path, error: Exception) -> bool:
    """Whether the other tracks can still be put on a stick after one could not."""
    if isinstance(error, OSError):
        return root.is_dir() and error.errno in OF_ONE_FILE
    return isinstance(error, AudioFileError | RefusedError) and not isinstance(error, DiskFullError)


def _reason(error: Exception) -> str:
    if isinstance(error, OSError):
        return f"The stick does not take its file: {error.strerror or error}. Give the track a shorter, plainer title."
    return str(error)


def _told(report: Report, done: int, total: int) -> Callable[[float], None]:
    return lambda size: report(min((done + size) / total, 1.0))


def _not_put(name: str) -> str:
    return f"‘{name.rsplit('/', 1)[-1]}’ was not put on the stick"


def _put(item: StickItem, source: Path, root: Path, report: Callable[[float], None]) -> StickTrack:
    """Write a track's file, read it again, and return the track with its size and hash."""
    target = inside(root, item.track.file)
    if item.output is None:
        meant = _copy(source, target, item.track.title, report)
    else:
        _convert(item, item.output, source, target, report)
        meant = None
    found = _digest(target)
    if meant is not None and found != meant:
        raise StickError(
            f"‘{target.name}’ is not on the stick as it was written. The stick may be worn out: use another one."
        )
    return item.track.model_copy(update={"bytes": target.stat().st_size, "sha256": found})


def _copy(source: Path, target: Path, title: str, report: Callable[[float], None]) -> str:
    """Copy a file and return the SHA-256 of what was read."""
    digest, size = hashlib.sha256(), 0
    try:
        read = open_regular(source)
    except OSError as error:
        raise AudioFileError(f"The file of ‘{title}’ cannot be read: {error.strerror or error}.") from error
    with read, appearing(target, _not_put(target.name)) as partial, partial.open("wb") as file:
        while part := read.read(PART):
            file.write(part)
            digest.update(part)
            size += len(part)
            report(size)
    return digest.hexdigest()


def _convert(
    item: StickItem, output: OutputFormat, source: Path, target: Path, report: Callable[[float], None]
) -> None:
    with Source(source, item.source_rate, item.track.title) as sound:
        frames = frames_at(sound.frames, item.source_rate, item.rate)
        sleeve = Sleeve(item.track.title, item.track.artist)
        dressing = Dressing(finish=lambda path: write_sleeve(path, output.suffix, sleeve, frames / item.rate))
        blocks = at_rate(_blocks(sound), sound.frames, item.source_rate, item.rate)

        def told() -> Iterator[Block]:
            done = 0
            for block in blocks:
                yield block
                done += len(block)
                report(item.track.bytes * done / max(frames, 1))

        write_audio(target, told(), frames, item.rate, output, dressing)


def _blocks(sound: Source) -> Iterator[Block]:
    for at in range(0, sound.frames, BLOCK):
        yield sound.read(at, min(BLOCK, sound.frames - at))


def _digest(path: Path) -> str:
    with open_regular(path, follow=False) as file:
        return hashlib.file_digest(file, "sha256").hexdigest()
