"""What writes samples, and pictures, into a file of some kind: libsndfile for what is lossless, FFmpeg's encoders for
the rest."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import soundfile
from av.container.output import OutputContainer
from numpy.typing import NDArray

from fernbrook.audio.files.output import Encoder, OutputFormat, VideoSpec
from fernbrook.errors import AudioFileError

WAV_LIMIT = 4_000_000_000
CHAPTER_TICKS = 1000
VORBIS_QUALITY = 0.2
"""libsndfile's compression, 0 to 1: Vorbis' quality 8."""

INDEXED = {"ipod", "mp4"}
WITH_CHAPTERS = {*INDEXED, "webm"}
"""Containers whose chapters stand in the container itself."""

Write = Callable[[NDArray[np.float32]], None]


@dataclass(frozen=True)
class Pictures:
    """Pictures of shape (height, width, 3) in RGB, so many a second, each by its number from 0."""

    width: int
    height: int
    rate: int
    at: Callable[[int], NDArray[np.uint8]]


Chapter = tuple[float, str]
"""Where a part of a file begins, in seconds, and what it is called."""


@contextmanager
def encoding(
    path: Path,
    output: OutputFormat,
    frames: int,
    rate: int,
    chapters: Sequence[Chapter] = (),
    pictures: Pictures | None = None,
) -> Iterator[Write]:
    """Open a file to be written to block by block, shape (n, 2); it is whole when the context is left.

    ``frames`` is how many there will be. Only kinds whose chapters stand in the container itself are given theirs here,
    and only videos pictures.
    """
    spec = output.spec
    if spec.encoder is Encoder.FFMPEG:
        # An index at the start lets a page or a player begin before all of the file has come.
        first = {"movflags": "faststart"} if spec.container in INDEXED else {}
        with av.open(str(path), "w", format=spec.container, options=first) as container:
            yield from _with_ffmpeg(container, output, frames, rate, chapters, pictures)
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
    container: OutputContainer,
    output: OutputFormat,
    frames: int,
    rate: int,
    chapters: Sequence[Chapter],
    pictures: Pictures | None,
) -> Iterator[Write]:
    spec = output.spec
    film = _Film(container, spec.video, pictures) if spec.video and pictures else None
    stream = container.add_stream(spec.subtype, rate=rate, layout="stereo", options=dict(spec.settings))
    if not isinstance(stream, av.AudioStream):
        raise TypeError(f"{spec.subtype} is no encoder of sound")
    if chapters and spec.container in WITH_CHAPTERS:
        container.set_chapters(_marks(chapters, frames / rate))
    done = 0

    def write(block: NDArray[np.float32]) -> None:
        nonlocal done
        frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(block.T), format="fltp", layout="stereo")
        frame.sample_rate, frame.pts, frame.time_base = rate, done, Fraction(1, rate)
        done += len(block)
        container.mux(stream.encode(frame))
        if film is not None:
            film.up_to(done / rate)

    yield write
    container.mux(stream.encode(None))
    if film is not None:
        film.end()


class _Film:
    """The pictures of a file, encoded as far as its sound has come."""

    def __init__(self, container: OutputContainer, spec: VideoSpec, pictures: Pictures) -> None:
        self._container, self._pictures, self._done = container, pictures, 0
        name = encoder_of(spec)
        if name is None:
            raise AudioFileError(f"No encoder for this kind of video is here: it would take {spec.encoders[0]}.")
        settings = dict(spec.settings) if name == spec.encoders[0] else {}
        stream = container.add_stream(name, rate=pictures.rate, options=settings)
        if not isinstance(stream, av.VideoStream):
            raise TypeError(f"{name} is no encoder of pictures")
        stream.width, stream.height, stream.pix_fmt = pictures.width, pictures.height, "yuv420p"
        stream.codec_context.thread_count = 0
        self._stream = stream

    def up_to(self, seconds: float) -> None:
        while self._done / self._pictures.rate < seconds:
            frame = av.VideoFrame.from_ndarray(self._pictures.at(self._done), format="rgb24")
            frame.pts, frame.time_base = self._done, Fraction(1, self._pictures.rate)
            self._container.mux(self._stream.encode(frame))
            self._done += 1

    def end(self) -> None:
        self._container.mux(self._stream.encode(None))


def encoder_of(spec: VideoSpec) -> str | None:
    """The encoder of this machine that pictures are encoded by; None where there is none."""
    for name in spec.encoders:
        try:
            av.codec.Codec(name, "w")
        except ValueError:
            continue
        return name
    return None


def can_write(output: OutputFormat) -> bool:
    """Whether this machine has what a kind of file needs."""
    video = output.spec.video
    return video is None or encoder_of(video) is not None


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
