"""What an analysis found in a track and nobody changes by hand, in bounds: it may come from elsewhere."""

from __future__ import annotations

from typing import Annotated, Any

from pydantic import ConfigDict, Field

from fernbrook.core.library.file_doubts import FileMeasures
from fernbrook.core.value import MOST_BEATS, Value

MOST_BARS = 100_000
Share = Annotated[float, Field(ge=0.0, le=1.0)]
Level = Annotated[float, Field(ge=-200.0, le=100.0)]
"""Decibels of whatever reference."""
Tempo = Annotated[float, Field(ge=0.0, le=2000.0)]


class Findings(Value):
    """What an analysis found. ``energy`` is by bar, from ``first_bar`` on; ``markup`` is as it is stored.

    What another version knew besides is left out.
    """

    model_config = ConfigDict(extra="ignore")

    second_key: str | None = Field(default=None, max_length=8)
    key_confidence: Share | None = None
    tuning_cents: float | None = Field(default=None, ge=-1200.0, le=1200.0)
    runner_up_bpm: Tempo | None = None
    swing: float | None = Field(default=None, ge=-100.0, le=100.0)
    short_term_max_lufs: Level | None = None
    first_bar: int = Field(default=0, ge=-int(MOST_BEATS), le=int(MOST_BEATS))
    energy: tuple[float, ...] | None = Field(default=None, max_length=MOST_BARS)
    file: FileMeasures | None = None
    markup: dict[str, Any] | None = None
