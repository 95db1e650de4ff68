"""The library: import, search, changes of many, what is known of each track, stems."""

from fernbrook.service.tracks.catalogue import Catalogue
from fernbrook.service.tracks.collection import Collection, Gathered
from fernbrook.service.tracks.library import ANALYSE, TEMPO_RANGE, Brought, Imported, Library
from fernbrook.service.tracks.marking import Heard, Marking, Offsets, OpenTrack
from fernbrook.service.tracks.misreading import Misreading, OtherReading
from fernbrook.service.tracks.stems import Stems
from fernbrook.service.tracks.straightening import Straightening
from fernbrook.service.tracks.track import Track

__all__ = [
    "ANALYSE",
    "TEMPO_RANGE",
    "Brought",
    "Catalogue",
    "Collection",
    "Gathered",
    "Heard",
    "Imported",
    "Library",
    "Marking",
    "Misreading",
    "Offsets",
    "OpenTrack",
    "OtherReading",
    "Stems",
    "Straightening",
    "Track",
]
