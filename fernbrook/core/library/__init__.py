"""What can be asked of many tracks: which are meant by a search, which fit, what is doubtful about their files."""

from fernbrook.core.library.card import Card, folded
from fernbrook.core.library.file_doubts import FileDoubt, FileFacts, FileMeasures, file_doubts
from fernbrook.core.library.findings import Findings, Level, Tempo
from fernbrook.core.library.fits import REACH, SAME_ENERGY, UNKNOWN_KEY, UNKNOWN_TEMPO, Fit, fits
from fernbrook.core.library.match import KnownFile, match
from fernbrook.core.library.misread import SCRIPTS, Encoding, is_misread, read_as, readings
from fernbrook.core.library.order import ordered
from fernbrook.core.library.search import parse

__all__ = [
    "REACH",
    "SAME_ENERGY",
    "SCRIPTS",
    "UNKNOWN_KEY",
    "UNKNOWN_TEMPO",
    "Card",
    "Encoding",
    "FileDoubt",
    "FileFacts",
    "FileMeasures",
    "Findings",
    "Fit",
    "KnownFile",
    "Level",
    "Tempo",
    "file_doubts",
    "fits",
    "folded",
    "is_misread",
    "match",
    "ordered",
    "parse",
    "read_as",
    "readings",
]
