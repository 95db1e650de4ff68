"""What is written on files, as others read it: in their order, at their place, and where they look for it."""

from __future__ import annotations

from pathlib import Path
from urllib.parse import unquote, urlparse
from xml.etree import ElementTree as ET

import numpy as np
import pytest
import soundfile
from mutagen.id3 import ID3

from fernbrook.audio.files.output import OutputFormat
from fernbrook.audio.files.writer import write_audio
from fernbrook.formats.sleeve import Mark, Sleeve, write_sleeve
from fernbrook.formats.track_list import Line, ListFormat, TrackList, written
from fernbrook.formats.wav_info import read_info

RATE = 44_100
NAMES = ("A rather long title of a first track", "B", "A middle one", "C", "The longest of all titles in this mix here")


def rendered(tmp_path: Path, output: OutputFormat) -> Path:
    path = tmp_path / f"mix{output.suffix}"
    write_audio(path, [np.zeros((5 * RATE, 2), np.float32)], 5 * RATE, RATE, output)
    chapters = tuple(Mark(float(n), name) for n, name in enumerate(NAMES))
    write_sleeve(path, output.suffix, Sleeve("Late", "Ines Grün", "list", "2026-11-30", chapters, album="Nights"), 5.0)
    return path


def test_chapters_of_an_mp3_stand_in_their_order_in_the_file(tmp_path: Path) -> None:
    path = rendered(tmp_path, OutputFormat.MP3_320)
    content = path.read_bytes()
    places = [content.index(f"ch{n}".encode() + b"\0", content.index(b"CHAP")) for n in range(1, 6)]
    assert places == sorted(places)
    tags = ID3(path)
    assert [tags[f"CHAP:ch{n}"].sub_frames["TIT2"].text[0] for n in range(1, 6)] == list(NAMES)
    assert tags["TPE1"].text == ["Ines Grün"]
    assert soundfile.info(path).duration == pytest.approx(5.0, abs=0.1)


@pytest.mark.parametrize("output", [OutputFormat.AAC])
def test_the_index_of_an_mp4_comes_first(tmp_path: Path, output: OutputFormat) -> None:
    content = rendered(tmp_path, output).read_bytes()
    assert content.index(b"moov") < content.index(b"mdat")


def test_a_wav_file_says_in_its_info_list_what_it_is(tmp_path: Path) -> None:
    path = rendered(tmp_path, OutputFormat.WAV_24)
    assert read_info(path) == {
        "title": "Late",
        "artist": "Ines Grün",
        "album": "Nights",
        "comment": "list",
        "year": "2026",
    }
    assert soundfile.info(path).frames == 5 * RATE


@pytest.mark.parametrize("path", ["/home/ines/Wet Glass #1.flac", "C:\\Sets\\Größe & Co.wav", "sets/50 % off.wav"])
def test_places_in_xspf_are_uris(path: str) -> None:
    text = written(TrackList("Night", 60.0, (Line(1, 0.0, "x", "", 60.0, path=path),)), ListFormat.XSPF)
    (location,) = (x.text or "" for x in ET.fromstring(text).iter("{http://xspf.org/ns/0/}location"))
    assert " " not in location
    assert location.isascii()
    parts = urlparse(location)
    assert unquote(parts.path).replace("/", "").endswith(path.replace("\\", "").replace("/", "").lstrip("/"))
    assert parts.scheme == ("" if path.startswith("sets") else "file")
    assert parts.fragment == ""
