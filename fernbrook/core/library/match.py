"""Which track of the library an entry of a list means, that lay elsewhere when the list was written."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

from fernbrook.core.library.card import folded

SAME_LENGTH_S = 2.5


class Named(Protocol):
    """What an entry says of a track."""

    @property
    def file_name(self) -> str:
        """The name of its file."""

    @property
    def title(self) -> str:
        """Its title, empty where it is not told."""

    @property
    def duration_s(self) -> float | None:
        """Its length, where that is told."""


@dataclass(frozen=True)
class KnownFile:
    """A track that there is."""

    id: str
    file_name: str
    title: str
    duration_s: float


def match(entry: Named, known: Sequence[KnownFile]) -> str | None:
    """The track with the entry's file name, else with its title; of several, the one whose length is nearest.

    A title counts only where the length agrees, or none is told.
    """
    by_name = [k for k in known if folded(k.file_name) == folded(entry.file_name)]
    by_title = [k for k in known if entry.title and folded(k.title) == folded(entry.title) and _as_long(entry, k)]
    found = by_name or by_title
    return min(found, key=lambda k: abs(k.duration_s - (entry.duration_s or k.duration_s))).id if found else None


def _as_long(entry: Named, known: KnownFile) -> bool:
    return entry.duration_s is None or abs(entry.duration_s - known.duration_s) < SAME_LENGTH_S
