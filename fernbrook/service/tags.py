"""Title, artist, tempo and key as a file's tags give them."""

from __future__ import annotations

import re
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import mutagen
from mutagen.flac import FLAC
from mutagen.id3 import Frames
from mutagen.wave import WAVE

from fernbrook.core.track.grid import MAX_BPM, MIN_BPM
from fernbrook.service.file_names import shortened

LONGEST_TAG = 300

ID3_NAMES = {"title": "TIT2", "artist": "TPE1", "bpm": "TBPM", "key": "TKEY"}
MP4_NAMES = {"title": "\xa9nam", "artist": "\xa9ART", "bpm": "tmpo", "key": "initialkey"}
VORBIS_NAMES = {"title": "title", "artist": "artist", "bpm": "bpm", "key": "initialkey"}


@dataclass(frozen=True)
class Tags:
    """What the tags say; the title falls back to the file's name."""

    title: str
    artist: str = ""
    bpm: float | None = None
    key: str | None = None


def read_tags(path: Path, file_name: str) -> Tags:
    """Read the tags of a file, cleaned and shortened; broken tags count as none."""
    stem = file_name.rsplit(".", 1)[0] or file_name
    fallback = re.sub(r"^\d{1,3}[ ._-]+", "", stem).replace("_", " ").strip() or file_name
    try:
        file = mutagen.File(path)
    except Exception:  # mutagen raises almost anything on broken tags, and tags are no reason to refuse a file
        file = None
    if file is None or file.tags is None:
        return Tags(title=shortened(fallback, LONGEST_TAG))
    tags = file.tags
    return Tags(
        title=_first(tags, "title") or shortened(fallback, LONGEST_TAG),
        artist=_first(tags, "artist") or "",
        bpm=_number(_first(tags, "bpm")),
        key=(_first(tags, "key") or "")[:16] or None,
    )


def write_tags(path: Path, container: str, tags: Tags) -> None:
    """Write tags into a WAV (as ID3) or FLAC file, whatever its name ends in."""
    values = {"title": tags.title, "artist": tags.artist, "bpm": f"{tags.bpm:g}" if tags.bpm else "", "key": tags.key}
    if container == "FLAC":
        flac: Any = FLAC(path)  # type: ignore[no-untyped-call]
        for name, value in values.items():
            if value:
                flac[VORBIS_NAMES[name]] = value
        flac.save()
        return
    wave: Any = WAVE(path)  # type: ignore[no-untyped-call]
    if wave.tags is None:
        wave.add_tags()
    for name, value in values.items():
        if value:
            wave.tags.add(Frames[ID3_NAMES[name]](encoding=3, text=value))
    wave.save()


def _first(tags: Any, what: str) -> str | None:
    """The first value of a tag under any of the formats' names."""
    for names in (ID3_NAMES, MP4_NAMES, VORBIS_NAMES):
        try:
            value = tags.get(names[what])
        except (KeyError, ValueError):
            continue
        if value is None:
            continue
        first = value[0] if isinstance(value, list) else getattr(value, "text", [value])[0]
        text = first.decode(errors="replace") if isinstance(first, bytes) else str(first)
        plain = shortened(text, LONGEST_TAG)
        if plain:
            return plain
    return None


def _number(text: str | None) -> float | None:
    try:
        value = float(text.replace(",", ".")) if text else 0.0
    except ValueError:
        return None
    return value if MIN_BPM <= value <= MAX_BPM else None
