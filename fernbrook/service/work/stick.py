"""Filling a stick: only what changed, each file whole or not at all, and looked at again after it was written."""

from __future__ import annotations

import errno
import hashlib
import os
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path

from fernbrook.audio.at_rate import at_rate, frames_at
from fernbrook.audio.joining import Block
from fernbrook.audio.output import OutputFormat
from fernbrook.audio.source import Source
from fernbrook.audio.writer import Dressing, write_audio
from fernbrook.core.value import Value
from fernbrook.disk import writing
from fernbrook.errors import FernbrookError
from fernbrook.formats.sleeve import Sleeve, write_sleeve
from fernbrook.formats.stick import LISTS, MANIFEST, MARKUP, MUSIC, StickList, StickManifest, StickTrack
from fernbrook.formats.track_document import TrackDocument, document_text
from fernbrook.service.work.worker import Report, Result
from fernbrook.store.folders import Folders

PART = 1 << 20
BLOCK = 1 << 16


class StickError(FernbrookError):
    """A stick that cannot be written to, or does not keep what is written. The message says what to do."""


class StickItem(Value):
    """A track for a stick; ``path`` is its file as the data folder notes it, where it is written anew, and ``output``
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
    texts: dict[str, str]
    gone: tuple[str, ...]


def fill_stick(order: StickOrder, folder: Path, report: Report) -> Result:
    """Fill a stick and return how many files were written.

    What was there is whole at every moment: new files come first, then markup and lists, then the manifest; what goes,
    goes last.
    """
    root, folders = Path(order.root), Folders(folder)
    with _stick(root):
        for name in (MUSIC, MARKUP, LISTS):
            (root / name).mkdir(exist_ok=True)
        total = sum(x.track.bytes for x in order.items if x.path is not None) or 1
        tracks, done, written = [], 0, 0
        for item in order.items:
            track = item.track
            if item.path is not None:
                track = _put(item, folders.audio_file(item.path), root, _told(report, done, total))
                done += item.track.bytes
                written += 1
            put_text(root / track.markup, document_text(item.pending or track.document))
            tracks.append(track)
        for name, text in order.texts.items():
            put_text(root / name, text)
        manifest = StickManifest(exported_at=datetime.now(UTC), tracks=tuple(tracks), lists=order.lists)
        put_text(root / MANIFEST, manifest.model_dump_json(indent=1))
        for name in order.gone:
            (root / name).unlink(missing_ok=True)
    report(1.0)
    return {"written": written, "kept": len(tracks) - written, "gone": len(order.gone)}


def put_text(path: Path, text: str) -> None:
    """Write a text, whole or not at all."""
    partial = path.with_name(f".{path.name}.part")
    try:
        with writing(f"‘{path.name}’ was not put on the stick", path.parent), partial.open("wb") as file:
            file.write(text.encode())
            file.flush()
            os.fsync(file.fileno())
        partial.replace(path)
    finally:
        partial.unlink(missing_ok=True)


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


def _told(report: Report, done: int, total: int) -> Callable[[float], None]:
    return lambda size: report(min((done + size) / total, 1.0))


def _put(item: StickItem, source: Path, root: Path, report: Callable[[float], None]) -> StickTrack:
    """Write a track's file, read it again, and return the track with its size and hash."""
    target = root / item.track.file
    if item.output is None:
        meant = _copy(source, target, report)
    else:
        with writing(f"‘{target.name}’ was not put on the stick", root):
            _convert(item, item.output, source, target, report)
        meant = None
    found = _digest(target)
    if meant is not None and found != meant:
        raise StickError(
            f"‘{target.name}’ is not on the stick as it was written. The stick may be worn out: use another one."
        )
    return item.track.model_copy(update={"bytes": target.stat().st_size, "sha256": found})


def _copy(source: Path, target: Path, report: Callable[[float], None]) -> str:
    """Copy a file and return the SHA-256 of what was read."""
    partial, digest, size = target.with_name(f".{target.name}.part"), hashlib.sha256(), 0
    try:
        with (
            writing(f"‘{target.name}’ was not put on the stick", target.parent),
            source.open("rb") as read,
            partial.open("wb") as file,
        ):
            while part := read.read(PART):
                file.write(part)
                digest.update(part)
                size += len(part)
                report(size)
            file.flush()
            os.fsync(file.fileno())
        partial.replace(target)
    finally:
        if target.parent.is_dir():
            partial.unlink(missing_ok=True)
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
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()
