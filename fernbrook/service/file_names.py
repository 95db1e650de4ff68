"""Names for files that leave the application."""

from __future__ import annotations

import re


def file_name(title: str) -> str:
    """A title as a file name that every system takes, without a suffix."""
    plain = re.sub(r'[\\/:*?"<>|\x00-\x1f\s]+', " ", title)
    return plain.strip(" .")[:120] or "mix"
