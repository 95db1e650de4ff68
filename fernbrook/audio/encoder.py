"""What writes samples into a file of some kind: libsndfile for what is lossless, FFmpeg's encoders for the rest."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import soundfile
from av.container.output import OutputContainer
from numpy.typing import NDArray

from fernbrook.audio.output import Encoder, OutputFormat

WAV_LIMIT = 4_000_000_000
CHAPTER_TICKS = 1000
VORBIS_QUALITY = 0.2
"""libsndfile's compression, 0 to 1: Vorbis' quality 8."""

Write = Callable[[NDArray[np.float32]], None]


Chapter = tuple[float, str]
"""Where a part of a file begins, in seconds, and what it is called."""


@contextmanager
def encoding(
    path: Path, output: OutputFormat, frames: int, rate: int, chapters: Sequence[Chapter] = ()
) -> Iterator[Write]:
    """Open a file to be written to block by block, shape (n, 2); it is whole when the context is left.

    ``frames`` is how many there will be. Only kinds whose chapters stand in the container itself are given theirs here.
    """
    spec = output.spec
    if spec.encoder is Encoder.FFMPEG:
        with av.open(str(path), "w", format=spec.container) as container:
            yield from _with_ffmpeg(container, output, frames, rate, chapters)
        return
    quality = {"compression_level": VORBIS_QUALITY} if spec.subtype == "VORBIS" else {}
    with soundfile.SoundFile(
        path, "w", rate, 2, subtype=spec.subtype, format=_container(output, frames), **quality
    ) as file:
        dither = np.random.default_rng(16)

        def write(block: NDArray[np.float32]) -> None:
            file.write(_dithered(block, dither) if spec.subtype == "PCM_16" else block)

        yield write


def _with_ffmpeg(
    container: OutputContainer, output: OutputFormat, frames: int, rate: int, chapters: Sequence[Chapter]
) -> Iterator[Write]:
    spec = output.spec
    stream = container.add_stream(spec.subtype, rate=rate, layout="stereo", options=dict(spec.settings))
    if not isinstance(stream, av.AudioStream):
        raise TypeError(f"{spec.subtype} is no encoder of sound")
    if chapters and spec.suffix == "m4a":
        container.set_chapters(_marks(chapters, frames / rate))
    done = 0

    def write(block: NDArray[np.float32]) -> None:
        nonlocal done
        frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(block.T), format="fltp", layout="stereo")
        frame.sample_rate, frame.pts, frame.time_base = rate, done, Fraction(1, rate)
        done += len(block)
        container.mux(stream.encode(frame))

    yield write
    container.mux(stream.encode(None))


def _marks(chapters: Sequence[Chapter], duration_s: float) -> list[av.container.core.Chapter]:
    """Chapters as FFmpeg has them, each up to the next."""
    starts = [round(start_s * CHAPTER_TICKS) for start_s, _ in chapters]
    ends = [*starts[1:], round(duration_s * CHAPTER_TICKS)]
    return [
        {
            "id": n,
            "start": start,
            "end": max(end, start + 1),
            "time_base": Fraction(1, CHAPTER_TICKS),
            "metadata": {"title": title},
        }
        for n, ((_, title), start, end) in enumerate(zip(chapters, starts, ends, strict=True))
    ]


def _container(output: OutputFormat, frames: int) -> str:
    """The container, in libsndfile's words; a WAV too large for its 32-bit sizes becomes an RF64 (EBU Tech 3306)."""
    spec = output.spec
    if spec.container == "WAV" and frames * 2 * spec.bytes_per_value > WAV_LIMIT:
        return "RF64"
    return spec.container


def _dithered(block: NDArray[np.float32], noise: np.random.Generator) -> NDArray[np.int16]:
    """Triangular dither of two steps, the same each time (Lipshitz, Wannamaker and Vanderkooy, "Quantization and
    dither", JAES 40(5), 1992)."""
    step = noise.random(block.shape, dtype=np.float32) - noise.random(block.shape, dtype=np.float32)
    return np.clip(np.rint(block * np.float32(32768.0) + step), -32768, 32767).astype(np.int16)
