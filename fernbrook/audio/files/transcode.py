"""Files that libsndfile does not read are decoded once, to FLAC, so that everything downstream has one decoder."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path

import av
import numpy as np
import soundfile
from numpy.typing import NDArray

from fernbrook.audio.files.file import broken_off
from fernbrook.disk import is_full
from fernbrook.errors import AudioFileError

BLOCK = 1 << 16
MISSED_S = 2.0
"""A container may tell its length by so much too long: what is raw is guessed from its bit rate."""
CONTAINERS = (
    "mov,mp4,m4a,3gp,3g2,mj2", "matroska,webm", "aac", "wv", "asf", "caf", "ac3", "eac3", "ogg", "ape", "tta", "dts",
    "mp3", "flac", "wav", "aiff",
)  # fmt: skip
"""What is opened, by FFmpeg's names: files of sound, and none that leads to other files or to the net."""
OPTIONS = {"format_whitelist": ",".join(CONTAINERS), "protocol_whitelist": "none"}


def transcode(source: Path, target: Path) -> None:
    """Decode a file that FFmpeg reads to 24-bit FLAC.

    Raises
    ------
    AudioFileError
        When it is no such file, has no sound in it, or cannot be decoded.
    """
    unreadable = AudioFileError(
        f"‘{source.name}’ is no audio file that can be read: it is damaged, or not what its name says. WAV, FLAC, MP3, "
        "Ogg, Opus, AIFF, M4A, WavPack, ALAC, WMA and AC-3 can be read."
    )
    try:
        with source.open("rb") as file, av.open(file, "r", options=OPTIONS) as container:
            if not container.streams.audio:
                raise AudioFileError(f"There is no sound in ‘{source.name}’. Choose the file that the sound is in.")
            stream = container.streams.audio[0]
            if stream.codec_context is None:
                raise unreadable
            rate, channels = stream.rate, stream.channels
            length_s = _length_s(container, stream)
            done, is_damaged = 0, False
            with soundfile.SoundFile(target, "w", rate, channels, format="FLAC", subtype="PCM_24") as out:
                try:
                    for block in _decoded(container, stream):
                        out.write(block)
                        done += len(block)
                except (av.FFmpegError, OSError):
                    is_damaged = done > 0
                    if not is_damaged:
                        raise
            if is_damaged or (length_s is not None and length_s - done / rate > MISSED_S):
                target.unlink(missing_ok=True)
                raise broken_off(source.name, done / rate, max(length_s or 0.0, done / rate))
    except (av.FFmpegError, OSError, ValueError, soundfile.SoundFileError) as error:
        target.unlink(missing_ok=True)
        if isinstance(error, OSError) and is_full(error, target):
            raise
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


def _length_s(container: av.container.InputContainer, stream: av.AudioStream) -> float | None:
    """How long a file says that it is; None where it does not."""
    if stream.duration is not None and stream.time_base is not None:
        return float(stream.duration * stream.time_base)
    return None if container.duration is None else container.duration / av.time_base


def _decoded(container: av.container.InputContainer, stream: av.AudioStream) -> Iterator[NDArray[np.float32]]:
    """Blocks of shape (n, channels)."""
    resampler = av.AudioResampler(format="flt", layout=stream.layout, rate=stream.rate)
    for frame in container.decode(stream):
        for piece in resampler.resample(frame):
            yield np.asarray(piece.to_ndarray(), dtype=np.float32).reshape(-1, stream.channels)
