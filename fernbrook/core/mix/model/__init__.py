"""The mix itself, as a value: its entries, transitions and layers, what they are called, and how loud they are."""

from fernbrook.core.mix.model.levels import NEAR_DB, Level, Levels, level_of, levels_of
from fernbrook.core.mix.model.mix import (
    DEFAULT_TARGET_LUFS,
    MAX_ENTRIES,
    Crossovers,
    Fading,
    Loudness,
    Mix,
    TempoMark,
    Untouched,
)
from fernbrook.core.mix.model.naming import Naming
from fernbrook.core.mix.model.recounted import recounted_mix

__all__ = [
    "DEFAULT_TARGET_LUFS",
    "MAX_ENTRIES",
    "NEAR_DB",
    "Crossovers",
    "Fading",
    "Level",
    "Levels",
    "Loudness",
    "Mix",
    "Naming",
    "TempoMark",
    "Untouched",
    "level_of",
    "levels_of",
    "recounted_mix",
]
