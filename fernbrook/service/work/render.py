"""Rendering a mix to a file, or to several in an archive."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

import numpy as np

from fernbrook.audio.files import Dressing, Pictures
from fernbrook.audio.sources import unchanged
from fernbrook.core.mix.model import Mix
from fernbrook.core.plan import RATE, Plan, TimesAt, listed, plan
from fernbrook.core.track import TrackFacts
from fernbrook.core.value import Value
from fernbrook.formats.film import HEIGHT, WIDTH, Course, Film, Title, bands_of
from fernbrook.formats.film import RATE as PICTURES_A_SECOND
from fernbrook.formats.sleeve import Mark, Sleeve, write_sleeve
from fernbrook.render.to_file import Rendering, Report, render_to_file
from fernbrook.service.work.lanes import write_lanes
from fernbrook.service.work.split import write_tracks
from fernbrook.service.work.wish import RenderWish, What
from fernbrook.service.work.worker import Result
from fernbrook.store.folders import Folders


class SleeveOrder(Value):
    """What is to stand on a file; ``cover`` is the picture's file as the data folder notes it."""

    title: str
    artist: str = ""
    comment: str = ""
    date: str = ""
    chapters: tuple[tuple[float, str], ...] = ()
    cover: str | None = None

    def read(self, folders: Folders) -> Sleeve:
        """The same with its picture."""
        path = None if self.cover is None else folders.ours(self.cover, folders.renders)
        picture = path.read_bytes() if path and path.is_file() else None
        marks = tuple(Mark(start_s, title) for start_s, title in self.chapters)
        return Sleeve(self.title, self.artist, self.comment, self.date, marks, picture)


class RenderOrder(Value):
    """A mix and all that is known of its tracks, and where the file goes; paths are as the data folder notes them.

    ``course`` is the file with the course of the mix, where a film is made of it; ``stamps`` are how the files were
    when the order was given, by the keys of ``paths``.
    """

    mix: Mix
    tracks: tuple[TrackFacts, ...]
    paths: dict[str, str]
    target: str
    wish: RenderWish
    sleeve: SleeveOrder | None = None
    course: str | None = None
    stamps: dict[str, tuple[int, int]] | None = None


def render_mix(order: RenderOrder, root: Path, report: Report) -> Result:
    """Render a mix to a file and return what it is."""
    folders = Folders(root)
    resolved = plan(order.mix, {f.id: f for f in order.tracks})
    paths = {track: folders.audio_file(path) for track, path in order.paths.items()}
    target = folders.ours(order.target, folders.renders)
    sleeve = order.sleeve.read(folders) if order.sleeve else None
    course = folders.ours(order.course, folders.renders) if order.course else None
    names = {f.id: f.title for f in order.tracks}
    with unchanged(paths, target, names, order.stamps):
        seconds = render_wish(resolved, paths, target, order.wish, sleeve, report, course)
    return {"bytes": target.stat().st_size, "duration_s": seconds}


def render_wish(
    resolved: Plan,
    paths: Mapping[str, Path],
    target: Path,
    wish: RenderWish,
    sleeve: Sleeve | None,
    report: Report,
    course: Path | None = None,
) -> float:
    """Render what is wished of a plan to a file, and return how many seconds it lasts."""
    match wish.what:
        case What.TRACKS:
            return write_tracks(resolved, paths, target, wish, sleeve, report)
        case What.LANES:
            return write_lanes(resolved, paths, target, wish, report)
    how = wish.rendering(resolved)
    pictures = _film(resolved, how, course) if course and wish.output.spec.video else None

    def finish(path: Path) -> None:
        if sleeve is not None:
            write_sleeve(path, wish.output.suffix, sleeve, how.frames(resolved) / RATE)

    chapters = tuple((m.start_s, m.title) for m in sleeve.chapters) if sleeve else ()
    return render_to_file(resolved, paths, target, wish.output, report, how, Dressing(chapters, pictures, finish))


def _film(resolved: Plan, how: Rendering, course: Path) -> Pictures:
    """The course of a mix as it moves."""
    with np.load(course) as arrays:
        bands = bands_of(dict(arrays))
    rows = listed(resolved, TimesAt.HAND_OVER)
    titles = tuple(Title(x.start_s, x.entry.track.title, x.entry.track.artist) for x in rows)
    film = Film(Course(resolved.mix.name, resolved.duration_s, titles, bands), lambda s: how.place_s(resolved, s))
    return Pictures(WIDTH, HEIGHT, PICTURES_A_SECOND, film.at)
