"""What a file's tags say: title, artist, tempo, key, and the like."""

from __future__ import annotations

import re
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import mutagen
from mutagen.flac import FLAC
from mutagen.id3 import Frames
from mutagen.wave import WAVE

from fernbrook.core.library import Encoding, read_as
from fernbrook.core.track import MAX_BPM, MIN_BPM
from fernbrook.formats.wav_info import read_info
from fernbrook.service.files.file_names import shortened

LONGEST_TAG = 300

ID3_NAMES = {
    "title": "TIT2", "artist": "TPE1", "bpm": "TBPM", "key": "TKEY", "album": "TALB", "genre": "TCON", "year": "TDRC",
    "comment": "COMM",
}  # fmt: skip
MP4_NAMES = {
    "title": "\xa9nam", "artist": "\xa9ART", "bpm": "tmpo", "key": "initialkey", "album": "\xa9alb", "genre": "\xa9gen",
    "year": "\xa9day", "comment": "\xa9cmt",
}  # fmt: skip
VORBIS_NAMES = {
    "title": "title", "artist": "artist", "bpm": "bpm", "key": "initialkey", "album": "album", "genre": "genre",
    "year": "date", "comment": "comment",
}  # fmt: skip
ASF_NAMES = {
    "title": "Title", "artist": "Author", "bpm": "WM/BeatsPerMinute", "key": "WM/InitialKey", "album": "WM/AlbumTitle",
    "genre": "WM/Genre", "year": "WM/Year", "comment": "Description",
}  # fmt: skip
YEAR = re.compile(r"\b(1[89]|20)\d\d\b")


@dataclass(frozen=True)
class Tags:
    """What the tags say; the title falls back to the file's name."""

    title: str
    artist: str = ""
    bpm: float | None = None
    key: str | None = None
    album: str = ""
    genre: str = ""
    comment: str = ""
    year: int | None = None
    bit_rate: int | None = None


def read_tags(path: Path, file_name: str, encoding: Encoding | None = None) -> Tags:
    """Read the tags of a file, cleaned and shortened; broken tags count as none.

    Texts that say they are Latin-1 are read in an ``encoding`` where one is given and they fit it.
    """
    fallback_artist, fallback = _named(file_name)
    file = _opened(path)
    bit_rate = getattr(getattr(file, "info", None), "bitrate", None) or None
    tags = getattr(file, "tags", None) or {}
    info = _info(path)

    def said(name: str) -> str:
        text = _first(tags, name) or info.get(name, "")
        return shortened(read_as(text, encoding) if encoding else text, LONGEST_TAG)

    title, artist = said("title"), said("artist")
    if not title:
        title, artist = fallback, artist or fallback_artist
    year = YEAR.search(said("year"))
    return Tags(
        title=shortened(title, LONGEST_TAG),
        artist=artist,
        bpm=_number(said("bpm")),
        key=said("key")[:16] or None,
        album=said("album"),
        genre=said("genre"),
        comment=said("comment"),
        year=int(year[0]) if year else None,
        bit_rate=bit_rate,
    )


def _opened(path: Path) -> Any:
    """What mutagen makes of a file, or None."""
    try:
        return mutagen.File(path)
    except Exception:  # mutagen raises almost anything on broken tags, and tags are no reason to refuse a file
        return None


def names_in(path: Path) -> tuple[str, ...]:
    """The title and the artist as they stand in a file's tags, as far as there are any."""
    tags = getattr(_opened(path), "tags", None) or {}
    info = _info(path)
    names = (_first(tags, name) or info.get(name, "") for name in ("title", "artist"))
    return tuple(name for name in names if name)


def _named(file_name: str) -> tuple[str, str]:
    """Artist and title as the name of a file tells them: ‘03 Artist - Title.wav’, or a title alone.

    >>> _named("03. Ines_Marrow - Wet_Glass.wav"), _named("Moss.flac"), _named("A - B - C.mp3")
    (('Ines Marrow', 'Wet Glass'), ('', 'Moss'), ('A', 'B - C'))
    """
    stem = file_name.rsplit(".", 1)[0] or file_name
    plain = re.sub(r"^\d{1,3}[ ._-]+", "", stem).replace("_", " ").strip() or file_name
    parts = re.split(r" [-–—] ", plain, maxsplit=1)
    if len(parts) == 2 and all(p.strip() for p in parts):
        return parts[0].strip(), parts[1].strip()
    return "", plain


def _info(path: Path) -> dict[str, str]:
    """What the INFO list of a WAV file says."""
    try:
        return read_info(path)
    except OSError:
        return {}


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
    """The first value of a tag under any of the formats' names, as it stands there."""
    for names in (ID3_NAMES, MP4_NAMES, VORBIS_NAMES, ASF_NAMES):
        try:
            # Comments have a language in their name; the first of them is meant.
            value = next(iter(tags.getall("COMM")), None) if names[what] == "COMM" else tags.get(names[what])
        except (KeyError, ValueError, AttributeError):
            continue
        if value is None:
            continue
        first = value[0] if isinstance(value, list) else getattr(value, "text", [value])[0]
        text = first.decode(errors="replace") if isinstance(first, bytes) else str(first)
        if shortened(text, LONGEST_TAG):
            return text
    return None


def _number(text: str | None) -> float | None:
    try:
        value = float(text.replace(",", ".")) if text else 0.0
    except ValueError:
        return None
    return value if MIN_BPM <= value <= MAX_BPM else None
