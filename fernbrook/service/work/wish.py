"""How a mix is to be rendered."""

from __future__ import annotations

from enum import StrEnum
from typing import Literal

from pydantic import Field

from fernbrook.audio.files import OutputFormat
from fernbrook.core.mix.entries import CEILING_DBTP
from fernbrook.core.plan import RATE, Plan, teaser
from fernbrook.core.value import Seconds, Value
from fernbrook.render.to_file import Rendering


class What(StrEnum):
    """What is made of a mix: a file of it or of a part, one of the best moments, one a track, lanes for an editor."""

    MIX = "mix"
    TEASER = "teaser"
    TRACKS = "tracks"
    LANES = "lanes"

    @property
    def is_archive(self) -> bool:
        """Whether it is several files, which leave in a ZIP."""
        return self in (What.TRACKS, What.LANES)


class RenderWish(Value):
    """How a mix is to be rendered: to which kind of file, at which rate, loudness and ceiling, and what of it.

    ``loudness_lufs`` None leaves the level as the mix has it. ``start_s`` and ``end_s`` are those of a part.
    ``artist`` is who made the mix, as it is written into the file.
    ``by_stem`` and ``curves`` are asked of lanes: one a stem, and whether what is faded and turned is.
    """

    output: OutputFormat
    what: What = What.MIX
    rate: Literal[44_100, 48_000] = 44_100
    loudness_lufs: float | None = Field(default=None, ge=-40.0, le=-5.0)
    ceiling_dbtp: float = Field(default=CEILING_DBTP, ge=-12.0, le=0.0)
    start_s: Seconds | None = None
    end_s: Seconds | None = None
    by_stem: bool = False
    curves: bool = True
    artist: str = Field(default="", max_length=200)

    @property
    def suffix(self) -> str:
        """What the name of the file ends in."""
        return ".zip" if self.what.is_archive else self.output.suffix

    def rendering(self, plan: Plan) -> Rendering:
        """The same as the renderer has it."""
        spans: tuple[tuple[int, int | None], ...]
        if self.what is What.TEASER:
            spans = tuple((round(p.start_s * RATE), round(p.end_s * RATE)) for p in teaser(plan))
        else:
            start = 0 if self.start_s is None else max(0, round(self.start_s * RATE))
            spans = ((start, None if self.end_s is None else round(self.end_s * RATE)),)
        return Rendering(
            spans=spans,
            soft=self.what is What.TEASER,
            rate=self.rate,
            ceiling_dbtp=self.ceiling_dbtp,
            loudness_lufs=None if self.what is What.LANES else self.loudness_lufs,
        )
