"""Files that libsndfile does not read are decoded once, to FLAC, so that everything downstream has one decoder."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path

import av
import numpy as np
import soundfile
from numpy.typing import NDArray

from fernbrook.errors import AudioFileError

BLOCK = 1 << 16
CONTAINERS = ("mov", "mp4", "aac", "matroska")


def transcode(source: Path, target: Path) -> None:
    """Decode an M4A or AAC file to 24-bit FLAC.

    Raises
    ------
    AudioFileError
        When it is not such a file or cannot be decoded.
    """
    unreadable = AudioFileError(
        f"‘{source.name}’ is not an audio file that can be read. WAV, FLAC, MP3, Ogg, Opus, AIFF and M4A can be."
    )
    try:
        with source.open("rb") as file, av.open(file, "r") as container:
            known = any(name in container.format.name for name in CONTAINERS)
            if not known or not container.streams.audio:
                raise unreadable
            stream = container.streams.audio[0]
            rate, channels = stream.rate, stream.channels
            with soundfile.SoundFile(target, "w", rate, channels, format="FLAC", subtype="PCM_24") as out:
                for block in _decoded(container, stream):
                    out.write(block)
    except (av.FFmpegError, ValueError, soundfile.SoundFileError) as error:
        target.unlink(missing_ok=True)
        raise unreadable from error


def to_flac(source: Path, target: Path) -> None:
    """Write a file that libsndfile reads as FLAC: the same samples where it has 16 or 24 bits, else 24 bits of them.

    Raises
    ------
    AudioFileError
        When it cannot be decoded.
    """
    try:
        with soundfile.SoundFile(os.fsencode(source)) as file:
            subtype = "PCM_16" if file.subtype == "PCM_16" else "PCM_24"
            with soundfile.SoundFile(
                target, "w", file.samplerate, file.channels, format="FLAC", subtype=subtype
            ) as out:
                for block in file.blocks(BLOCK, dtype="float64", always_2d=True):
                    out.write(np.clip(block, -1.0, 1.0))
    except soundfile.SoundFileError as error:
        target.unlink(missing_ok=True)
        raise AudioFileError(
            f"‘{source.name}’ cannot be decoded: it is damaged. Copy it again from where it came from."
        ) from error


def _decoded(container: av.container.InputContainer, stream: av.AudioStream) -> Iterator[NDArray[np.float32]]:
    """Blocks of shape (n, channels)."""
    resampler = av.AudioResampler(format="flt", layout=stream.layout, rate=stream.rate)
    for frame in container.decode(stream):
        for piece in resampler.resample(frame):
            yield np.asarray(piece.to_ndarray(), dtype=np.float32).reshape(-1, stream.channels)
