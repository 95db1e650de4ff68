"""Rendering a track at one steady tempo."""

from __future__ import annotations

from pathlib import Path

from fernbrook.audio.files import Dressing, OutputFormat
from fernbrook.audio.sources import unchanged
from fernbrook.core.plan import straight_plan
from fernbrook.core.track import TrackFacts
from fernbrook.core.value import Value
from fernbrook.render.renderer import FULL_SCALE_DBTP
from fernbrook.render.to_file import Rendering, render_to_file
from fernbrook.service.files import Tags, write_tags
from fernbrook.service.work.worker import Report, Result
from fernbrook.store.folders import Folders


class StraightenOrder(Value):
    """A track, its tempo, and where the file goes; paths are as the data folder notes them."""

    track: TrackFacts
    bpm: float
    path: str
    target: str
    output: OutputFormat
    key: str | None


def straighten_track(order: StraightenOrder, root: Path, report: Report) -> Result:
    """Render a track to a tagged file and return what it is."""
    resolved = straight_plan(order.track, order.bpm)
    folders = Folders(root)
    paths = {order.track.id: folders.audio_file(order.path)}
    target = folders.ours(order.target, folders.renders)
    title = f"{order.track.title} ({order.bpm:g} BPM)"
    tags = Tags(title=title, artist=order.track.artist, bpm=order.bpm, key=order.key)
    dressing = Dressing(finish=lambda path: write_tags(path, order.output.spec.container, tags))
    how = Rendering(ceiling_dbtp=FULL_SCALE_DBTP)
    with unchanged(paths, target, {order.track.id: order.track.title}):
        seconds = render_to_file(resolved, paths, target, order.output, report, how, dressing)
    return {"bytes": target.stat().st_size, "duration_s": seconds}
