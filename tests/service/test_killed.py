"""Killed anywhere, a start leaves exactly what belongs in the data folder: walked file by file."""

from __future__ import annotations

import random
from pathlib import Path

import pytest
import soundfile
from sqlalchemy import select

from fernbrook.analysis.peaks import BUCKETS
from fernbrook.audio.files.output import OutputFormat
from fernbrook.core.mix.commands import AddTracks
from fernbrook.core.track import PutGrid
from fernbrook.errors import AudioFileError
from fernbrook.formats.bundle import BundleAudio
from fernbrook.service.services import Services
from fernbrook.service.work.render import render_mix
from fernbrook.service.work.wish import RenderWish
from fernbrook.store.folders import Folders
from fernbrook.store.tables import FileFieldsRow, JobRow, TrackRow
from fernbrook.whole import beside, is_unfinished
from tests.conftest import Made
from tests.service.conftest import killed, until, without_analyses

pytestmark = pytest.mark.slow

WORK = """
import sys, threading
from pathlib import Path
from fernbrook.audio.files.output import OutputFormat
from fernbrook.core.mix.commands import RenameMix
from fernbrook.core.ordering.wishes import Wishes
from fernbrook.formats.bundle import BundleAudio
from fernbrook.service.files.file_writing import Wanted
from fernbrook.service.services import Services
from fernbrook.service.work.wish import RenderWish
from fernbrook.store.folders import Folders

if __name__ == "__main__":
    data, what, *files = sys.argv[1:]
    services = Services(Folders(Path(data)), workers=1)
    services.start()
    tracks = [t.id for t in services.catalogue.tracks()]
    mix = services.mixes.list()[0].id
    print("begun", flush=True)
    for n in range(10_000):
        if what == "tags":
            services.file_writing.write(tracks[n % 2], Wanted(comment=f"{{title}} {n}"))
        elif what == "import":
            taken = services.library.bring_in_path(Path(files[0]))
            services.library.remove(taken.track.id)
        elif what == "render":
            made = services.renders.start(mix, RenderWish(output=OutputFormat.FLAC_16))
            while services.renders.list(mix)[0].job.is_open: pass
            services.renders.delete(made.job.id)
        elif what == "bundle":
            made = services.bundles.start(mix, BundleAudio.ORIGINAL, with_history=True)
            while services.bundles.made_of(mix)[0].job.is_open: pass
            services.bundles.delete(made.job.id)
        elif what == "video":
            made = services.renders.start(mix, RenderWish(output=OutputFormat.VIDEO_H264, end_s=6.0))
            while services.renders.list(mix)[0].job.is_open: pass
            services.renders.delete(made.job.id)
        elif what == "search":
            services.orders.start(mix, Wishes(), tracks if n % 2 else None)
            while services.orders.latest(mix).job.is_open: pass
        elif what == "stems":
            services.stems.start(tracks[0])
            while services.stems.state(tracks[0])[1] is not None: pass
            services.stems.remove(tracks[0])
        elif what == "undo":
            version = services.mixes.open(mix).version
            version = services.mixes.change(mix, version, RenameMix(name=f"Night {n}")).version
            version = services.mixes.undo(mix, version).version
            services.mixes.redo(mix, version)
            services.collection.tag(tracks, add=[f"tag {n}"])
            services.collection.undo()
        elif what == "backup":
            made = services.backups.start(with_audio=True)
            while services.backups.list()[0].job.is_open: pass
            services.backups.delete(made.job.id)
"""


@pytest.fixture
def filled(tmp_path: Path, first: Made, second: Made) -> Path:
    """A folder with a mix of two tracks, one of which stayed in its own place."""
    services = Services(Folders(tmp_path / "data"), workers=1)
    own = tmp_path / "own"
    own.mkdir()
    kept = own / first.path.name
    kept.write_bytes(first.path.read_bytes())
    ids = (
        services.library.bring_in_path(kept, in_place=True).track.id,
        services.library.bring_in_path(second.path).track.id,
    )
    for track_id, made in zip(ids, (first, second), strict=True):
        services.marking.change(track_id, None, PutGrid(grid=made.truth.grid))
    mix = services.mixes.create("Night")
    services.mixes.change(mix.id, mix.version, AddTracks(track_ids=(*ids, ids[0])))
    without_analyses(services)
    services.stop()
    return tmp_path / "data"


def belongs(services: Services) -> set[str]:
    """What may lie in a data folder, by its database."""
    folders = services.folders
    names = {"fernbrook.db", "fernbrook.db-wal", "fernbrook.db-shm", "fernbrook.lock", "owner.json", "settings.json"}
    with services._database.read() as session:
        tracks, jobs = session.query(TrackRow).all(), session.query(JobRow).all()
        names |= {f"tags/{x}.block" for x in session.scalars(select(FileFieldsRow.track_id))}
        for track in tracks:
            names |= {track.path} | {str(p.relative_to(folders.root)) for p in folders.pictures_of(track.content_hash)}
        for job in jobs:
            for folder in ("renders", "bundles"):
                names |= {f"{folder}/{p.name}" for p in (folders.root / folder).glob(f"{job.id}.*")}
            order = services.jobs.order_of(job)
            names |= {order.target} if hasattr(order, "target") else set()
    return names


def there(root: Path) -> set[str]:
    return {p.relative_to(root).as_posix() for p in root.rglob("*") if p.is_file()}


WHAT = ["tags", "import", "render", "video", "stems", "search", "undo", "bundle", "backup"]


@pytest.mark.parametrize("what", WHAT)
def test_a_start_leaves_what_belongs_there(filled: Path, tmp_path: Path, other_rate: Made, what: str) -> None:
    script = tmp_path / "work.py"
    script.write_text(WORK)
    dice = random.Random(what)
    for _ in range(3):
        killed(script, str(filled), what, str(other_rate.path), after_s=dice.uniform(0.0, 1.2))
        services = Services(Folders(filled), workers=1)
        try:
            services.library.clear()
            services.file_writing.clear()
            services.jobs.clear()
            assert there(filled) - belongs(services) == set()
            assert [p.name for p in (tmp_path / "own").iterdir() if is_unfinished(p)] == []
            assert len(services.files.checked(t.id for t in services.catalogue.tracks())) >= 2
            services.start()
            until(lambda: not any(b.job.is_open for b in services.bundles.made_of(services.mixes.list()[0].id)))  # noqa: B023
            assert {b.job.error for b in services.bundles.made_of(services.mixes.list()[0].id)} <= {None}
            opened = services.mixes.open(services.mixes.list()[0].id)
            assert len(opened.plan.entries) == 3
            assert opened.steps.undo is not None
            services.mixes.redo(opened.id, services.mixes.undo(opened.id, opened.version).version)
            services.collection.gathered()
        finally:
            services.stop()


def test_a_bundle_that_was_whole_when_it_was_cut_off_is_taken_as_it_is(filled: Path) -> None:
    services = Services(Folders(filled), workers=1)
    mix = services.mixes.list()[0].id
    made = services.bundles.start(mix, BundleAudio.NONE, with_history=False)
    with services._database.read() as session:
        order = services.jobs.order_of(session.get_one(JobRow, made.job.id))
    kind = services.jobs._kinds["bundle"]
    once = kind.run(order, filled, lambda _: None)
    assert kind.run(order, filled, lambda _: None) == once, "killed before it was noted, it is done again"
    services.stop()


def test_a_cancelled_render_leaves_nothing_and_its_next_try_is_not_hindered(filled: Path) -> None:
    services = Services(Folders(filled), workers=1)
    mix = services.mixes.list()[0].id
    services.start()
    try:
        job = services.renders.start(mix, RenderWish(output=OutputFormat.WAV_24)).job
        until(lambda: any(is_unfinished(p) for p in services.folders.renders.iterdir()))
        services.jobs.cancel(job.id)
        stale = beside(services.folders.renders / "x.wav")
        until(lambda: not any(is_unfinished(p) for p in services.folders.renders.iterdir()), 20.0)
        stale.write_bytes(b"of another process")
        services.jobs.retry(job.id)
        until(lambda: not services.renders.list(mix)[0].job.is_open)
        assert services.renders.list(mix)[0].job.state == "done"
        assert stale.is_file()
    finally:
        services.stop()


def test_a_source_that_is_replaced_under_a_render_fails_it(filled: Path, tmp_path: Path, first: Made) -> None:
    services = Services(Folders(filled), workers=1)
    mix = services.mixes.list()[0].id
    job = services.renders.start(mix, RenderWish(output=OutputFormat.WAV_24)).job
    with services._database.read() as session:
        order = services.jobs.order_of(session.get_one(JobRow, job.id))
    services.stop()
    own = tmp_path / "own" / first.path.name
    before = own.read_bytes()

    def replaced(share: float) -> None:
        if share > 0.9:
            sound, rate = soundfile.read(first.path)
            soundfile.write(own, sound[::-1], rate)

    with pytest.raises(AudioFileError, match="changed or replaced"):
        render_mix(order, filled, replaced)
    assert not (filled / order.target).exists()
    with pytest.raises(AudioFileError, match="changed or replaced"):
        render_mix(order, filled, lambda _: None)
    own.write_bytes(before)
    again = order.model_copy(update={"stamps": None})
    render_mix(again, filled, lambda _: None)
    assert (filled / order.target).is_file()


def test_a_folder_and_its_database_are_for_this_user_only(filled: Path) -> None:
    services = Services(Folders(filled), workers=1)
    try:
        assert len(services.catalogue.tracks()) == 2
        modes = {p.name: oct(p.stat().st_mode & 0o777) for p in (filled, *filled.glob("fernbrook.db*"))}
        assert modes.pop("data") == "0o700"
        assert set(modes.values()) == {"0o600"}
        assert len(modes) >= 2
    finally:
        services.stop()


def test_no_bucket_of_a_picture_is_forgotten(filled: Path) -> None:
    """What is deleted with a track is found by its name: all that is drawn of it is called by its content."""
    folders = Folders(filled)
    content = "a" * 64
    for path in (
        *(folders.peaks_file(content, bucket) for bucket in BUCKETS),
        folders.features_file(content),
        folders.onsets_file(content),
        folders.true_peaks_file(content),
    ):
        path.parent.mkdir(exist_ok=True)
        path.write_bytes(b"x")
        assert path in folders.pictures_of(content)
