"""What can be wrong with a file, in words for the person who brought it."""

from __future__ import annotations


class AudioFileError(ValueError):
    """A file that cannot be used; the message names it, says what is wrong and what to do."""
