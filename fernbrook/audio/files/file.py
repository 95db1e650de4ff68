"""What a file holds, and whether it can be used at all."""

from __future__ import annotations

import os
from dataclasses import dataclass
from pathlib import Path

import soundfile

from fernbrook.audio.files.samples import check_samples
from fernbrook.errors import AudioFileError

MIN_SECONDS = 1.0
MAX_SECONDS = 4 * 3600.0
MAX_CHANNELS = 8
RATES = (8_000, 192_000)
COULD_BE_ANYTHING = {"FLOAT", "DOUBLE"}
"""Codings in which a sample need not be a sensible number: all of such a file is looked at."""
BLOCK = 1 << 18
SMALL = 1 << 14
"""So that the moment at which a file breaks off is known to a third of a second."""
MISSED_S = 0.5
"""A compressed file may tell its length by so much too long."""


@dataclass(frozen=True)
class AudioInfo:
    """The technical facts of a file. ``subtype`` is the coding within the format, such as 16-bit PCM."""

    format: str
    subtype: str
    rate: int
    channels: int
    frames: int

    @property
    def duration_s(self) -> float:
        """How long it lasts."""
        return self.frames / self.rate


def probe(path: Path) -> AudioInfo:
    """Read the facts of a file that libsndfile decodes.

    Raises
    ------
    AudioFileError
        When the file is missing, empty, not audio, cut off, outside of what can be mixed, or holds samples that are
        no sound.
    """
    if not path.is_file():
        raise AudioFileError(f"‘{path.name}’ is not there any more. Put it back, or import it from where it is now.")
    if path.stat().st_size == 0:
        raise AudioFileError(f"‘{path.name}’ is empty (0 bytes). Copy it again from where it came from.")
    try:
        with soundfile.SoundFile(os.fsencode(path)) as file:
            info = AudioInfo(file.format, file.subtype_info, file.samplerate, file.channels, file.frames)
            if file.subtype in COULD_BE_ANYTHING:
                for number, block in enumerate(file.blocks(BLOCK, dtype="float32", always_2d=True)):
                    check_samples(block, path.name, number * BLOCK / file.samplerate, file.samplerate)
            else:
                file.read(min(1024, file.frames), dtype="float32", always_2d=True)
    except (soundfile.SoundFileError, RuntimeError, ValueError) as error:
        raise AudioFileError(
            f"‘{path.name}’ cannot be read as audio: it is damaged, or not what its name says. "
            "Play it in another program to check, then export or download it again."
        ) from error
    check_usable(path.name, info)
    return info


def decodes(path: Path) -> bool:
    """Whether libsndfile knows the file by its content, whatever its name says."""
    try:
        return bool(soundfile.info(os.fsencode(path)).frames)
    except soundfile.SoundFileError:
        return False


def check_whole(path: Path, name: str, info: AudioInfo) -> None:
    """Refuse a file of which a part cannot be decoded: it would break off while it is heard.

    Raises
    ------
    AudioFileError
        When it breaks off, or is damaged in the middle; it says where.
    """
    done = 0
    try:
        with soundfile.SoundFile(os.fsencode(path)) as file:
            while len(block := file.read(SMALL, dtype="float32", always_2d=True)):
                done += len(block)
    except (soundfile.SoundFileError, RuntimeError):
        pass  # where it broke off tells more than what libsndfile says of it
    if info.frames - done > MISSED_S * info.rate:
        raise broken_off(name, done / info.rate, info.duration_s)


def broken_off(name: str, played_s: float, of_s: float) -> AudioFileError:
    """What is said of a file of which only the beginning can be decoded."""
    played, of = (f"{round(s) // 60}:{round(s) % 60:02}" for s in (played_s, of_s))
    return AudioFileError(
        f"‘{name}’ is damaged: only the first {played} of {of} can be played. Export or download it again."
    )


def check_usable(name: str, info: AudioInfo) -> None:
    """Refuse what cannot be mixed sensibly, and say why."""
    if not RATES[0] <= info.rate <= RATES[1]:
        raise AudioFileError(f"‘{name}’ has a sample rate of {info.rate} Hz; from 8,000 to 192,000 Hz can be used.")
    if not 1 <= info.channels <= MAX_CHANNELS:
        raise AudioFileError(f"‘{name}’ has {info.channels} channels; up to {MAX_CHANNELS} can be used.")
    if info.duration_s < MIN_SECONDS:
        raise AudioFileError(f"‘{name}’ lasts {info.duration_s:.2f} s; a track needs at least {MIN_SECONDS:g} s.")
    if info.duration_s > MAX_SECONDS:
        raise AudioFileError(
            f"‘{name}’ lasts {info.duration_s / 3600:.1f} hours; the limit is 4 hours. Split it first."
        )
