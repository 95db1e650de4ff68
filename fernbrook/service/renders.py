"""Rendering a mix to a file as a job, and the files that came of it."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from fernbrook.audio.output import OutputFormat
from fernbrook.errors import RefusedError
from fernbrook.formats.track_list import track_list
from fernbrook.render.to_file import render_to_file
from fernbrook.service.events import Events
from fernbrook.service.file_names import file_name
from fernbrook.service.ids import new_id
from fernbrook.service.jobs import JobKind, Jobs, nothing_more
from fernbrook.service.mixes import Mixes
from fernbrook.service.rendered import Rendered, RenderedFiles
from fernbrook.service.sound_files import SoundFiles
from fernbrook.service.work.render import RenderOrder, render_mix
from fernbrook.store.database import Database
from fernbrook.store.folders import Folders, write_atomically
from fernbrook.store.stored import Stored
from fernbrook.store.upgrades import as_it_was, render_order_1_to_2

EMPTY = "The mix is empty. Add tracks to its running order first."
KIND = JobKind(
    name="render",
    order=Stored(RenderOrder, {1: render_order_1_to_2, **dict.fromkeys(range(2, 7), as_it_was)}),
    run=render_mix,
    finish=nothing_more,
)


class Renders(RenderedFiles):
    """All use cases that concern rendered mixes."""

    def __init__(
        self, folders: Folders, database: Database, events: Events, jobs: Jobs, mixes: Mixes, files: SoundFiles
    ) -> None:
        super().__init__(folders, database, events, jobs, KIND)
        self._mixes = mixes
        self._files = files
        jobs.register(KIND)

    def start(self, mix_id: str, output: OutputFormat) -> Rendered:
        """Queue the rendering of a mix as it is now; later changes do not touch it.

        Raises
        ------
        RefusedError
            When the mix is empty.
        AudioFileError
            When a file is missing or was changed.
        """
        plan = self._mixes.open(mix_id).plan
        if not plan.entries:
            raise RefusedError(EMPTY)
        paths = self._files.checked_all(key for part in plan.parts for key in part.sources)
        job_id = new_id()
        order = RenderOrder(
            mix=plan.mix,
            tracks=plan.tracks,
            paths={track: self._folders.stored(path) for track, path in paths.items()},
            target=self._folders.render_target(f"{job_id}{output.suffix}"),
            output=output,
        )
        write_atomically(self._folders.renders / f"{job_id}.txt", track_list(plan).encode())
        expected = {"duration_s": plan.duration_s, "output": output.value}
        with self._database.write() as session:
            row = self._jobs.add(session, KIND, mix_id, plan.mix.name, order, expected, job_id)
        self._jobs.announce(row)
        return Rendered.of(self._jobs.view(row))

    def to_file(self, mix_id: str, target: Path, output: OutputFormat, report: Callable[[float], None]) -> float:
        """Render a mix here and now to any file, and return how many seconds it lasts; raises as ``start`` does."""
        plan = self._mixes.open(mix_id).plan
        if not plan.entries:
            raise RefusedError(EMPTY)
        paths = self._files.checked_all(key for part in plan.parts for key in part.sources)
        render_to_file(plan, paths, target, output, report)
        return plan.duration_s

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
