"""Names of files: those that come in, and those that leave the application."""

from __future__ import annotations

import os
import re
import unicodedata

LONGEST = 255


LONGEST_STEM, LONGEST_STEM_BYTES = 120, 200
"""Systems count up to 255 bytes, or UTF-16 units: a suffix and a number have room beside these."""
RESERVED = re.compile(r"(con|prn|aux|nul|conin\$|conout\$|com[0-9¹²³]|lpt[0-9¹²³])(\..*)?", re.IGNORECASE)
"""Names of devices, whatever their suffix (Microsoft, "Naming Files, Paths, and Namespaces")."""
JOINERS = "\u200c\u200d"
"""Signs without width that join or part those beside them: Persian and many emoji are wrong without."""


def file_name(title: str) -> str:
    """A title as a file name that every system takes, without a suffix.

    >>> file_name("AC/DC: live?"), file_name("aux"), file_name(" … "), file_name("...")
    ('AC DC live', 'aux_', '…', 'mix')
    """
    one = "".join(c for c in unicodedata.normalize("NFC", title) if c.isspace() or not _steers(c))
    plain = re.sub(r'[\\/:*?"<>|\x00-\x1f\x7f\s]+', " ", one).strip(" .")[:LONGEST_STEM]
    cut = plain.encode(errors="replace")[:LONGEST_STEM_BYTES].decode(errors="ignore").strip(f" .{JOINERS}")
    return f"{cut}_" if RESERVED.fullmatch(cut) else cut or "mix"


def same_name(name: str) -> str:
    """What two names share that are one on some system, whatever their capitals and however their accents are put
    together (Unicode Standard, D145: canonical caseless matching)."""
    return unicodedata.normalize("NFD", unicodedata.normalize("NFD", name).casefold())


def display_name(name: str) -> str:
    """The name of a file that comes in, fit to be stored and shown; without any folder.

    Bytes of a name that are no UTF-8 are read as Latin-1, as old disks have them.
    """
    try:
        readable = os.fsencode(name).decode()
    except UnicodeDecodeError:
        readable = os.fsencode(name).decode("latin-1")
    except UnicodeEncodeError:
        readable = name.encode(errors="replace").decode()
    last = re.split(r"[\\/]", readable)[-1]
    return shortened(last, LONGEST) or "unnamed"


def shortened(text: str, longest: int) -> str:
    """A text on one line, without signs that steer a terminal or turn the direction of reading, and not too long."""
    head = text[: 4 * longest]
    seen = "".join(" " if c.isspace() else c for c in head if c.isspace() or not _steers(c))
    plain = re.sub(r" +", " ", seen).strip()
    if not plain.strip(f" {JOINERS}"):
        return ""
    return plain if len(plain) <= longest else f"{plain[: longest - 1]}…"


def _steers(sign: str) -> bool:
    """Whether a sign has no picture of its own and does something instead; what joins others does not count."""
    return sign not in JOINERS and unicodedata.category(sign) in {"Cc", "Cf", "Cs", "Co", "Cn"}
