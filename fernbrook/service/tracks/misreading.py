"""Names that a file's tags hold in another encoding than they say: what they could be, and taking them over."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass
from itertools import islice

from fernbrook.core.library import Encoding, is_misread, readings
from fernbrook.errors import RefusedError
from fernbrook.service.files import SoundFiles, names_in, read_tags
from fernbrook.service.tracks.collection import NAMES, Collection

MOST_LOOKED_AT = 50


@dataclass(frozen=True)
class OtherReading:
    """An encoding that gives words for the names of some tracks, and what those of one of them are in it."""

    encoding: Encoding
    title: str
    artist: str


class Misreading:
    """All use cases that concern names in another encoding."""

    def __init__(self, files: SoundFiles, collection: Collection) -> None:
        self._files = files
        self._collection = collection

    def readings(self, track_ids: Iterable[str]) -> list[OtherReading]:
        """How the names of some tracks could be read, what fits most of them first; of many, the first tell.

        Raises
        ------
        AudioFileError
            When the file of one is missing or was changed.
        """
        fits: Counter[Encoding] = Counter()
        found: dict[Encoding, OtherReading] = {}
        for path in self._files.checked(islice(track_ids, MOST_LOOKED_AT)).values():
            names = names_in(path)
            odd = tuple(name for name in names if is_misread(name)) or names
            for reading in readings(odd):
                tags = read_tags(path, path.name, reading.encoding)
                fits[reading.encoding] += 1
                found.setdefault(reading.encoding, OtherReading(reading.encoding, tags.title, tags.artist))
        return sorted(found.values(), key=lambda r: (-fits[r.encoding], list(Encoding).index(r.encoding)))

    def read_as(self, track_ids: Iterable[str], encoding: Encoding) -> int:
        """Read the names of some tracks from their files again, in an encoding; returns how many came out otherwise.

        Raises
        ------
        AudioFileError
            When the file of one is missing or was changed. Nothing is done.
        RefusedError
            When no name comes out otherwise.
        """
        names: dict[str, dict[str, tuple[str, str]]] = {}
        for track_id, path in self._files.checked(track_ids).items():
            before, after = read_tags(path, path.name), read_tags(path, path.name, encoding)
            pairs = {n: (getattr(before, n), getattr(after, n)) for n in NAMES}
            names[track_id] = {n: pair for n, pair in pairs.items() if pair[0] != pair[1]}
        read = self._collection.read_names({i: changed for i, changed in names.items() if changed})
        if not read:
            raise RefusedError("None of those names come out otherwise that way.")
        return read
