"""Writing audio files: whole or not at all."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from pathlib import Path

import av
import numpy as np
from numpy.typing import NDArray

from fernbrook.audio.files.encoder import Chapter, Pictures, encoding
from fernbrook.audio.files.output import OutputFormat
from fernbrook.disk import is_full
from fernbrook.errors import AudioFileError
from fernbrook.whole import appearing


@dataclass(frozen=True)
class Dressing:
    """What goes into a file beside its sound: chapters and pictures while it is written; ``finish`` is given it before
    it appears, to add tags."""

    chapters: tuple[Chapter, ...] = ()
    pictures: Pictures | None = None
    finish: Callable[[Path], None] | None = None


def write_audio(
    path: Path,
    blocks: Iterable[NDArray[np.float32]],
    frames: int,
    rate: int,
    output: OutputFormat,
    dressing: Dressing | None = None,
) -> int:
    """Write blocks of shape (n, 2), ``frames`` in all, to a file and return how many samples were written.

    The file appears under its name only when it is complete.

    Raises
    ------
    DiskFullError
        When there is no room for it; nothing of it is left.
    AudioFileError
        When its encoder fails.
    """
    dressing = dressing or Dressing()
    written = 0
    with appearing(path) as partial:
        try:
            with encoding(partial, output, frames, rate, dressing.chapters, dressing.pictures) as write:
                for block in blocks:
                    write(block)
                    written += len(block)
        except av.FFmpegError as error:
            if is_full(error, path):
                raise
            raise AudioFileError(
                f"‘{path.name}’ could not be encoded as {output.spec.label}. Choose another kind of file."
            ) from error
        if dressing.finish is not None:
            dressing.finish(partial)
    return written
