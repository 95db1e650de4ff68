"""What a WAV file says of itself in its INFO list (Microsoft and IBM, Multimedia Programming Interface and Data
Specifications 1.0, 1991): many programs write that and no other tags."""

from __future__ import annotations

import struct
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import BinaryIO

from fernbrook.formats.text import decoded

NAMES = {
    "INAM": "title", "IART": "artist", "IPRD": "album", "ICMT": "comment", "ICRD": "year", "IGNR": "genre",
}  # fmt: skip
LONGEST = 1 << 16


def read_info(path: Path) -> dict[str, str]:
    """What it says, by our names; nothing where it is no WAV file or says nothing."""
    found: dict[str, str] = {}
    with path.open("rb") as file:
        if file.read(4) not in (b"RIFF", b"RF64"):
            return found
        file.seek(12)
        for name, size in _chunks(file):
            if name != b"LIST" or file.read(4) != b"INFO":
                continue
            body = file.read(min(size - 4, LONGEST))
            at = 0
            while at + 8 <= len(body):
                length = int.from_bytes(body[at + 4 : at + 8], "little")
                known = NAMES.get(body[at : at + 4].decode("latin-1"))
                text = decoded(body[at + 8 : at + 8 + length].split(b"\0")[0]).strip()
                if known and text:
                    found.setdefault(known, text)
                at += 8 + length + length % 2
    return found


def info_chunk(said: Mapping[str, str]) -> bytes:
    """An INFO list that says something, in UTF-8; empty where there is nothing to say."""
    body = b""
    for name, ours in NAMES.items():
        text = said.get(ours, "")
        if text:
            content = text.encode()[: LONGEST // 8] + b"\0"
            body += name.encode() + struct.pack("<I", len(content)) + content + b"\0" * (len(content) % 2)
    return b"LIST" + struct.pack("<I", len(body) + 4) + b"INFO" + body if body else b""


def _chunks(file: BinaryIO) -> Iterator[tuple[bytes, int]]:
    """The chunks of a file: the name of each and its length, the file at the start of its content."""
    while len(head := file.read(8)) == 8:
        size, at = int.from_bytes(head[4:], "little"), file.tell()
        yield head[:4], size
        if size >= 0xFFFFFFFF:  # in an RF64 file the length stands elsewhere, and what follows is not looked for
            return
        file.seek(at + size + size % 2)
