"""Rendering a mix to a file."""

from __future__ import annotations

from pathlib import Path
from typing import Literal

from pydantic import Field

from fernbrook.audio.output import OutputFormat
from fernbrook.core.mix.entry import CEILING_DBTP
from fernbrook.core.mix.mix import Mix
from fernbrook.core.plan.plan import plan
from fernbrook.core.plan.rate import RATE
from fernbrook.core.track.facts import TrackFacts
from fernbrook.core.value import Seconds, Value
from fernbrook.formats.sleeve import Mark, Sleeve, write_sleeve
from fernbrook.render.to_file import Rendering, render_to_file
from fernbrook.service.work.worker import Report, Result
from fernbrook.store.folders import Folders


class RenderWish(Value):
    """How a mix is to be rendered: to which kind of file, at which rate, loudness and ceiling, and which part of it.

    ``loudness_lufs`` None leaves the level as the mix has it.
    """

    output: OutputFormat
    rate: Literal[44_100, 48_000] = 44_100
    loudness_lufs: float | None = Field(default=None, ge=-40.0, le=-5.0)
    ceiling_dbtp: float = Field(default=CEILING_DBTP, ge=-12.0, le=0.0)
    start_s: Seconds | None = None
    end_s: Seconds | None = None

    @property
    def rendering(self) -> Rendering:
        """The same as the renderer has it."""
        start = 0 if self.start_s is None else max(0, round(self.start_s * RATE))
        end = None if self.end_s is None else round(self.end_s * RATE)
        return Rendering(start, end, self.rate, self.ceiling_dbtp, self.loudness_lufs)


class SleeveOrder(Value):
    """What is to stand on a file; ``cover`` is the picture's file as the data folder notes it."""

    title: str
    artist: str = ""
    comment: str = ""
    date: str = ""
    chapters: tuple[tuple[float, str], ...] = ()
    cover: str | None = None


class RenderOrder(Value):
    """A mix and all that is known of its tracks, and where the file goes; paths are as the data folder notes them."""

    mix: Mix
    tracks: tuple[TrackFacts, ...]
    paths: dict[str, str]
    target: str
    wish: RenderWish
    sleeve: SleeveOrder | None = None


def render_mix(order: RenderOrder, root: Path, report: Report) -> Result:
    """Render a mix to a file and return what it is."""
    folders = Folders(root)
    resolved = plan(order.mix, {f.id: f for f in order.tracks})
    paths = {track: folders.audio_file(path) for track, path in order.paths.items()}
    target = root / order.target
    chapters = order.sleeve.chapters if order.sleeve else ()
    how = order.wish.rendering

    def finish(path: Path) -> None:
        if order.sleeve is not None:
            duration_s = how.frames(resolved) / RATE
            write_sleeve(path, order.wish.output.suffix, sleeve_of(order.sleeve, root), duration_s)

    seconds = render_to_file(resolved, paths, target, order.wish.output, report, how, chapters, finish)
    return {"bytes": target.stat().st_size, "duration_s": seconds}


def sleeve_of(order: SleeveOrder, root: Path) -> Sleeve:
    """What stands on a file, its picture read."""
    picture = None
    if order.cover is not None and (root / order.cover).is_file():
        picture = (root / order.cover).read_bytes()
    marks = tuple(Mark(start_s, title) for start_s, title in order.chapters)
    return Sleeve(order.title, order.artist, order.comment, order.date, marks, picture)
