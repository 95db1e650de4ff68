"""Working in the data folder itself."""

from __future__ import annotations

import shutil
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

from typing_extensions import override

from fernbrook.cli.desk import LOOK_EVERY_S, Desk, NamedMix, Report, Taken, opened_lines
from fernbrook.enclosed import open_regular
from fernbrook.errors import FernbrookError
from fernbrook.formats.bundle import BundleAudio
from fernbrook.service.importing import Arrival
from fernbrook.service.jobs import Job
from fernbrook.service.services import Services
from fernbrook.service.work.wish import RenderWish
from fernbrook.store.folders import Folders
from fernbrook.store.jobs import JobState
from fernbrook.whole import appearing


@contextmanager
def local_desk(folders: Folders, what: str) -> Iterator[LocalDesk]:
    """A data folder, worked in and let go of."""
    services = Services(folders, what=what)
    try:
        services.start()
        yield LocalDesk(services)
    finally:
        services.stop()


class LocalDesk(Desk):
    """Works in the data folder itself."""

    def __init__(self, services: Services) -> None:
        self._services = services

    @override
    def bring_in(self, path: Path, in_place: bool) -> Taken:
        imported = self._services.library.bring_in_path(path, in_place)
        return Taken(imported.track.title, imported.track.id, imported.known, imported.restored)

    @override
    def waiting(self, track_ids: list[str]) -> float | None:
        tracks = [self._services.library.get(i) for i in track_ids]
        shares = [t.job.progress if t.job and t.is_waiting else 1.0 for t in tracks]
        return sum(shares) / len(shares) if any(t.is_waiting for t in tracks) else None

    @override
    def mixes(self) -> list[NamedMix]:
        return [NamedMix(m.id, m.name) for m in self._services.mixes.list()]

    @override
    def render(self, mix: NamedMix, out: Path, wish: RenderWish, report: Report) -> float:
        return self._services.renders.to_file(mix.id, out, wish, report)

    @override
    def bundle(self, mix: NamedMix, out: Path, audio: BundleAudio, history: bool, report: Report) -> None:
        bundles = self._services.bundles
        made = bundles.start(mix.id, audio, with_history=history).job
        try:
            _waited(lambda: next(b.job for b in bundles.made_of(mix.id) if b.job.id == made.id), report)
            with appearing(out) as partial:
                shutil.copyfile(bundles.file(made.id)[0], partial)
        finally:
            bundles.delete(made.id)

    @override
    def open_bundle(self, file: Path, theirs: bool, report: Report) -> list[str]:
        opening = self._services.bundle_opening
        with open_regular(file) as stream:
            arrived = opening.bring(stream, file.name)
        differing = [t.id for t in arrived.tracks if t.arrival is Arrival.DIFFERS]
        opening.open(arrived.id, differing if theirs else ())
        _waited(lambda: opening.opening(arrived.id).job, report)
        return opened_lines(arrived.name, [(t.title, t.arrival.value) for t in arrived.tracks], theirs)


def _waited(look: Callable[[], Job], report: Report) -> None:
    """Wait for a job; raises what it failed by."""
    while (job := look()).is_open:
        report(job.progress)
        time.sleep(LOOK_EVERY_S)
    if job.state != JobState.DONE:
        raise FernbrookError(job.error or f"It ended as {job.state}.")
    report(1.0)
