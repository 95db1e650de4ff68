"""What is written on a mix's file: title, artist, comment, cover, and its chapters, in the way of each kind of file.

ID3: https://id3.org/id3v2-chapters-1.0 (CHAP and CTOC). Vorbis comments: CHAPTERxxx and CHAPTERxxxNAME, as Xiph's
chapter extension has them. MP4 chapters stand in the container (``audio/files/encoder.py``).
"""

from __future__ import annotations

import base64
import struct
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from mutagen.flac import FLAC, Picture
from mutagen.id3 import ID3, CTOCFlags, Frames
from mutagen.mp4 import MP4, MP4Cover
from mutagen.oggopus import OggOpus
from mutagen.oggvorbis import OggVorbis
from mutagen.wave import WAVE

from fernbrook.formats.track_list import clock_ms
from fernbrook.formats.wav_info import info_chunk

COVER = 3
"""The front, among the kinds of pictures of ID3."""
END = 0xFFFFFFFF
"""Where a chapter's place in bytes is not said."""


@dataclass(frozen=True)
class Mark:
    """A chapter: where it begins, in seconds, and what it is called."""

    start_s: float
    title: str


@dataclass(frozen=True)
class Sleeve:
    """What stands on a file; ``cover`` is a PNG, ``number`` which track of how many it is of its ``album``."""

    title: str
    artist: str = ""
    comment: str = ""
    date: str = ""
    chapters: tuple[Mark, ...] = ()
    cover: bytes | None = None
    album: str = ""
    number: tuple[int, int] | None = None


def write_sleeve(path: Path, suffix: str, sleeve: Sleeve, duration_s: float) -> None:
    """Write it into a whole file of a kind, whatever its name ends in; the sound stays as it is."""
    match suffix:
        case ".flac":
            _vorbis(FLAC(path), sleeve, is_flac=True)  # type: ignore[no-untyped-call]
        case ".ogg":
            _vorbis(OggVorbis(path), sleeve)  # type: ignore[no-untyped-call]
        case ".opus":
            _vorbis(OggOpus(path), sleeve)  # type: ignore[no-untyped-call]
        case ".m4a" | ".mp4":
            _mp4(path, sleeve)
        case ".mp3":
            tags = ID3()  # type: ignore[no-untyped-call]
            _id3(tags, sleeve, duration_s)
            tags.save(path, v2_version=4)
            _chapters_in_order(path)
        case ".wav":
            _wav(path, sleeve, duration_s)


def _vorbis(file: Any, sleeve: Sleeve, *, is_flac: bool = False) -> None:
    fields = {
        "title": sleeve.title,
        "artist": sleeve.artist,
        "album": sleeve.album,
        "description": sleeve.comment,
        "date": sleeve.date,
    }
    if sleeve.number:
        fields |= {"tracknumber": str(sleeve.number[0]), "tracktotal": str(sleeve.number[1])}
    for name, value in fields.items():
        if value:
            file[name] = value
    for n, mark in enumerate(sleeve.chapters, 1):
        file[f"CHAPTER{n:03}"] = clock_ms(mark.start_s)
        file[f"CHAPTER{n:03}NAME"] = mark.title
    if sleeve.cover:
        picture = Picture()  # type: ignore[no-untyped-call]
        picture.type, picture.mime, picture.data = COVER, "image/png", sleeve.cover
        picture.width = picture.height = png_side(sleeve.cover)
        picture.depth = 24
        if is_flac:
            file.add_picture(picture)
        else:
            written: bytes = picture.write()  # type: ignore[no-untyped-call]
            file["metadata_block_picture"] = base64.b64encode(written).decode()
    file.save()


def _mp4(path: Path, sleeve: Sleeve) -> None:
    file: Any = MP4(path)  # type: ignore[no-untyped-call]
    fields = {
        "\xa9nam": sleeve.title,
        "\xa9ART": sleeve.artist,
        "\xa9alb": sleeve.album,
        "\xa9cmt": sleeve.comment,
        "\xa9day": sleeve.date,
    }
    if sleeve.number:
        file["trkn"] = [sleeve.number]
    for name, value in fields.items():
        if value:
            file[name] = [value]
    if sleeve.cover:
        file["covr"] = [MP4Cover(sleeve.cover, MP4Cover.FORMAT_PNG)]  # type: ignore[no-untyped-call]
    file.save()


def _id3(tags: Any, sleeve: Sleeve, duration_s: float) -> None:
    fields = {"TIT2": sleeve.title, "TPE1": sleeve.artist, "TALB": sleeve.album}
    if sleeve.number:
        fields["TRCK"] = "{}/{}".format(*sleeve.number)
    for name, text in fields.items():
        if text:
            tags.add(Frames[name](encoding=3, text=text))
    if sleeve.comment:
        tags.add(Frames["COMM"](encoding=3, lang="eng", desc="", text=sleeve.comment))
    if sleeve.date:
        tags.add(Frames["TDRC"](encoding=3, text=sleeve.date))
    if sleeve.cover:
        tags.add(Frames["APIC"](encoding=3, mime="image/png", type=COVER, desc="", data=sleeve.cover))
    if not sleeve.chapters:
        return
    ends = [*(m.start_s for m in sleeve.chapters[1:]), duration_s]
    names = [f"ch{n}" for n in range(1, len(sleeve.chapters) + 1)]
    tags.add(Frames["CTOC"](element_id="toc", flags=CTOCFlags.TOP_LEVEL | CTOCFlags.ORDERED, child_element_ids=names))
    for name, mark, end in zip(names, sleeve.chapters, ends, strict=True):
        start_ms, end_ms = (round(t * 1000) for t in (mark.start_s, end))
        title = Frames["TIT2"](encoding=3, text=mark.title)
        tags.add(
            Frames["CHAP"](
                element_id=name,
                start_time=start_ms,
                end_time=max(end_ms, start_ms + 1),
                start_offset=END,
                end_offset=END,
                sub_frames=[title],
            )
        )


def _chapters_in_order(path: Path) -> None:
    """Put the chapters of an MP3 file in the order of their moments within its tag, in place: mutagen sorts frames by
    their size, and some readers go by position and not by the table of contents."""
    with path.open("r+b") as file:
        head = file.read(10)
        tag = file.read(_synchsafe(head[6:10]))
        frames, at = [], 0
        while at + 10 <= len(tag) and tag[at : at + 4].strip(b"\0"):
            size = 10 + _synchsafe(tag[at + 4 : at + 8])
            frames.append(tag[at : at + size])
            at += size
        chapters = sorted((f for f in frames if f.startswith(b"CHAP")), key=_chapter_start)
        in_order = iter(chapters)
        file.seek(10)
        file.write(b"".join(next(in_order) if f.startswith(b"CHAP") else f for f in frames))


def _chapter_start(frame: bytes) -> int:
    """When a chapter begins, in ms: what follows its name."""
    at = frame.index(b"\0", 10) + 1
    return int.from_bytes(frame[at : at + 4], "big")


def _synchsafe(size: bytes) -> int:
    """A length in four bytes of seven bits (ID3 2.4, section 6.2)."""
    return size[0] << 21 | size[1] << 14 | size[2] << 7 | size[3]


def _wav(path: Path, sleeve: Sleeve, duration_s: float) -> None:
    """ID3 in a chunk of its own, and cue points for editors. A file too large for 32-bit sizes has neither."""
    with path.open("rb") as file:
        if file.read(4) != b"RIFF":
            return
    wave: Any = WAVE(path)  # type: ignore[no-untyped-call]
    if wave.tags is None:
        wave.add_tags()
    _id3(wave.tags, sleeve, duration_s)
    wave.save()
    said = {"title": sleeve.title, "artist": sleeve.artist, "album": sleeve.album, "comment": sleeve.comment}
    _add_chunk(path, info_chunk(said | {"year": sleeve.date[:4]}))
    write_cues(path, sleeve.chapters, int(wave.info.sample_rate))


def write_cues(path: Path, marks: Sequence[Mark], rate: int) -> None:
    """Add cue points with labels to a WAV file: its ``cue `` and ``LIST adtl`` chunks (Microsoft, Multimedia
    Programming Interface and Data Specifications 1.0, 1991)."""
    if not marks:
        return
    points = b"".join(
        struct.pack("<II4sIII", n, round(m.start_s * rate), b"data", 0, 0, round(m.start_s * rate))
        for n, m in enumerate(marks, 1)
    )
    labels = b"adtl" + b"".join(_chunk(b"labl", struct.pack("<I", n) + _text(m.title)) for n, m in enumerate(marks, 1))
    _add_chunk(path, _chunk(b"cue ", struct.pack("<I", len(marks)) + points) + _chunk(b"LIST", labels))


def _add_chunk(path: Path, added: bytes) -> None:
    """Add chunks at the end of a WAV file."""
    if not added:
        return
    with path.open("r+b") as file:
        file.seek(0, 2)
        end = file.tell()
        if end % 2:
            file.write(b"\0")
        file.write(added)
        size = file.tell() - 8
        file.seek(4)
        file.write(struct.pack("<I", size))


def _chunk(name: bytes, content: bytes) -> bytes:
    return name + struct.pack("<I", len(content)) + content + b"\0" * (len(content) % 2)


def _text(words: str) -> bytes:
    return words.encode("utf-8") + b"\0"


def png_side(picture: bytes) -> int:
    """The width of a PNG, in pixels."""
    return int(struct.unpack(">I", picture[16:20])[0])
