"""Names of files: those that come in, and those that leave the application."""

from __future__ import annotations

import os
import re
import unicodedata

LONGEST = 255


def file_name(title: str) -> str:
    """A title as a file name that every system takes, without a suffix."""
    plain = re.sub(r'[\\/:*?"<>|\x00-\x1f\s]+', " ", title)
    return plain.strip(" .")[:120] or "mix"


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
    return plain if len(plain) <= longest else f"{plain[: longest - 1]}…"


def _steers(sign: str) -> bool:
    return unicodedata.category(sign) in {"Cc", "Cf", "Cs", "Co", "Cn"}
