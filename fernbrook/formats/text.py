"""Texts that other programs wrote: in UTF-8, in UTF-16, or as they were written before either."""

from __future__ import annotations

MARKS = {b"\xef\xbb\xbf": "utf-8-sig", b"\xff\xfe": "utf-16", b"\xfe\xff": "utf-16"}
"""How a text begins that says what it is written in (Unicode Standard, 23.8)."""


def decoded(content: bytes) -> str:
    """A text, whatever it is written in.

    UTF-16 without a mark is known by its zeros: every other byte of a text of our part of the world. What is neither
    is read as Windows-1252, or Latin-1 where that has no sign.

    >>> decoded("Größe".encode("utf-16")), decoded("Größe".encode("utf-16-be")), decoded("Größe".encode("cp1252"))
    ('Größe', 'Größe', 'Größe')
    """
    for mark, encoding in MARKS.items():
        if content.startswith(mark):
            return content.decode(encoding, errors="replace")
    begin = content[:4096]
    for first, encoding in ((1, "utf-16-le"), (0, "utf-16-be")):
        zeros = begin[first::2].count(0)
        if len(begin) >= 4 and zeros > len(begin) // 4 and begin[1 - first :: 2].count(0) < zeros // 4:
            return content.decode(encoding, errors="replace")
    for encoding in ("utf-8", "cp1252"):
        try:
            return content.decode(encoding)
        except UnicodeDecodeError:
            continue
    return content.decode("latin-1")
