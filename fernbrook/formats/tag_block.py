"""All of a file but its sound, kept before anything is written into its tags, so that it can be put back byte by byte.

Whatever a tag holds, languages, several values, pictures, its own version, is in those bytes. Ogg numbers its pages
again when its comments grow: of such a file its comments are kept as they are written in it.
"""

from __future__ import annotations

import hashlib
import json
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from mutagen._vorbis import VComment
from mutagen.oggopus import OggOpus
from mutagen.oggvorbis import OggVorbis

from fernbrook.errors import AudioFileError

PROBE = 1 << 16
MOST_BESIDE = 64 << 20
"""A file with more beside its sound than this is not kept in this way."""


@dataclass(frozen=True)
class TagBlock:
    """What lay before the sound of a file and after it, how long that is, how it begins, and the hash of all of it."""

    head: bytes
    tail: bytes
    sound: int
    begins: bytes
    sha256: str

    def to_bytes(self) -> bytes:
        """The block as it is kept: a line of JSON, and what it tells the lengths of."""
        told = {
            "sha256": self.sha256,
            "sound": self.sound,
            "parts": [len(self.head), len(self.tail), len(self.begins)],
        }
        return json.dumps(told).encode() + b"\n" + self.head + self.tail + self.begins

    @classmethod
    def from_bytes(cls, kept: bytes) -> TagBlock:
        """The inverse of ``to_bytes``; raises ValueError where it is damaged."""
        line, _, rest = kept.partition(b"\n")
        told = json.loads(line)
        head, tail, begins = (int(n) for n in told["parts"])
        if len(rest) != head + tail + begins:
            raise ValueError("the lengths do not agree")
        return cls(rest[:head], rest[head : head + tail], int(told["sound"]), rest[head + tail :], str(told["sha256"]))


def block_of(original: Path) -> TagBlock | None:
    """What of a file is beside its sound; None of an Ogg file, and of one with too much of it."""
    content = original.read_bytes()
    span = sound_span(content)
    if span is None or len(content) - (span[1] - span[0]) > MOST_BESIDE:
        return None
    start, end = span
    digest = hashlib.sha256(content).hexdigest()
    return TagBlock(content[:start], content[end:], end - start, content[start : min(start + PROBE, end)], digest)


def sound_span(content: bytes) -> tuple[int, int] | None:
    """Where the sound of a file lies in it, in bytes; None of a kind whose sound is not in one piece.

    FLAC (RFC 9639), WAV and AIFF by their chunks; anything else, such as MP3, is what lies between an ID3v2 tag and
    those that may stand at its end (ID3v1, APEv2).
    """
    start = _after_id3(content)
    match content[start : start + 4]:
        case b"OggS":
            return None
        case b"fLaC":
            return _after_blocks(content, start + 4), len(content)
        case b"RIFF" | b"RF64" | b"FORM":
            return _chunk(content, start)
    return start, _before_end_tags(content)


def _after_id3(content: bytes) -> int:
    if content[:3] != b"ID3" or len(content) < 10:
        return 0
    size = 0
    for byte in content[6:10]:
        size = size << 7 | byte & 0x7F
    return 10 + size + (10 if content[5] & 0x10 else 0)


def _after_blocks(content: bytes, at: int) -> int:
    while at + 4 <= len(content):
        kind, size = content[at], int.from_bytes(content[at + 1 : at + 4], "big")
        at += 4 + size
        if kind & 0x80:
            break
    return min(at, len(content))


def _chunk(content: bytes, at: int) -> tuple[int, int] | None:
    """Where the chunk of samples lies in a file of chunks."""
    order: Literal["big", "little"] = "big" if content[at : at + 4] == b"FORM" else "little"
    at += 12
    while at + 8 <= len(content):
        size = int.from_bytes(content[at + 4 : at + 8], order)
        if content[at : at + 4] in (b"data", b"SSND"):
            return at + 8, min(at + 8 + size, len(content))
        at += 8 + size + size % 2
    return None


def _before_end_tags(content: bytes) -> int:
    end = len(content)
    if content[end - 128 : end - 125] == b"TAG":
        end -= 128
    if content[end - 32 : end - 24] == b"APETAGEX":
        size = int.from_bytes(content[end - 20 : end - 16], "little")
        has_header = int.from_bytes(content[end - 12 : end - 8], "little") >> 31
        end -= min(size + 32 * has_header, end)
    return end


def put_back(current: Path, block: TagBlock, target: Path) -> bool:
    """Write a file as it was to ``target``, with the sound of the present one; whether it is the same to the byte."""
    now = current.read_bytes()
    at = now.find(block.begins)
    while at >= 0:
        digest = hashlib.sha256(block.head)
        digest.update(memoryview(now)[at : at + block.sound])
        digest.update(block.tail)
        if digest.hexdigest() == block.sha256:
            with target.open("wb") as file:
                file.write(block.head)
                file.write(memoryview(now)[at : at + block.sound])
                file.write(block.tail)
            return True
        at = now.find(block.begins, at + 1) if at < MOST_BESIDE else -1
    return False


def comments_of(path: Path) -> bytes | None:
    """The comments of an Ogg file as they are written in it; None of a file of another kind."""
    file = _ogg(path)
    return None if file is None or file.tags is None else bytes(VComment.write(file.tags, framing=False))


def put_comments(path: Path, comments: bytes) -> None:
    """Put them back: all of them, in their order.

    Raises
    ------
    AudioFileError
        When it is no Ogg file any more.
    """
    file = _ogg(path)
    if file is None or file.tags is None:
        raise AudioFileError(f"‘{path.name}’ is of another kind than it was. Its tags were left as they are.")
    was = VComment(comments, framing=False)
    file.tags[:] = list(was)
    file.tags.vendor = was.vendor
    file.save()


def _ogg(path: Path) -> OggOpus | OggVorbis | None:
    with path.open("rb") as file:
        begin = file.read(64)
    if not begin.startswith(b"OggS"):
        return None
    return OggOpus(path) if b"OpusHead" in begin else OggVorbis(path)  # type: ignore[no-untyped-call]
