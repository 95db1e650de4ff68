"""Rendering a mix to a file as a job, and the files that came of it."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date
from pathlib import Path

from fernbrook.core.plan.listing import TimesAt
from fernbrook.core.plan.plan import Plan
from fernbrook.core.plan.rate import RATE
from fernbrook.errors import RefusedError
from fernbrook.formats.cover import COLUMNS, Band, cover
from fernbrook.formats.sleeve import write_sleeve
from fernbrook.formats.track_list import ListFormat, TrackList, lines_named, written
from fernbrook.render.to_file import render_to_file
from fernbrook.service.courses import Courses
from fernbrook.service.events import Events
from fernbrook.service.file_names import file_name
from fernbrook.service.ids import new_id
from fernbrook.service.jobs import JobKind, Jobs, nothing_more
from fernbrook.service.mixes import Mixes
from fernbrook.service.rendered import Rendered, RenderedFiles
from fernbrook.service.sound_files import SoundFiles
from fernbrook.service.track_lists import TrackLists
from fernbrook.service.work.render import RenderOrder, RenderWish, SleeveOrder, render_mix, sleeve_of
from fernbrook.store.database import Database
from fernbrook.store.folders import Folders, write_atomically
from fernbrook.store.stored import Stored
from fernbrook.store.upgrades import as_it_was, render_order_1_to_2, render_order_6_to_7

EMPTY = "The mix is empty. Add tracks to its running order first."
SHORTEST_S = 0.1
KIND = JobKind(
    name="render",
    order=Stored(
        RenderOrder, {1: render_order_1_to_2, **dict.fromkeys(range(2, 6), as_it_was), 6: render_order_6_to_7}
    ),
    run=render_mix,
    finish=nothing_more,
)


class Renders(RenderedFiles):
    """All use cases that concern rendered mixes."""

    def __init__(
        self,
        folders: Folders,
        database: Database,
        events: Events,
        jobs: Jobs,
        mixes: Mixes,
        files: SoundFiles,
        courses: Courses,
        lists: TrackLists,
    ) -> None:
        super().__init__(folders, database, events, jobs, KIND)
        self._mixes = mixes
        self._files = files
        self._courses = courses
        self._lists = lists
        jobs.register(KIND)

    def start(self, mix_id: str, wish: RenderWish) -> Rendered:
        """Queue the rendering of a mix as it is now; later changes do not touch it.

        Raises
        ------
        RefusedError
            When the mix is empty, or the part that is wished holds nothing.
        AudioFileError
            When a file is missing or was changed.
        """
        plan = self._plan(mix_id, wish)
        paths = self._files.checked_all(key for part in plan.parts for key in part.sources)
        job_id = new_id()
        target = self._folders.render_target(f"{job_id}{wish.output.suffix}")
        picture = self._folders.renders / f"{job_id}.cover.png"
        write_atomically(picture, self.cover(mix_id))
        name = f"{file_name(plan.mix.name)}{wish.output.suffix}"
        said = self._lists.of(plan, TimesAt.HAND_OVER, name, wish.start_s or 0.0, wish.end_s)
        order = RenderOrder(
            mix=plan.mix,
            tracks=plan.tracks,
            paths={track: self._folders.stored(path) for track, path in paths.items()},
            target=target,
            wish=wish,
            sleeve=_sleeve(said).model_copy(update={"cover": self._folders.stored(picture)}),
        )
        write_atomically(self._folders.renders / f"{job_id}.txt", written(said, ListFormat.TEXT).encode())
        expected = {"duration_s": said.duration_s, "output": wish.output.value}
        with self._database.write() as session:
            row = self._jobs.add(session, KIND, mix_id, plan.mix.name, order, expected, job_id)
        self._jobs.announce(row)
        return Rendered.of(self._jobs.view(row))

    def to_file(self, mix_id: str, target: Path, wish: RenderWish, report: Callable[[float], None]) -> float:
        """Render a mix here and now to any file, and return how many seconds it lasts; raises as ``start`` does."""
        plan = self._plan(mix_id, wish)
        paths = self._files.checked_all(key for part in plan.parts for key in part.sources)
        sleeve = _sleeve(self._lists.of(plan, TimesAt.HAND_OVER, target.name, wish.start_s or 0.0, wish.end_s))
        how = wish.rendering

        def finish(path: Path) -> None:
            write_sleeve(path, wish.output.suffix, sleeve_of(sleeve, self._folders.root), how.frames(plan) / RATE)

        return render_to_file(plan, paths, target, wish.output, report, how, sleeve.chapters, finish)

    def cover(self, mix_id: str) -> bytes:
        """A picture of a mix, made of its own course."""
        course = self._courses.course(mix_id, COLUMNS)
        return cover([Band(n, e.first, e.low, e.full) for n, e in enumerate(course.entries)])

    def _plan(self, mix_id: str, wish: RenderWish) -> Plan:
        plan = self._mixes.open(mix_id).plan
        if not plan.entries:
            raise RefusedError(EMPTY)
        if wish.rendering.frames(plan) < SHORTEST_S * RATE:
            raise RefusedError("That part of the mix holds nothing. Let it end after it starts, within the mix.")
        return plan

    def track_list(self, job_id: str) -> tuple[Path, str]:
        """The track list of a rendered file, and the name to give it."""
        path, name = self.file(job_id)
        return path.with_suffix(".txt"), f"{file_name(Path(name).stem)}.txt"

    def delete_all(self, mix_id: str) -> None:
        """Delete all renders of a mix; those under way are cancelled first."""
        for rendered in self.list(mix_id):
            if rendered.job.is_open:
                self._jobs.cancel(rendered.job.id)
            self.delete(rendered.job.id)


def _sleeve(said: TrackList) -> SleeveOrder:
    """What stands on the file: the name of the mix, its tracks as chapters and in the comment."""
    return SleeveOrder(
        title=said.name,
        comment=lines_named(said.lines),
        date=date.today().isoformat(),
        chapters=tuple((x.start_s, x.name) for x in said.lines),
    )
