"""Writing audio files: whole or not at all."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable, Sequence
from pathlib import Path

import av
import numpy as np
from numpy.typing import NDArray

from fernbrook.audio.encoder import Chapter, encoding
from fernbrook.audio.output import OutputFormat
from fernbrook.disk import is_full, writing
from fernbrook.errors import AudioFileError


def write_audio(
    path: Path,
    blocks: Iterable[NDArray[np.float32]],
    frames: int,
    rate: int,
    output: OutputFormat,
    chapters: Sequence[Chapter] = (),
    finish: Callable[[Path], None] | None = None,
) -> int:
    """Write blocks of shape (n, 2), ``frames`` in all, to a file and return how many samples were written.

    The file appears under its name only when it is complete; ``finish`` is given it before that, to add tags.

    Raises
    ------
    DiskFullError
        When there is no room for it; nothing of it is left.
    AudioFileError
        When its encoder fails.
    """
    partial = path.with_name(f".{path.name}.part")
    written = 0
    try:
        with writing(f"‘{path.name}’ was not written", path):
            try:
                with encoding(partial, output, frames, rate, chapters) as write:
                    for block in blocks:
                        write(block)
                        written += len(block)
            except av.FFmpegError as error:
                if is_full(error, path):
                    raise
                raise AudioFileError(f"‘{path.name}’ could not be encoded as {output.spec.label}: {error}.") from error
            if finish is not None:
                finish(partial)
            with partial.open("rb+") as done:
                os.fsync(done.fileno())
            partial.replace(path)
    finally:
        partial.unlink(missing_ok=True)
    return written
