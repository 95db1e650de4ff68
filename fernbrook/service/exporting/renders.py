"""Rendering a mix to files as a job, and the files that came of it."""

from __future__ import annotations

import io
from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from pathlib import Path

import numpy as np

from fernbrook.audio.files import OutputFormat, can_write
from fernbrook.audio.sources import stamps_of, unchanged
from fernbrook.core.plan import RATE, Plan, TimesAt, teaser
from fernbrook.errors import RefusedError
from fernbrook.formats.cover import COLUMNS, cover, cover_of
from fernbrook.formats.film import COLUMNS_A_SECOND, arrays_of
from fernbrook.formats.ribbon import Band
from fernbrook.formats.track_list import Line, ListFormat, TrackList, lines_named, written
from fernbrook.render.lanes import lanes_of
from fernbrook.service.exporting.track_lists import TrackLists
from fernbrook.service.files import SoundFiles, file_name
from fernbrook.service.ground import Events, new_id
from fernbrook.service.jobs import JobKind, Jobs, Rendered, RenderedFiles, nothing_more
from fernbrook.service.mixes import Courses, Mixes
from fernbrook.service.work.render import RenderOrder, SleeveOrder, render_mix, render_wish
from fernbrook.service.work.wish import RenderWish, What
from fernbrook.store.database import Database
from fernbrook.store.folders import Folders
from fernbrook.store.jobs import JobState, jobs_of_kind
from fernbrook.store.stored import Stored
from fernbrook.store.upgrades import (
    as_it_was,
    render_order_1_to_2,
    render_order_6_to_7,
    render_order_11_to_12,
    with_plain_words,
)
from fernbrook.whole import write_whole

EMPTY = "The mix is empty. Add tracks to its running order first."
SHORTEST_S = 0.1
LANES_PACE = 20.0
KIND = JobKind(
    name="render",
    order=Stored(
        RenderOrder,
        {
            1: render_order_1_to_2,
            **dict.fromkeys(range(2, 6), as_it_was),
            6: render_order_6_to_7,
            **dict.fromkeys(range(7, 10), as_it_was),
            10: with_plain_words,
            11: render_order_11_to_12,
            12: as_it_was,
        },
    ),
    run=render_mix,
    finish=nothing_more,
    again=True,
)


@dataclass(frozen=True)
class Paces:
    """About how many seconds of a mix are made in one: of each kind of file, and of lanes.

    ``beside`` is how many other jobs run or wait, which share the machine with it or come before it.
    """

    files: dict[OutputFormat, float]
    lanes: float
    beside: int


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
        sources = self._sources(plan, wish)
        paths = self._files.checked_all(sources)
        job_id = new_id()
        picture = self._folders.renders / f"{job_id}.cover.png"
        write_whole(picture, self.cover(mix_id))
        title = plan.mix.name if wish.what is What.MIX else f"{plan.mix.name} {wish.what}"
        said = self._said(plan, wish, f"{file_name(title)}{wish.suffix}")
        order = RenderOrder(
            mix=plan.mix,
            tracks=plan.tracks,
            paths={track: self._folders.stored(path) for track, path in paths.items()},
            target=self._folders.render_target(f"{job_id}{wish.suffix}"),
            wish=wish,
            sleeve=_sleeve(said, wish).model_copy(update={"cover": self._folders.stored(picture)}),
            course=self._film(mix_id, plan, job_id) if wish.output.spec.video else None,
            stamps=stamps_of(paths),
        )
        write_whole(self._folders.renders / f"{job_id}.txt", written(said, ListFormat.TEXT).encode())
        expected = {
            "duration_s": wish.rendering(plan).frames(plan) / RATE,
            "output": wish.output.value,
            "what": wish.what.value,
            "passes": wish.rendering(plan).passes,
        }
        with self._database.write() as session:
            row = self._jobs.add(session, KIND, mix_id, title, order, expected, job_id)
        self._jobs.announce(row)
        return Rendered.of(self._jobs.view(row))

    def to_file(self, mix_id: str, target: Path, wish: RenderWish, report: Callable[[float], None]) -> float:
        """Render a mix here and now to any file, and return how many seconds it lasts; raises as ``start`` does."""
        plan = self._plan(mix_id, wish)
        paths = self._files.checked_all(self._sources(plan, wish))
        sleeve = _sleeve(self._said(plan, wish, target.name), wish).read(self._folders)
        names = {t.id: t.title for t in plan.tracks}
        if not wish.output.spec.video:
            with unchanged(paths, target, names):
                return render_wish(plan, paths, target, wish, sleeve, report)
        course = self._folders.ours(self._film(mix_id, plan, new_id()))
        try:
            with unchanged(paths, target, names):
                return render_wish(plan, paths, target, wish, sleeve, report, course)
        finally:
            course.unlink(missing_ok=True)

    def cover(self, mix_id: str) -> bytes:
        """The picture of a mix: one that was chosen, else one made of its own course."""
        chosen = self._cover_file(mix_id)
        if chosen.is_file():
            return chosen.read_bytes()
        return cover(self._bands(mix_id, COLUMNS))

    def choose_cover(self, mix_id: str, picture: bytes | None) -> None:
        """Give a mix a picture of one's own, or take it away again.

        Raises
        ------
        RefusedError
            When it is no picture.
        """
        self._mixes.open(mix_id)
        if picture is None:
            self._cover_file(mix_id).unlink(missing_ok=True)
        else:
            write_whole(self._cover_file(mix_id), cover_of(picture))

    def has_own_cover(self, mix_id: str) -> bool:
        """Whether a picture was chosen for a mix."""
        return self._cover_file(mix_id).is_file()

    def paces(self) -> Paces:
        """About how many seconds of a mix are made in one: as the last of its kind went here, else as is usual."""
        files, lanes = {o: o.spec.pace for o in OutputFormat}, LANES_PACE
        with self._database.read() as session:
            rows = [r for r in jobs_of_kind(session, KIND.name) if r.state == JobState.DONE and r.result]
            for row in reversed(rows):
                made = Rendered.of(self._jobs.view(row))
                pace = made.duration_s * made.passes / max(made.job.seconds or 0.0, 0.1)
                if made.what is What.LANES:
                    lanes = pace
                else:
                    files[made.output] = pace
        return Paces(files, lanes, self._jobs.open_count())

    def _cover_file(self, mix_id: str) -> Path:
        return self._folders.covers / f"{file_name(mix_id)}.png"

    def _bands(self, mix_id: str, columns: int) -> list[Band]:
        course = self._courses.course(mix_id, columns)
        return [Band(n, e.first, e.low, e.full) for n, e in enumerate(course.entries)]

    def _film(self, mix_id: str, plan: Plan, job_id: str) -> str:
        """Keep the course that a film is made of, and where."""
        bands = self._bands(mix_id, max(1, round(plan.duration_s * COLUMNS_A_SECOND)))
        out = io.BytesIO()
        np.savez_compressed(out, **arrays_of(bands))  # type: ignore[arg-type]
        path = self._folders.renders / f"{job_id}.course.npz"
        write_whole(path, out.getvalue())
        return self._folders.stored(path)

    @staticmethod
    def _sources(plan: Plan, wish: RenderWish) -> set[str]:
        """By what all files that are read for it are known."""
        if wish.what is What.LANES:
            return {key for lane in lanes_of(plan, by_stem=wish.by_stem, curves=wish.curves) for key in lane.sources}
        return {key for part in plan.parts for key in part.sources}

    def _said(self, plan: Plan, wish: RenderWish, name: str) -> TrackList:
        """The list of what is in a file of that name: its tracks, or the pieces of a teaser."""
        if wish.what is What.TEASER:
            how = wish.rendering(plan)
            pieces = zip(teaser(plan), how.starts_s(plan), strict=True)
            lines = tuple(
                Line(n, start_s, piece.name, "", piece.end_s - piece.start_s)
                for n, (piece, start_s) in enumerate(pieces, 1)
            )
            return TrackList(plan.mix.name, how.frames(plan) / RATE, lines, name)
        return self._lists.of(plan, TimesAt.HAND_OVER, name, wish.start_s or 0.0, wish.end_s)

    def _plan(self, mix_id: str, wish: RenderWish) -> Plan:
        plan = self._mixes.open(mix_id).plan
        if not plan.entries:
            raise RefusedError(EMPTY)
        if not can_write(wish.output):
            raise RefusedError(
                f"No encoder for {wish.output.spec.label} is on this machine. Choose another kind of file."
            )
        if wish.output.spec.video and wish.what.is_archive:
            raise RefusedError("Several files are made of sound only. Choose a kind of sound file.")
        if wish.what is What.LANES and not wish.output.spec.is_lossless:
            raise RefusedError("Lanes need an exact format: choose WAV or FLAC.")
        if wish.what is What.TEASER and not plan.transitions:
            raise RefusedError("A teaser is made of transitions, and this mix has none. Add a second track first.")
        if wish.rendering(plan).frames(plan) < SHORTEST_S * RATE:
            raise RefusedError("That part of the mix holds nothing. Let it end after it starts, within the mix.")
        return plan

    def track_list(self, job_id: str) -> tuple[Path, str]:
        """The track list of a rendered file, and the name to give it."""
        path, name = self.file(job_id)
        return path.with_suffix(".txt"), f"{file_name(Path(name).stem)}.txt"

    def sleeve(self, job_id: str) -> tuple[str, SleeveOrder | None]:
        """The mix that a rendered file is of, and what stands on it."""
        with self._database.read() as session:
            row = self._get(session, job_id)
        order: RenderOrder = self._jobs.order_of(row)
        return row.subject, order.sleeve

    def delete_all(self, mix_id: str) -> None:
        """Delete all renders of a mix, and its picture; those under way are cancelled first."""
        self._cover_file(mix_id).unlink(missing_ok=True)
        for rendered in self.list(mix_id):
            if rendered.job.is_open:
                self._jobs.cancel(rendered.job.id)
            self.delete(rendered.job.id)


def _sleeve(said: TrackList, wish: RenderWish) -> SleeveOrder:
    """What stands on the file: the name of the mix, and what is in it as chapters and in the comment."""
    return SleeveOrder(
        title=said.name if wish.what is What.MIX else f"{said.name} ({wish.what})",
        artist=wish.artist.strip(),
        comment=lines_named(said.lines),
        date=date.today().isoformat(),
        chapters=tuple((x.start_s, x.name) for x in said.lines),
    )
