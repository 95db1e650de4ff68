"""A file as an endless stereo signal at the rate of the mix, read at any place."""

from __future__ import annotations

import os
from collections.abc import Hashable
from pathlib import Path
from types import TracebackType
from typing import Protocol

import numpy as np
import soundfile
from numpy.typing import NDArray

from fernbrook.audio.files import check_samples, to_stereo
from fernbrook.audio.pace import interpolate, margin
from fernbrook.errors import AudioFileError

KEPT = 1 << 17
"""Samples read at once, or more where more are asked for, and kept, so that small overlapping reads cost one decode."""


class Readable(Protocol):
    """Sound at the rate of the mix that is read at any place."""

    rate: int

    def read(self, start: int, frames: int) -> NDArray[np.float32]:
        """Samples from ``start`` on; shape (frames, 2)."""
        ...


class Sounding(Readable, Protocol):
    """Sound that is known from all other: what is kept of it is kept by its ``identity``."""

    identity: Hashable


class Source:
    """Reads a file as float32 stereo at ``rate``; silence lies before its start and after its end.

    Where the file has that rate and two channels, samples pass bit-exact. Reading has no memory: the same place
    gives the same samples whatever was read before.
    """

    def __init__(self, path: Path, rate: int, name: str | None = None) -> None:
        """Open a file; ``name`` is what messages call it, its file name otherwise."""
        self._name = name or path.name
        try:
            self._file = soundfile.SoundFile(os.fsencode(path))
        except (soundfile.SoundFileError, RuntimeError) as error:
            raise AudioFileError(
                f"‘{self._name}’ cannot be opened. It was moved, renamed or damaged since it was imported; "
                "put it back, or remove the track and import it again."
            ) from error
        self._step = self._file.samplerate / rate
        self._cutoff = min(1.0, 0.98 / self._step) if self._step > 1 else 1.0
        self._kept = np.zeros((0, 2), dtype=np.float32)
        self._kept_from = 0
        stat = path.stat()
        self.identity: Hashable = (str(path), stat.st_size, stat.st_mtime_ns, rate)
        self.rate = rate
        self.frames = int(np.ceil(self._file.frames / self._step))

    def __enter__(self) -> Source:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.close()

    def close(self) -> None:
        """Let go of the file."""
        self._file.close()

    def read(self, start: int, frames: int) -> NDArray[np.float32]:
        """Samples from ``start`` (may be negative) at the mix's rate; shape (frames, 2)."""
        if self._step == 1.0:
            return self._native(start, frames)
        positions = (start + np.arange(frames)) * self._step
        pad = margin(self._cutoff)
        first = int(np.floor(positions[0])) - pad
        last = int(np.ceil(positions[-1])) + pad
        return interpolate(self._native(first, last - first + 1), positions - first, self._cutoff)

    def _native(self, start: int, frames: int) -> NDArray[np.float32]:
        """Samples at the file's own rate, silence outside of it; shape (frames, 2)."""
        out = np.zeros((frames, 2), dtype=np.float32)
        begin, end = max(start, 0), min(start + frames, self._file.frames)
        at = begin
        while at < end:
            if not self._kept_from <= at < self._kept_from + len(self._kept):
                self._fill(at, end)
                if not len(self._kept):
                    break
            piece = self._kept[at - self._kept_from : end - self._kept_from]
            out[at - start : at - start + len(piece)] = piece
            at += len(piece)
        return out

    def _fill(self, at: int, end: int) -> None:
        """Decode the file from a sample to an end, or further, with a little before it for readers that look back."""
        begin = max(0, at - KEPT // 8)
        try:
            self._file.seek(begin)
            self._kept = to_stereo(self._file.read(max(KEPT, end - begin), dtype="float32", always_2d=True))
        except (soundfile.SoundFileError, RuntimeError) as error:
            raise AudioFileError(
                f"‘{self._name}’ cannot be read any further at {at / self._file.samplerate:.1f} s: "
                "the file is damaged or was cut off."
            ) from error
        check_samples(self._kept, self._name, begin / self._file.samplerate, self._file.samplerate)
        self._kept_from = begin
        if at >= begin + len(self._kept):
            self._kept = self._kept[:0]
