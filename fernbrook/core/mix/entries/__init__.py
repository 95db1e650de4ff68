"""The use of a track in a mix: how it is played, edited and counted, and which entries stay together in the order."""

from fernbrook.core.mix.entries.arranged_table import table_of
from fernbrook.core.mix.entries.arrangement import CLOSE, Arrangement
from fernbrook.core.mix.entries.course import course_of
from fernbrook.core.mix.entries.entry import (
    CEILING_DBTP,
    COUNTS,
    LAST,
    Bpm,
    Count,
    Entry,
    Follows,
    GainDb,
    KeyShift,
    Place,
    bent_least,
    suggested_gain,
)
from fernbrook.core.mix.entries.folds import Fold, folds
from fernbrook.core.mix.entries.order import Block, blocks_of, joined, put_before, settled, start_of
from fernbrook.core.mix.entries.played import Played

__all__ = [
    "CEILING_DBTP",
    "CLOSE",
    "COUNTS",
    "LAST",
    "Arrangement",
    "Block",
    "Bpm",
    "Count",
    "Entry",
    "Fold",
    "Follows",
    "GainDb",
    "KeyShift",
    "Place",
    "Played",
    "bent_least",
    "blocks_of",
    "course_of",
    "folds",
    "joined",
    "put_before",
    "settled",
    "start_of",
    "suggested_gain",
    "table_of",
]
