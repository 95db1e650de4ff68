"""The tracks of a mix with their times, in the forms in which they are asked for."""

from __future__ import annotations

import csv
import io
import json
import re
import xml.etree.ElementTree as ET
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from enum import StrEnum
from pathlib import PurePosixPath, PureWindowsPath
from urllib.parse import quote

FRAMES_A_SECOND = 75
"""Of a compact disc: what CUE sheets count in."""
XSPF = "http://xspf.org/ns/0/"


class ListFormat(StrEnum):
    """A form of a track list, by the suffix of its file."""

    TEXT = "txt"
    CSV = "csv"
    JSON = "json"
    CUE = "cue"
    M3U8 = "m3u8"
    XSPF = "xspf"
    WEBVTT = "vtt"


LABELS = {
    ListFormat.TEXT: "Text",
    ListFormat.CSV: "CSV, for a table",
    ListFormat.JSON: "JSON",
    ListFormat.CUE: "CUE sheet",
    ListFormat.WEBVTT: "WebVTT chapters",
    ListFormat.M3U8: "M3U8, of the tracks",
    ListFormat.XSPF: "XSPF, of the tracks",
}


@dataclass(frozen=True)
class Line:
    """A track of a list: when it begins in the mix, and what is known of it; ``path`` is where its file lies."""

    number: int
    start_s: float
    title: str
    artist: str
    duration_s: float
    bpm: float | None = None
    key: str | None = None
    path: str = ""

    @property
    def name(self) -> str:
        """Artist and title."""
        return f"{self.artist} – {self.title}" if self.artist else self.title


@dataclass(frozen=True)
class TrackList:
    """The tracks of a mix in order; ``audio`` is the name of its rendered file."""

    name: str
    duration_s: float
    lines: tuple[Line, ...]
    audio: str = "mix.wav"


def _text(tracks: TrackList) -> str:
    """One line for each track, after the name and length of the mix."""
    lines = [f"{tracks.name} ({clock(tracks.duration_s)})", ""]
    lines += [f"{clock(x.start_s)}  {x.name}" for x in tracks.lines]
    return "\n".join(lines) + "\n"


def _csv(tracks: TrackList) -> str:
    out = io.StringIO()
    rows = csv.writer(out, lineterminator="\r\n")
    rows.writerow(["number", "start", "seconds", "artist", "title", "bpm", "key"])
    for x in tracks.lines:
        tempo = "" if x.bpm is None else f"{x.bpm:.2f}"
        rows.writerow([x.number, clock(x.start_s), f"{x.start_s:.3f}", x.artist, x.title, tempo, x.key or ""])
    return out.getvalue()


def _json(tracks: TrackList) -> str:
    said = {
        "name": tracks.name,
        "duration_s": round(tracks.duration_s, 3),
        "tracks": [
            {
                "number": x.number,
                "start_s": round(x.start_s, 3),
                "artist": x.artist,
                "title": x.title,
                "bpm": None if x.bpm is None else round(x.bpm, 2),
                "key": x.key,
            }
            for x in tracks.lines
        ],
    }
    return json.dumps(said, ensure_ascii=False, indent=2) + "\n"


def _cue(tracks: TrackList) -> str:
    """A CUE sheet (CDRWIN's, as described in the GNU libcdio manual): times in frames of 1/75 s, the first at 0."""
    kind = "MP3" if tracks.audio.endswith(".mp3") else "WAVE"
    lines = [f'TITLE "{_quoted(tracks.name)}"', f'FILE "{_quoted(tracks.audio)}" {kind}']
    for x in tracks.lines[:99]:
        start = 0.0 if x.number == 1 else x.start_s
        lines += [f"  TRACK {x.number:02} AUDIO", f'    TITLE "{_quoted(x.title)}"']
        if x.artist:
            lines.append(f'    PERFORMER "{_quoted(x.artist)}"')
        lines.append(f"    INDEX 01 {cue_time(start)}")
    return "\r\n".join(lines) + "\r\n"


def _m3u8(tracks: TrackList) -> str:
    lines = ["#EXTM3U", f"#PLAYLIST:{tracks.name}"]
    for x in tracks.lines:
        said = f"{x.artist} - {x.title}" if x.artist else x.title
        lines += [f"#EXTINF:{x.duration_s:.0f},{said}", x.path]
    return "\n".join(lines) + "\n"


def _xspf(tracks: TrackList) -> str:
    ET.register_namespace("", XSPF)
    root = ET.Element(f"{{{XSPF}}}playlist", version="1")
    _said(root, "title", tracks.name)
    within = ET.SubElement(root, f"{{{XSPF}}}trackList")
    for x in tracks.lines:
        track = ET.SubElement(within, f"{{{XSPF}}}track")
        if x.path:
            _said(track, "location", _uri(x.path))
        _said(track, "title", x.title)
        _said(track, "creator", x.artist)
        _said(track, "duration", f"{x.duration_s * 1000:.0f}")
        _said(track, "trackNum", str(x.number))
    ET.indent(root)
    return '<?xml version="1.0" encoding="UTF-8"?>\n' + ET.tostring(root, encoding="unicode") + "\n"


def _uri(path: str) -> str:
    """A path as an XSPF location, which is a URI (XSPF 1, 4.1.1.2.14.1.1.1.1)."""
    whole = PureWindowsPath(path) if re.match(r"[A-Za-z]:[\\/]|\\\\", path) else PurePosixPath(path)
    return whole.as_uri() if whole.is_absolute() else quote(path)


def _said(parent: ET.Element, name: str, text: str) -> None:
    if text:
        ET.SubElement(parent, f"{{{XSPF}}}{name}").text = text


def _webvtt(tracks: TrackList) -> str:
    """Chapters as a text track (W3C, WebVTT)."""
    ends = [*(x.start_s for x in tracks.lines[1:]), tracks.duration_s]
    cues = [
        f"{x.number}\n{clock_ms(x.start_s)} --> {clock_ms(max(end, x.start_s + 0.001))}\n{_plain(x.name)}\n"
        for x, end in zip(tracks.lines, ends, strict=True)
    ]
    return "WEBVTT\n\n" + "\n".join(cues)


def _quoted(text: str) -> str:
    """Text within quotes, which cannot hold any themselves."""
    return text.replace('"', "'").replace("\r", " ").replace("\n", " ")


def _plain(text: str) -> str:
    """Text in a cue, whose marks are those of HTML."""
    return text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;").replace("\n", " ")


def clock(seconds: float) -> str:
    """Hours, minutes and whole seconds, rounded down: 1:02:03 or 02:03."""
    whole = int(max(seconds, 0.0))
    hours, minutes, rest = whole // 3600, whole // 60 % 60, whole % 60
    return f"{hours}:{minutes:02}:{rest:02}" if hours else f"{minutes:02}:{rest:02}"


def clock_ms(seconds: float) -> str:
    """Hours, minutes, seconds and thousandths.

    >>> clock_ms(3723.5)
    '01:02:03.500'
    """
    ms = round(max(seconds, 0.0) * 1000)
    return f"{ms // 3_600_000:02}:{ms // 60_000 % 60:02}:{ms // 1000 % 60:02}.{ms % 1000:03}"


def cue_time(seconds: float) -> str:
    """Minutes, seconds and frames of 1/75 s.

    >>> cue_time(61.03)
    '01:01:02'
    """
    frames = round(max(seconds, 0.0) * FRAMES_A_SECOND)
    return f"{frames // (60 * FRAMES_A_SECOND):02}:{frames // FRAMES_A_SECOND % 60:02}:{frames % FRAMES_A_SECOND:02}"


def lines_named(lines: Sequence[Line]) -> str:
    """The tracks in a comment: one line each."""
    return "\n".join(f"{clock(x.start_s)} {x.name}" for x in lines)


FORMS: dict[ListFormat, Callable[[TrackList], str]] = {
    ListFormat.TEXT: _text,
    ListFormat.CSV: _csv,
    ListFormat.JSON: _json,
    ListFormat.CUE: _cue,
    ListFormat.M3U8: _m3u8,
    ListFormat.XSPF: _xspf,
    ListFormat.WEBVTT: _webvtt,
}


def written(tracks: TrackList, kind: ListFormat) -> str:
    """A track list in one of its forms."""
    return FORMS[kind](tracks)
