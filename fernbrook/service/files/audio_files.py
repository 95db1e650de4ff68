"""Which files are brought in as sound, by their names: by drops and from folders alike."""

from __future__ import annotations

from pathlib import Path

from fernbrook.service.files.sound_files import DECODED_ONCE

AUDIO_SUFFIXES = {f".{name}" for name in DECODED_ONCE} | {
    ".wav", ".flac", ".mp3", ".ogg", ".oga", ".opus", ".aif", ".aiff",
}  # fmt: skip


def find_audio(paths: list[Path]) -> list[Path]:
    """The audio files among paths, folders searched through, in order of name."""
    found: list[Path] = []
    for path in paths:
        if path.is_dir():
            found += sorted(p for p in path.rglob("*") if p.suffix.lower() in AUDIO_SUFFIXES and p.is_file())
        else:
            found.append(path)
    return found


def known_suffix(name: str) -> str:
    """The suffix of a name where it is one of audio; any other says nothing, and may be no part of a path."""
    suffix = Path(name).suffix.lower()
    return suffix if suffix in AUDIO_SUFFIXES else ""
