"""Where a command does its work: in the data folder itself, or through the server that has the folder."""

from __future__ import annotations

import shutil
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Protocol

from fernbrook.cli.screen import say
from fernbrook.enclosed import open_regular
from fernbrook.errors import FernbrookError, NotFoundError
from fernbrook.formats.bundle import BundleAudio
from fernbrook.service.jobs import Job
from fernbrook.service.leaving.bundle_opening import Arrival
from fernbrook.service.work.wish import RenderWish
from fernbrook.store.folders import Folders
from fernbrook.store.jobs import JobState
from fernbrook.store.ownership import FolderInUseError
from fernbrook.whole import appearing

if TYPE_CHECKING:
    from fernbrook.service.house import House

Report = Callable[[float], None]
LOOK_EVERY_S = 0.3


@dataclass(frozen=True)
class Taken:
    """What came of a file that was brought in."""

    title: str
    track_id: str
    known: bool
    restored: bool


@dataclass(frozen=True)
class NamedMix:
    """A mix by id and name."""

    id: str
    name: str


class Desk(Protocol):
    """What commands ask for."""

    def bring_in(self, path: Path, in_place: bool) -> Taken:
        """Take a file into the library."""

    def waiting(self, track_ids: list[str]) -> float | None:
        """How far the analyses of some tracks are, 0..1; None when all have ended."""

    def mixes(self) -> list[NamedMix]:
        """All mixes."""

    def render(self, mix: NamedMix, out: Path, wish: RenderWish, report: Report) -> float:
        """Render a mix to a file and return how many seconds it lasts."""

    def bundle(self, mix: NamedMix, out: Path, audio: BundleAudio, history: bool, report: Report) -> None:
        """Pack a mix into a file."""

    def open_bundle(self, file: Path, theirs: bool, report: Report) -> list[str]:
        """Open a bundle, and say line by line what became of what is in it."""


def opened_lines(name: str, tracks: Sequence[tuple[str, str]], theirs: bool) -> list[str]:
    """What became of the tracks of a bundle, each with how it arrived."""
    words = {
        "new": "new",
        "same": "was here",
        "differs": "was here; its markup is now the bundle's" if theirs else "was here with other markup, which stays",
        "missing": "its music is not here: import it, and it is found again",
    }
    return [f"‘{name}’ is in the library.", *(f"  {title}: {words[arrival]}" for title, arrival in tracks)]


@contextmanager
def desk(data: Path | None, what: str) -> Iterator[Desk]:
    """A place to work on a data folder: its server's where one runs, the folder itself where nobody has it.

    Where another command has the folder, its end is waited for.
    """
    folders = folders_of(data)
    while True:
        try:
            with _here(folders, what) as own:
                yield own
            return
        except FolderInUseError as error:
            if error.owner is not None and error.owner.port is not None:
                from fernbrook.cli.remote import RemoteDesk

                with RemoteDesk(error.owner) as remote:
                    yield remote
                return
            wait_for_end(folders, error)


def folders_of(data: Path | None) -> Folders:
    """The data folder that is asked for, else the user's own."""
    return Folders(data.resolve()) if data else Folders.default()


def wait_for_end(folders: Folders, error: FolderInUseError) -> None:
    """Wait until the command that has a folder is done with it."""
    from fernbrook.store.ownership import owner_of

    who = f"‘{error.owner.what}’ (process {error.owner.pid})" if error.owner else "another Fernbrook"
    say(f"Waiting for {who} to be done with {folders.root} …")
    while (owner := owner_of(folders.root)) is not None and owner.port is None:
        time.sleep(LOOK_EVERY_S)


@contextmanager
def _here(folders: Folders, what: str) -> Iterator[Desk]:
    from fernbrook.service.house import House

    house = House(folders, what=what)
    try:
        house.start()
        yield _Local(house)
    finally:
        house.stop()


class _Local:
    """Works in the data folder itself."""

    def __init__(self, house: House) -> None:
        self._house = house

    def bring_in(self, path: Path, in_place: bool) -> Taken:
        imported = self._house.library.bring_in_path(path, in_place)
        return Taken(imported.track.title, imported.track.id, imported.known, imported.restored)

    def waiting(self, track_ids: list[str]) -> float | None:
        tracks = [self._house.library.get(i) for i in track_ids]
        shares = [t.job.progress if t.job and t.is_waiting else 1.0 for t in tracks]
        return sum(shares) / len(shares) if any(t.is_waiting for t in tracks) else None

    def mixes(self) -> list[NamedMix]:
        return [NamedMix(m.id, m.name) for m in self._house.mixes.list()]

    def render(self, mix: NamedMix, out: Path, wish: RenderWish, report: Report) -> float:
        return self._house.renders.to_file(mix.id, out, wish, report)

    def bundle(self, mix: NamedMix, out: Path, audio: BundleAudio, history: bool, report: Report) -> None:
        bundles = self._house.bundles
        made = bundles.start(mix.id, audio, with_history=history).job
        try:
            _waited(lambda: next(b.job for b in bundles.made_of(mix.id) if b.job.id == made.id), report)
            with appearing(out) as partial:
                shutil.copyfile(bundles.file(made.id)[0], partial)
        finally:
            bundles.delete(made.id)

    def open_bundle(self, file: Path, theirs: bool, report: Report) -> list[str]:
        opening = self._house.bundle_opening
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


def one_named(mixes: list[NamedMix], wanted: str) -> NamedMix:
    """The mix with that name or id.

    Raises
    ------
    NotFoundError
        When there is none; the message lists the names.
    FernbrookError
        When several have the name; the message lists their ids.
    """
    found = [m for m in mixes if wanted in (m.id, m.name)]
    if not found:
        raise NotFoundError(f"There is no mix ‘{wanted}’. The mixes are: {', '.join(m.name for m in mixes)}")
    if len(found) > 1:
        raise FernbrookError(f"{len(found)} mixes are called ‘{wanted}’. Say which by its id: "
                             f"{', '.join(m.id for m in found)}")  # fmt: skip
    return found[0]
