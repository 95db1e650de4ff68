"""Packing a bundle, and taking one out to where its files can be put in their places."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from fernbrook.audio.files import to_flac
from fernbrook.core.value import Value
from fernbrook.formats.archive import archive_at, read_archive, take_out
from fernbrook.formats.bundle import BUNDLE
from fernbrook.service.work.worker import Report, Result
from fernbrook.store.folders import Folders
from fernbrook.whole import under_way


class PackedFile(Value):
    """A file that goes into a bundle: its name there, where it lies as the folder notes it, and whether as FLAC."""

    name: str
    path: str
    as_flac: bool = False


class PackOrder(Value):
    """What goes into a bundle: texts and files by their names, and where it is written, relative to the data folder.

    ``said`` is what its manifest says beside them, ``texts`` where the texts lie.
    """

    target: str
    said: dict[str, str | bool]
    texts: dict[str, str]
    files: tuple[PackedFile, ...]


def pack_bundle(order: PackOrder, root: Path, report: Report) -> Result:
    """Write a bundle and return what it is."""
    folders = Folders(root)
    target = folders.ours(order.target, folders.bundles)
    texts = {name: folders.ours(path, folders.bundles) for name, path in order.texts.items()}
    if not target.is_file():  # killed between its end and the note of it, it is there and whole
        _pack(order, folders, target, texts, report)
    for path in texts.values():
        path.unlink(missing_ok=True)
    return {"bytes": target.stat().st_size}


def _pack(order: PackOrder, folders: Folders, target: Path, texts: Mapping[str, Path], report: Report) -> None:
    with under_way(target) as folder, archive_at(target) as archive:
        for n, file in enumerate(order.files):
            source = folders.audio_file(file.path)
            if file.as_flac:
                made = folder / "as.flac"
                to_flac(source, made)
                source = made
            archive.add(file.name, source)
            report((n + 1) / (len(order.files) + 1))
        for name, path in texts.items():
            archive.add_bytes(name, path.read_bytes())
        archive.finish(BUNDLE, order.said)


class UnpackOrder(Value):
    """A bundle, which of its files are wanted, and the folder to take them out to; paths as the data folder notes them.

    ``take`` names the tracks, by their ids in the bundle, whose markup takes the place of what is here.
    """

    source: str
    names: tuple[str, ...]
    stage: str
    take: tuple[str, ...] = ()

    def places(self, folders: Folders) -> tuple[Path, Path]:
        """Where the bundle lies, and where its files are taken out to; raises OutsideError as ``Folders.ours`` does."""
        return folders.ours(self.source, folders.bundles), folders.ours(self.stage, folders.bundles)


def unpack_bundle(order: UnpackOrder, root: Path, report: Report) -> Result:
    """Take the wanted files out, each checked."""
    source, stage = order.places(Folders(root))
    archive = read_archive(source, BUNDLE)
    take_out(source, archive, {name: stage / name for name in order.names}, report)
    return {}
