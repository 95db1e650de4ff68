"""Writing audio files: whole or not at all."""

from __future__ import annotations

import os
from collections.abc import Iterable
from pathlib import Path

import numpy as np
import soundfile
from numpy.typing import NDArray

from fernbrook.audio.output import OutputFormat
from fernbrook.disk import writing

WAV_LIMIT = 4_000_000_000


def write_audio(path: Path, blocks: Iterable[NDArray[np.float32]], frames: int, rate: int, output: OutputFormat) -> int:
    """Write blocks of shape (n, 2), ``frames`` in all, to a file and return how many samples it holds.

    The file appears under its name only when it is complete. 16-bit output carries triangular dither of two steps
    (Lipshitz, Wannamaker and Vanderkooy, "Quantization and dither", JAES 40(5), 1992), the same each time.

    Raises
    ------
    DiskFullError
        When there is no room for it; nothing of it is left.
    """
    partial = path.with_name(f".{path.name}.part")
    dither = np.random.default_rng(16)
    written = 0
    spec = output.spec
    try:
        with writing(f"‘{path.name}’ was not written", path):
            container = _container(output, frames)
            with soundfile.SoundFile(partial, "w", rate, 2, subtype=spec.subtype, format=container) as file:
                for block in blocks:
                    file.write(_dithered(block, dither) if spec.subtype == "PCM_16" else block)
                    written += len(block)
            with partial.open("rb+") as done:
                os.fsync(done.fileno())
            partial.replace(path)
    finally:
        partial.unlink(missing_ok=True)
    return written


def _container(output: OutputFormat, frames: int) -> str:
    """The container, in libsndfile's words; a WAV too large for its 32-bit sizes becomes an RF64 (EBU Tech 3306)."""
    spec = output.spec
    if spec.container == "WAV" and frames * 2 * spec.bytes_per_value > WAV_LIMIT:
        return "RF64"
    return spec.container


def _dithered(block: NDArray[np.float32], noise: np.random.Generator) -> NDArray[np.int16]:
    step = noise.random(block.shape, dtype=np.float32) - noise.random(block.shape, dtype=np.float32)
    return np.clip(np.rint(block * np.float32(32768.0) + step), -32768, 32767).astype(np.int16)
