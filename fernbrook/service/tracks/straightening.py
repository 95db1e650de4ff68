"""Rendering a track straight: at one steady tempo, as a file to be taken away or brought into the library."""

from __future__ import annotations

from typing import Any

from fernbrook.audio.files import OutputFormat
from fernbrook.core.plan import straight_grid, straight_plan, suggested_tempo
from fernbrook.core.track import Grid, MarkChecked, PutGrid
from fernbrook.errors import RefusedError
from fernbrook.service.files import SoundFiles
from fernbrook.service.ground import Events, new_id
from fernbrook.service.jobs import JobKind, Jobs, Rendered, RenderedFiles, nothing_more
from fernbrook.service.tracks.library import Imported, Library
from fernbrook.service.tracks.marking import Marking
from fernbrook.service.work.straighten import StraightenOrder, straighten_track
from fernbrook.store.database import Database
from fernbrook.store.folders import Folders
from fernbrook.store.stored import Stored
from fernbrook.store.upgrades import as_it_was, straighten_order_1_to_2, with_plain_words

KIND = JobKind(
    name="straighten",
    order=Stored(
        StraightenOrder,
        {
            1: straighten_order_1_to_2,
            **dict.fromkeys(range(2, 5), as_it_was),
            5: with_plain_words,
            6: as_it_was,
            7: as_it_was,
        },
    ),
    run=straighten_track,
    finish=nothing_more,
)


class Straightening(RenderedFiles):
    """All use cases that concern straightened tracks."""

    def __init__(
        self,
        folders: Folders,
        database: Database,
        events: Events,
        jobs: Jobs,
        files: SoundFiles,
        library: Library,
        marking: Marking,
    ) -> None:
        super().__init__(folders, database, events, jobs, KIND)
        self._files = files
        self._library = library
        self._marking = marking
        jobs.register(KIND)

    def suggested(self, track_id: str) -> float | None:
        """The tempo that a track would best be straightened to; None while it has no grid."""
        facts = self._library.facts(track_id)
        return suggested_tempo(facts) if facts.grid else None

    def start(self, track_id: str, bpm: float, output: OutputFormat) -> Rendered:
        """Queue the rendering of a track at a steady tempo, through its grid as it is now."""
        facts = self._library.facts(track_id)
        if facts.grid is None:
            raise RefusedError("There is no grid to straighten by. Set one first.")
        if not output.spec.is_lossless:
            raise RefusedError("A straightened track is written as WAV or FLAC, so that nothing of it is lost.")
        path = self._files.checked([track_id])[track_id]
        planned = straight_plan(facts, bpm)
        job_id = new_id()
        order = StraightenOrder(
            track=facts,
            bpm=bpm,
            path=self._folders.stored(path),
            target=self._folders.render_target(f"{job_id}{output.suffix}"),
            output=output,
            key=facts.key.key.name if facts.key else None,
        )
        expected: dict[str, Any] = {
            "duration_s": planned.duration_s,
            "output": output.value,
            "bpm": bpm,
            "grid": straight_grid(planned).model_dump(),
        }
        title = f"{facts.title} ({bpm:g} BPM)"
        with self._database.write() as session:
            row = self._jobs.add(session, KIND, track_id, title, order, expected, job_id)
        self._jobs.announce(row)
        return Rendered.of(self._jobs.view(row))

    def bring_in(self, job_id: str) -> Imported:
        """Take a straightened file into the library, with its exact grid, marked as checked."""
        path, name = self.file(job_id)
        with path.open("rb") as stream:
            imported = self._library.bring_in(stream, name)
        with self._database.read() as session:
            grid = Grid.model_validate((self._get(session, job_id).result or {})["grid"])
        self._marking.change(imported.track.id, None, PutGrid(grid=grid, why="straightened"))
        self._marking.change(imported.track.id, None, MarkChecked(checked=True))
        return imported
