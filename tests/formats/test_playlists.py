from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fernbrook.core.library import KnownFile, match
from fernbrook.errors import RefusedError
from fernbrook.formats.playlists import PlaylistEntry, read_playlist

M3U = """\ufeff#EXTM3U
#EXTINF:231,Marrow Street - Wet Glass
Music/01 Wet%20Glass.flac
#EXTINF:-1,Untold

C:\\Music\\Night\\Stomata.mp3
file:///home/someone/Caf%C3%A9.wav
# a remark
/abs/100% pure.wav
"""
XSPF = """<?xml version="1.0" encoding="UTF-8"?>
<playlist version="1" xmlns="http://xspf.org/ns/0/"><trackList>
<track><location>file:///m/Tendril%20%282%29.flac</location><title>Tendril</title><creator>Ines</creator>
<duration>221500</duration></track>
<track><title>Only a name</title></track>
</trackList></playlist>"""


def test_m3u8_has_relative_absolute_and_encoded_paths() -> None:
    entries = read_playlist(M3U.encode(), "night.m3u8")
    assert entries[0] == PlaylistEntry("Music/01 Wet Glass.flac", "Wet Glass", "Marrow Street", 231.0)
    assert [e.file_name for e in entries] == ["01 Wet Glass.flac", "Stomata.mp3", "Café.wav", "100% pure.wav"]
    assert (entries[1].title, entries[1].duration_s) == ("Untold", None)
    assert read_playlist("Müll.wav".encode("latin-1"), "x.m3u")[0].file_name == "Müll.wav"


def test_xspf_has_places_names_and_lengths() -> None:
    entries = read_playlist(XSPF.encode(), "night.xspf")
    assert entries[0] == PlaylistEntry("/m/Tendril (2).flac", "Tendril", "Ines", 221.5)
    assert (entries[1].title, entries[1].path) == ("Only a name", "")


@pytest.mark.parametrize(
    ("content", "told"),
    [
        (b"", "names no tracks"),
        (b"# nothing\n", "names no tracks"),
        (b"<playlist", "no whole XSPF"),
        (b"<playlist/>", "names no tracks"),
        (b'<!DOCTYPE x [<!ENTITY a "b">]><playlist/>', "defines entities"),
        (b"RIFF\0\0\0\0WAVE", "no list of tracks"),
    ],
)
def test_what_is_no_list_is_refused_in_words(content: bytes, told: str) -> None:
    with pytest.raises(RefusedError, match=told):
        read_playlist(content, "night.m3u8")


@given(content=st.binary(max_size=300))
def test_any_bytes_are_a_list_or_refused(content: bytes) -> None:
    try:
        entries = read_playlist(content, "x")
    except RefusedError:
        entries = []
    assert all(isinstance(e.file_name, str) for e in entries)


def test_entries_are_matched_by_file_then_by_title_and_length() -> None:
    known = [
        KnownFile("a", "Wet Glass.flac", "Wet Glass", 231.0),
        KnownFile("b", "take 2.wav", "Wet Glass", 188.0),
        KnownFile("c", "WET GLASS.flac", "Wet Glass (long)", 402.0),
    ]
    assert match(PlaylistEntry("x/wet glass.FLAC", duration_s=400.0), known) == "c"
    assert match(PlaylistEntry("x/other.wav", "wet glass", duration_s=189.0), known) == "b"
    assert match(PlaylistEntry("x/other.wav", "wet glass", duration_s=300.0), known) is None
    assert match(PlaylistEntry("x/other.wav"), known) is None


@pytest.mark.parametrize(
    "head", ['<?xml version="1.0" encoding="ebcdic-ferns"?>', '<?xml version="1.0" encoding="utf-32"?>', "<", "<a"]
)
def test_an_xspf_file_in_unknown_signs_or_that_breaks_off_is_refused(head: str) -> None:
    with pytest.raises(RefusedError, match=r"XSPF|signs"):
        read_playlist(f"{head}<playlist/>".encode(), "night.xspf")


@pytest.mark.parametrize("length", ["²", "٣٣٣", "9" * 400, "-1", ""])
def test_a_length_that_is_none_is_left_out(length: str) -> None:
    for content in (
        f'<playlist xmlns="http://xspf.org/ns/0/"><track><location>a.wav</location><duration>{length}</duration></track></playlist>',
        f"#EXTM3U\n#EXTINF:{length},Moss\na.wav\n",
    ):
        (entry,) = read_playlist(content.encode(), "night")
        assert entry.duration_s is None


PLS = """[playlist]
File2=b/Fern.mp3
Title1=Ines Marrow - Wet Glass
File1=C:\\Sets\\Wet Glass.wav
Length1=247
NumberOfEntries=2
"""


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "utf-16-le", "utf-16-be", "cp1252"])
def test_lists_are_read_in_whatever_they_are_written(encoding: str) -> None:
    first, second = read_playlist(PLS.replace("Fern", "Grün").encode(encoding), "night.pls")
    assert (first.file_name, first.title, first.artist, first.duration_s) == (
        "Wet Glass.wav", "Wet Glass", "Ines Marrow", 247.0,
    )  # fmt: skip
    assert second.file_name == "Grün.mp3"
    (entry,) = read_playlist("#EXTM3U\n#EXTINF:12,Größe\nsets/Größe.flac\n".encode(encoding), "night.m3u")
    assert (entry.title, entry.file_name) == ("Größe", "Größe.flac")


@pytest.mark.parametrize(
    "content", [b"milk\nbread\nferns", b"\x00\x01\x02", b"", b"[playlist]\n", b"%PDF-1.7\n\xff", b"# only a note\n"]
)
def test_what_is_no_list_is_refused(content: bytes) -> None:
    with pytest.raises(RefusedError, match="Lists are read from"):
        read_playlist(content, "shopping.txt")
    assert read_playlist(b"a.wav\n\nb/c d.mp3\n# note\n", "bare.m3u")[1].file_name == "c d.mp3"
