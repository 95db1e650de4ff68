"""Warnings: things to look at before rendering, each said in plain words, with what would mend it."""

from __future__ import annotations

from enum import StrEnum

from pydantic import Field

from fernbrook.core.mix.commands import AnyMixCommand
from fernbrook.core.value import Value


class WarningKind(StrEnum):
    """What sort of thing it is."""

    NO_GRID = "no_grid"
    GRID = "grid"
    CUE = "cue"
    STEMS = "stems"
    TEMPO_LEAP = "tempo_leap"
    DOES_NOT_FIT = "does_not_fit"
    KEYS = "keys"
    TWO_VOICES = "two_voices"
    TWO_BASSES = "two_basses"
    BARS = "bars"
    LOUDNESS = "loudness"
    SILENCE = "silence"
    NOT_CLEAR = "not_clear"
    LEVEL = "level"
    LIMITER = "limiter"
    LAYER = "layer"
    EDIT = "edit"


class Mend(Value):
    """What would mend a warning: one command, and what it does in a few words."""

    label: str
    command: AnyMixCommand


class MixWarning(Value):
    """One thing to look at; ``transition``, ``entry`` or ``layer`` is the index that it belongs to.

    ``key`` names it from one state of the mix to the next, so that it can be marked as meant.
    """

    kind: WarningKind
    message: str
    entry: int | None = None
    transition: int | None = None
    layer: int | None = None
    key: str = Field(default="", max_length=100)
    is_meant: bool = False
    mends: tuple[Mend, ...] = ()
