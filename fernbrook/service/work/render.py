"""Rendering a mix to a file."""

from __future__ import annotations

from pathlib import Path

from fernbrook.audio.output import OutputFormat
from fernbrook.core.mix.mix import Mix
from fernbrook.core.plan.plan import plan
from fernbrook.core.plan.rate import RATE
from fernbrook.core.track.facts import TrackFacts
from fernbrook.core.value import Value
from fernbrook.render.to_file import render_to_file
from fernbrook.service.work.worker import Report, Result
from fernbrook.store.folders import Folders


class RenderOrder(Value):
    """A mix and all that is known of its tracks, and where the file goes; paths are as the data folder notes them."""

    mix: Mix
    tracks: tuple[TrackFacts, ...]
    paths: dict[str, str]
    target: str
    output: OutputFormat


def render_mix(order: RenderOrder, root: Path, report: Report) -> Result:
    """Render a mix to a file and return what it is."""
    folders = Folders(root)
    resolved = plan(order.mix, {f.id: f for f in order.tracks})
    paths = {track: folders.audio_file(path) for track, path in order.paths.items()}
    target = root / order.target
    frames = render_to_file(resolved, paths, target, order.output, report)
    return {"bytes": target.stat().st_size, "duration_s": frames / RATE}
