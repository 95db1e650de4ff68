"""Whether files are still those that work on them began with: who replaces one meanwhile gets no mixture of both."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from pathlib import Path

from fernbrook.errors import AudioFileError

Stamp = tuple[int, int]
"""The size of a file in bytes, and its time in nanoseconds."""


def stamps_of(paths: Mapping[str, Path]) -> dict[str, Stamp]:
    """The stamps of some files, by what they are known by; those that are not there have none."""
    found = {}
    for key, path in paths.items():
        try:
            now = path.stat()
        except OSError:
            continue
        found[key] = (now.st_size, now.st_mtime_ns)
    return found


@contextmanager
def unchanged(
    paths: Mapping[str, Path], target: Path, names: Mapping[str, str], stamps: Mapping[str, Stamp] | None = None
) -> Iterator[None]:
    """See that files stay as they are while the block makes ``target`` of them; if one does not, that goes again.

    Parameters
    ----------
    names : what messages call the files, by the same keys; of what has none, the file's own name is told
    stamps : how they were when it was decided what to make; as they are now where nothing is said

    Raises
    ------
    AudioFileError
        When one is another than it was, before or after.
    """
    meant = dict(stamps) if stamps is not None else stamps_of(paths)
    _check(paths, names, meant)
    yield
    try:
        _check(paths, names, meant)
    except AudioFileError:
        target.unlink(missing_ok=True)
        raise


def _check(paths: Mapping[str, Path], names: Mapping[str, str], meant: Mapping[str, Stamp]) -> None:
    now = stamps_of({key: path for key, path in paths.items() if key in meant})
    for key, stamp in meant.items():
        if now.get(key) != stamp and key in paths:
            raise AudioFileError(
                f"The file of ‘{names.get(key, paths[key].name)}’ was changed or replaced while it was used. "
                "Nothing was made. Put the right file there, then try again."
            )
