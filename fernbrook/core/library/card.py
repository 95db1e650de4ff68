"""What lists and searches know of a track."""

from __future__ import annotations

import unicodedata
from dataclasses import dataclass
from datetime import datetime
from functools import cached_property

from fernbrook.core.library.file_doubts import FileDoubt
from fernbrook.core.track import Key


@dataclass(frozen=True)
class Card:
    """A track as it is looked for. ``comes_bpm`` and ``leaves_bpm`` are its tempi at its ends, where it means to change
    it; ``energy`` and ``voice_share`` are shares of 0..1, None where they are not known.

    ``lists`` has the names of the lists that it is on, ``used_in`` the mixes, the last changed first.
    """

    id: str
    title: str = ""
    artist: str = ""
    album: str = ""
    genre: str = ""
    comment: str = ""
    file_name: str = ""
    year: int | None = None
    bpm: float | None = None
    comes_bpm: float | None = None
    leaves_bpm: float | None = None
    key: Key | None = None
    energy: float | None = None
    voice_share: float | None = None
    duration_s: float = 0.0
    loudness_lufs: float | None = None
    true_peak_dbtp: float | None = None
    format: str = ""
    bit_rate: int | None = None
    rate: int = 44_100
    channels: int = 2
    tags: tuple[str, ...] = ()
    cues: int = 0
    lists: tuple[str, ...] = ()
    used_in: tuple[str, ...] = ()
    added_at: datetime | None = None
    checked: bool = False
    steady: bool = False
    doubts: tuple[FileDoubt, ...] = ()

    @property
    def in_bpm(self) -> float | None:
        """The tempo that another track meets where it comes in."""
        return self.bpm if self.comes_bpm is None else self.comes_bpm

    @property
    def out_bpm(self) -> float | None:
        """The tempo that another track meets where it goes out."""
        return self.bpm if self.leaves_bpm is None else self.leaves_bpm

    @cached_property
    def text(self) -> str:
        """All that plain words are looked for in, folded."""
        parts = (self.title, self.artist, self.album, self.genre, self.comment, self.file_name, *self.tags)
        return "\n".join(folded(p) for p in parts)


def folded(text: str) -> str:
    """Lower case without accents, so that a search need not have them.

    >>> folded("Café Ÿ")
    'cafe y'
    """
    plain = unicodedata.normalize("NFD", text)
    return "".join(c for c in plain if not unicodedata.combining(c)).casefold()
