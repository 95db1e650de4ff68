"""Lists of tracks as other programs write them: M3U8 and XSPF."""

from __future__ import annotations

import re
import xml.etree.ElementTree as ET
from dataclasses import dataclass
from pathlib import PurePosixPath, PureWindowsPath
from urllib.parse import unquote, urlparse

from fernbrook.errors import RefusedError

MOST_ENTRIES = 20_000
EXTINF = re.compile(r"^#EXTINF:\s*(-?[\d.]+)?[^,]*,(.*)$")
XSPF = "{http://xspf.org/ns/0/}"


@dataclass(frozen=True)
class PlaylistEntry:
    """A track of a list: where its file lay, by its last name, and what the list says of it."""

    path: str
    title: str = ""
    artist: str = ""
    duration_s: float | None = None

    @property
    def file_name(self) -> str:
        """The name of the file itself, whatever separates its folders."""
        return PurePosixPath(PureWindowsPath(self.path).as_posix()).name


def read_playlist(content: bytes, name: str) -> list[PlaylistEntry]:
    """Read a list by its content.

    Raises
    ------
    RefusedError
        When it is neither M3U8 nor XSPF.
    """
    entries = _xspf(content, name) if content.lstrip()[:1] == b"<" else _m3u(content, name)
    if not entries:
        raise RefusedError(f"‘{name}’ names no tracks. Lists are read from M3U8 and XSPF files.")
    return entries[:MOST_ENTRIES]


def _m3u(content: bytes, name: str) -> list[PlaylistEntry]:
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = content.decode("latin-1")
    if "\0" in text:
        raise RefusedError(f"‘{name}’ is no list of tracks. Lists are read from M3U8 and XSPF files.")
    entries: list[PlaylistEntry] = []
    said: tuple[str, str, float | None] = ("", "", None)
    for line in (x.strip() for x in text.splitlines()):
        info = EXTINF.match(line)
        if info:
            said = _said(info)
        elif line and not line.startswith("#"):
            title, artist, duration = said
            entries.append(PlaylistEntry(_path(line), title, artist, duration))
            said = ("", "", None)
    return entries


def _said(info: re.Match[str]) -> tuple[str, str, float | None]:
    """Title, artist and length of an ``#EXTINF`` line, which has ‘artist - title’ or a title alone."""
    seconds, text = info.groups()
    artist, dash, title = text.strip().partition(" - ")
    length = float(seconds) if seconds and re.fullmatch(r"-?[0-9]{1,9}(\.[0-9]{1,9})?", seconds) else -1.0
    return (
        (title, artist, length if length > 0 else None) if dash else (text.strip(), "", length if length > 0 else None)
    )


def _xspf(content: bytes, name: str) -> list[PlaylistEntry]:
    if b"<!DOCTYPE" in content or b"<!ENTITY" in content:
        raise RefusedError(f"‘{name}’ defines entities, which no list of tracks needs. It was not read.")
    try:
        root = ET.fromstring(content)
    except ET.ParseError as error:
        raise RefusedError(f"‘{name}’ is no whole XSPF file: line {error.position[0]} breaks it.") from error
    except (LookupError, ValueError) as error:
        raise RefusedError(f"‘{name}’ is written in signs that are not known here. Save it as UTF-8.") from error
    entries = []
    for track in root.iter(f"{XSPF}track"):
        where = (track.findtext(f"{XSPF}location") or "").strip()
        millis = (track.findtext(f"{XSPF}duration") or "").strip()
        entries.append(
            PlaylistEntry(
                path=_path(where),
                title=(track.findtext(f"{XSPF}title") or "").strip(),
                artist=(track.findtext(f"{XSPF}creator") or "").strip(),
                duration_s=int(millis) / 1000.0 if re.fullmatch(r"[0-9]{1,12}", millis) else None,
            )
        )
    return entries


def _path(where: str) -> str:
    """The path that an entry means: percent-encoded ones, and ``file:`` addresses, as plain text."""
    parsed = urlparse(where)
    if parsed.scheme == "file":
        return unquote(parsed.path)
    return unquote(where) if re.search(r"%[0-9A-Fa-f]{2}", where) else where
