"""Rendering a mix to a file as a job, and the files that came of it."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from sqlalchemy.orm import Session

from fernbrook.audio.writer import OutputFormat
from fernbrook.formats.track_list import track_list
from fernbrook.service.errors import NotFoundError, RefusedError
from fernbrook.service.events import Events
from fernbrook.service.file_names import file_name
from fernbrook.service.ids import new_id
from fernbrook.service.jobs import Jobs, nothing_more
from fernbrook.service.listening import Listening
from fernbrook.service.mixes import Mixes
from fernbrook.store.database import Database
from fernbrook.store.folders import Folders, write_atomically
from fernbrook.store.jobs import OPEN, JobKind, JobState, jobs_of_kind
from fernbrook.store.tables import JobRow


class Renders:
    """All use cases that concern rendered files."""

    def __init__(
        self, folders: Folders, database: Database, events: Events, jobs: Jobs, mixes: Mixes, listening: Listening
    ) -> None:
        self._folders = folders
        self._database = database
        self._events = events
        self._jobs = jobs
        self._mixes = mixes
        self._listening = listening
        jobs.finish[JobKind.RENDER] = nothing_more

    def start(self, mix_id: str, output: OutputFormat) -> JobRow:
        """Queue the rendering of a mix as it is now; later changes do not touch it."""
        plan = self._mixes.open(mix_id).plan
        if not plan.entries:
            raise RefusedError("The mix is empty. Add tracks to its running order first.")
        paths = self._listening.paths(plan)
        for entry in plan.entries:
            path = paths.get(entry.track.id)
            if path is None or not path.is_file():
                raise RefusedError(
                    f"The file of ‘{entry.track.title}’ is missing. Put it back, or import the track again."
                )
        render_id = new_id()
        order: dict[str, Any] = {
            "mix": plan.mix.model_dump_json(),
            "tracks": [t.model_dump_json() for t in {e.track.id: e.track for e in plan.entries}.values()],
            "paths": {i: str(p) for i, p in paths.items()},
            "target": str(self._folders.renders / f"{render_id}{output.suffix}"),
            "output": output.value,
        }
        write_atomically(self._folders.renders / f"{render_id}.txt", track_list(plan).encode())
        with self._database.write() as session:
            expected = {"duration_s": plan.duration_s, "output": output.value}
            job = self._jobs.add(session, JobKind.RENDER, mix_id, plan.mix.name, order, expected)
        self._jobs.announce(job)
        return job

    def list(self, mix_id: str) -> list[JobRow]:
        """All renders of a mix, the newest first."""
        with self._database.read() as session:
            return jobs_of_kind(session, JobKind.RENDER, mix_id)

    def file(self, job_id: str) -> tuple[Path, str]:
        """A rendered file, and the name to give it when it is downloaded."""
        job = self._done(job_id)
        path = Path(job.order["target"])
        return path, f"{file_name(job.title)}{path.suffix}"

    def track_list(self, job_id: str) -> tuple[Path, str]:
        """The track list of a rendered file, and the name to give it."""
        job = self._done(job_id)
        return Path(job.order["target"]).with_suffix(".txt"), f"{file_name(job.title)}.txt"

    def delete(self, job_id: str) -> None:
        """Delete a render and its files."""
        with self._database.write() as session:
            job = _get(session, job_id)
            if job.state in OPEN:
                raise RefusedError("It is being rendered. Cancel it first.")
            session.delete(job)
        path = Path(job.order["target"])
        path.unlink(missing_ok=True)
        path.with_suffix(".txt").unlink(missing_ok=True)
        self._events.tell({"type": "job", "id": job.id, "kind": job.kind, "subject": job.subject, "state": "deleted"})

    def delete_all(self, mix_id: str) -> None:
        """Delete all renders of a mix; those under way are cancelled first."""
        for job in self.list(mix_id):
            if job.state in OPEN:
                self._jobs.cancel(job.id)
            self.delete(job.id)

    def _done(self, job_id: str) -> JobRow:
        with self._database.read() as session:
            job = _get(session, job_id)
        if job.state != JobState.DONE or not Path(job.order["target"]).is_file():
            raise NotFoundError("That file is not there: the render has not ended, or the file was deleted.")
        return job


def _get(session: Session, job_id: str) -> JobRow:
    job = session.get(JobRow, job_id)
    if job is None or job.kind != JobKind.RENDER:
        raise NotFoundError("That render is not there any more.")
    return job
