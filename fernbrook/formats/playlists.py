"""Lists of tracks as other programs write them: M3U and M3U8, PLS, XSPF."""

from __future__ import annotations

import re
import xml.etree.ElementTree as ET
from dataclasses import dataclass
from pathlib import PurePosixPath, PureWindowsPath
from urllib.parse import unquote, urlparse

from fernbrook.errors import RefusedError
from fernbrook.formats.text import decoded

MOST_ENTRIES = 20_000
EXTINF = re.compile(r"^#EXTINF:\s*(-?[\d.]+)?[^,]*,(.*)$")
PLS = re.compile(r"\s*\[playlist\]", re.IGNORECASE)
PLS_LINE = re.compile(r"(File|Title|Length)([0-9]{1,6})=(.*)", re.IGNORECASE)
LIKE_A_FILE = re.compile(r"\.[A-Za-z0-9]{2,5}$|^[a-z][a-z0-9+.-]*://", re.IGNORECASE)
READ = "Lists are read from M3U8, PLS and XSPF files."
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
        When it is none of them.
    """
    if content.lstrip(b"\xef\xbb\xbf \t\r\n")[:1] == b"<":
        entries = _xspf(content, name)
    else:
        text = decoded(content)
        entries = _pls(text) if PLS.match(text) else _m3u(text, name)
    if not entries:
        raise RefusedError(f"‘{name}’ names no tracks. {READ}")
    return entries[:MOST_ENTRIES]


def _pls(text: str) -> list[PlaylistEntry]:
    """A PLS file: ``File1=``, ``Title1=`` and ``Length1=`` of each track, in any order."""
    said: dict[int, dict[str, str]] = {}
    for line in text.splitlines():
        found = PLS_LINE.match(line.strip())
        if found:
            said.setdefault(int(found[2]), {})[found[1].lower()] = found[3].strip()
    entries = []
    for number in sorted(said):
        if "file" in said[number]:
            title, artist = _artist_and_title(said[number].get("title", ""))
            length = _seconds(said[number].get("length", ""))
            entries.append(PlaylistEntry(_path(said[number]["file"]), title, artist, length))
    return entries


def _m3u(text: str, name: str) -> list[PlaylistEntry]:
    lines = [x.strip() for x in text.splitlines()]
    named = [x for x in lines if x and not x.startswith("#")]
    is_list = lines[:1] == ["#EXTM3U"] or all(LIKE_A_FILE.search(x) for x in named)
    if "\0" in text or not is_list:
        raise RefusedError(f"‘{name}’ is no list of tracks. {READ}")
    entries: list[PlaylistEntry] = []
    said: tuple[str, str, float | None] = ("", "", None)
    for line in lines:
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
    return *_artist_and_title(text), _seconds(seconds or "")


def _artist_and_title(text: str) -> tuple[str, str]:
    """Title and artist of ‘artist - title’, or of a title alone."""
    artist, dash, title = text.strip().partition(" - ")
    return (title, artist) if dash else (text.strip(), "")


def _seconds(text: str) -> float | None:
    """A length that a list tells; None where it tells none."""
    length = float(text) if re.fullmatch(r"-?[0-9]{1,9}(\.[0-9]{1,9})?", text) else -1.0
    return length if length > 0 else None


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
    try:
        parsed = urlparse(where)
    except ValueError:  # it looks like an address and is none
        return where
    if parsed.scheme == "file":
        return unquote(parsed.path)
    return unquote(where) if re.search(r"%[0-9A-Fa-f]{2}", where) else where
