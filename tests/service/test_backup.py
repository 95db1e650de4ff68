"""A backup is whole or refused, and a library that is brought back is the one that it was, whenever it is cut off."""

from __future__ import annotations

import json
import os
import shutil
import sqlite3
import zipfile
from collections.abc import Callable
from contextlib import suppress
from datetime import UTC, datetime, timedelta
from pathlib import Path

import numpy as np
import pytest
from sqlalchemy import text

from fernbrook.audio.files.output import OutputFormat
from fernbrook.core.mix.commands import AddTracks, RenameMix
from fernbrook.core.mix.model import Mix
from fernbrook.enclosed import OutsideError
from fernbrook.errors import RefusedError
from fernbrook.formats.archive import MANIFEST, ArchiveError, archive_at
from fernbrook.service.exporting.backups import Schedule
from fernbrook.service.jobs import jobs
from fernbrook.service.services import Services
from fernbrook.service.work import backup as b
from fernbrook.service.work.back_up import BackupOrder
from fernbrook.service.work.bundle import PackOrder
from fernbrook.service.work.publish import PublishOrder
from fernbrook.service.work.render import RenderOrder
from fernbrook.service.work.separate import SeparateOrder
from fernbrook.service.work.wish import RenderWish
from fernbrook.store.folders import Folders
from tests.conftest import Made
from tests.service.conftest import until


@pytest.fixture
def filled(services: Services, first: Made) -> str:
    """A library with a track and a mix of it; the mix's id."""
    track = services.library.bring_in_path(first.path).track.id
    mix = services.mixes.create("Night")
    return services.mixes.change(mix.id, mix.version, AddTracks(track_ids=(track,))).id


def heard(services: Services, mix_id: str) -> np.ndarray:
    return np.concatenate(list(services.listening.preview(mix_id, 0, 200_000, None)[1]))


def names(root: Path) -> dict[str, bytes]:
    return {
        p.relative_to(root).as_posix(): p.read_bytes()
        for f in ("audio", "peaks", "stems")
        for p in (root / f).rglob("*")
        if p.is_file()
    }


@pytest.mark.vital
def test_a_library_is_backed_up_while_it_is_used_and_comes_back_as_it_was(
    services: Services, filled: str, tmp_path: Path
) -> None:
    sound, kept = heard(services, filled), names(services.folders.root)
    target = tmp_path / "kept.zip"
    shares: list[float] = []
    made = b.write_backup(services.folders, target, with_audio=True, report=shares.append)
    assert shares == sorted(shares)
    assert shares[-1] == pytest.approx(1.0)
    assert b.read_backup(target) == made
    assert zipfile.ZipFile(target).testzip() is None
    opened = services.mixes.open(filled)
    services.mixes.change(filled, opened.version, RenameMix(name="Spoiled"))
    services.stop()
    folders = services.folders
    shutil.rmtree(folders.audio)
    back = b.restore(target, folders)
    again = Services(folders, workers=1)
    try:
        assert again.mixes.open(filled).plan.mix.name == "Night"
        assert names(folders.root) == kept
        assert np.array_equal(heard(again, filled), sound)
        assert (back.before / folders.database.name).is_file()
    finally:
        again.stop()


def test_it_opens_in_an_empty_folder_and_without_audio_what_is_there_stays(
    services: Services, filled: str, tmp_path: Path
) -> None:
    light, whole = tmp_path / "light.zip", tmp_path / "whole.zip"
    without = b.write_backup(services.folders, light, with_audio=False)
    b.write_backup(services.folders, whole, with_audio=True)
    assert not any(n.startswith("audio/") for n in without.files)
    fresh = Folders(tmp_path / "elsewhere")
    b.restore(whole, fresh)
    b.restore(light, fresh)
    again = Services(fresh, workers=1)
    try:
        assert heard(again, filled).any()
    finally:
        again.stop()


def rewritten(path: Path, change: Callable[[dict], None], more: dict[str, bytes] | None = None) -> Path:
    """The backup with its manifest changed."""
    target = path.with_name("changed.zip")
    with zipfile.ZipFile(path) as old, zipfile.ZipFile(target, "w") as new:
        for info in old.infolist():
            content = old.read(info)
            if info.filename == MANIFEST:
                said = json.loads(content)
                change(said)
                content = json.dumps(said).encode()
            new.writestr(info.filename, content)
        for name, content in (more or {}).items():
            new.writestr(name, content)
    return target


def outside(said: dict) -> None:
    said["files"]["audio/../../evil.txt"] = {"bytes": 4, "sha256": "x"}


def newer(said: dict) -> None:
    said["version"] = 2


def other(said: dict) -> None:
    said["format"] = "something"


def wrong_sum(said: dict) -> None:
    said["files"]["fernbrook.db"]["sha256"] = "0" * 64


def wrong_size(said: dict) -> None:
    said["files"]["fernbrook.db"]["bytes"] += 1


def huge(said: dict) -> None:
    said["files"]["fernbrook.db"]["bytes"] = 10**15


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (outside, "no part of a backup"),
        (newer, "newer Fernbrook"),
        (other, "no backup of Fernbrook"),
        (wrong_sum, "is damaged"),
        (wrong_size, "cut off"),
        (huge, "cut off"),
    ],
)
@pytest.mark.usefixtures("filled")
def test_a_backup_that_is_not_as_it_says_is_refused_and_nothing_is_touched(
    services: Services, tmp_path: Path, change: Callable[[dict], None], words: str
) -> None:
    target = tmp_path / "kept.zip"
    b.write_backup(services.folders, target, with_audio=True)
    services.stop()
    before = names(services.folders.root), services.folders.database.read_bytes()
    spoiled = rewritten(target, change, {"audio/../../evil.txt": b"evil"})
    with pytest.raises(ArchiveError, match=words):
        b.restore(spoiled, services.folders)
    assert (names(services.folders.root), services.folders.database.read_bytes()) == before
    assert not list(tmp_path.rglob("evil.txt"))
    assert not (services.folders.root / b.STAGE).exists()


@pytest.mark.usefixtures("filled")
def test_what_is_cut_off_or_no_zip_is_refused(services: Services, tmp_path: Path) -> None:
    target = tmp_path / "kept.zip"
    b.write_backup(services.folders, target, with_audio=True)
    content = target.read_bytes()
    for spoiled in (content[: len(content) // 2], b"", b"milk, bread, ferns", content[:-3]):
        target.write_bytes(spoiled)
        with pytest.raises(ArchiveError):
            b.restore(target, services.folders)
    with pytest.raises(ArchiveError, match="no file at"):
        b.restore(tmp_path / "nowhere.zip", services.folders)


@pytest.mark.vital
@pytest.mark.parametrize("steps", [0, 1, 2, 3, 5, 6, 8])
def test_a_restore_that_is_cut_off_at_any_step_leaves_the_old_or_the_new(
    services: Services, filled: str, tmp_path: Path, steps: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    target = tmp_path / "kept.zip"
    b.write_backup(services.folders, target, with_audio=True)
    opened = services.mixes.open(filled)
    services.mixes.change(filled, opened.version, RenameMix(name="Later"))
    services.stop()
    left = [steps]

    class CutOffError(BaseException):
        """As if the machine had been switched off."""

    def counted(real: Callable[..., object]) -> Callable[..., object]:
        def step(*args: object, **kwargs: object) -> object:
            if left[0] <= 0:
                raise CutOffError
            left[0] -= 1
            return real(*args, **kwargs)

        return step

    with monkeypatch.context() as patched:
        patched.setattr(Path, "replace", counted(Path.replace))
        patched.setattr(Path, "write_bytes", counted(Path.write_bytes))
        patched.setattr(shutil, "rmtree", counted(shutil.rmtree))
        with suppress(CutOffError):
            b.restore(target, services.folders)
    again = Services(services.folders, workers=1)
    try:
        assert again.mixes.open(filled).plan.mix.name in ("Night", "Later")
        assert heard(again, filled).any()
        assert not (services.folders.root / b.STAGE).exists()
    finally:
        again.stop()


def test_what_was_taken_out_in_part_is_thrown_away_at_the_next_start(services: Services, filled: str) -> None:
    services.stop()
    stage = services.folders.root / b.STAGE
    stage.mkdir()
    (stage / services.folders.database.name).write_bytes(b"half of it")
    again = Services(services.folders, workers=1)
    try:
        assert again.mixes.open(filled).plan.mix.name == "Night"
        assert not stage.exists()
    finally:
        again.stop()


@pytest.mark.usefixtures("filled")
def test_backups_are_made_as_jobs_by_hand_and_by_themselves(services: Services) -> None:
    services.start()
    assert not services.backups.make_if_due()
    made = services.backups.start(with_audio=False)
    with pytest.raises(RefusedError, match="being made already"):
        services.backups.start(with_audio=False)
    until(lambda: services.backups.list()[0].bytes is not None)
    assert b.read_backup(services.backups.file(made.job.id)).said["with_audio"] is False
    services.backups.set_schedule(Schedule(every_days=7, keep=2))
    assert not services.backups.make_if_due()
    for weeks in (1, 2, 3):
        count = len(services.backups.list())
        assert services.backups.make_if_due(datetime.now(UTC) + timedelta(days=7 * weeks + 1))
        until(lambda: not any(x.job.is_open for x in services.backups.list()))
        assert len(services.backups.list()) == min(count + 1, 2)
    assert len(list(services.folders.backups.glob("*.zip"))) == 2
    for row in services.backups.list():
        services.backups.delete(row.job.id)
    failing = services.backups.start(with_audio=False).job
    services.jobs.cancel(failing.id)
    until(lambda: not any(x.job.is_open for x in services.backups.list()))
    assert not services.backups.make_if_due(datetime.now(UTC) + timedelta(hours=20))
    assert services.backups.make_if_due(datetime.now(UTC) + timedelta(hours=25))
    until(lambda: not any(x.job.is_open for x in services.backups.list()))
    newest = services.backups.list()[0].job.id
    services.backups.set_schedule(Schedule(every_days=7, keep=1))
    assert not services.backups.make_if_due(datetime.now(UTC) - timedelta(days=3))
    with pytest.MonkeyPatch.context() as clock:
        clock.setattr(jobs, "now", lambda: datetime.now(UTC) - timedelta(days=400))
        assert services.backups.make_if_due(datetime.now(UTC) - timedelta(days=400)), (
            "a clock set back stops no backups"
        )
        until(lambda: not any(x.job.is_open for x in services.backups.list()))
    assert [x.job.id for x in services.backups.list()] != [newest], "and the one that was made last is kept"
    newest = services.backups.list()[0].job.id
    services.backups.delete(newest)
    assert os.listdir(services.folders.backups) == []


def remade(services: Services, tmp_path: Path, change: Callable[[sqlite3.Connection], None] | bytes) -> Path:
    """A backup with right sums whose database was changed, or is something else."""
    target, spoiled, database = tmp_path / "kept.zip", tmp_path / "spoiled.zip", tmp_path / "changed.db"
    b.write_backup(services.folders, target, with_audio=True)
    with zipfile.ZipFile(target) as old:
        database.write_bytes(old.read("fernbrook.db") if callable(change) else change)
        if callable(change):
            with sqlite3.connect(database) as connection:
                change(connection)
            connection.close()
        with archive_at(spoiled) as new:
            for name in old.namelist():
                if name == "fernbrook.db":
                    new.add(name, database)
                elif name != MANIFEST:
                    new.add_bytes(name, old.read(name))
            new.finish(b.BACKUP, {"made_at": "2026-11-30", "with_audio": True})
    return spoiled


SPOILED: dict[str, tuple[bytes | list[str], str]] = {
    "text": (b"milk, bread, ferns", "is damaged"),
    "nothing": (b"", "is no library"),
    "another program's": (["DROP TABLE alembic_version"], "is no library"),
    "newer": (["UPDATE alembic_version SET version_num = '9999'"], "newer Fernbrook"),
    "a table lost": (["DROP TABLE pairings"], "‘pairings’ has no"),
    "a table more": (["CREATE TABLE trojans (a)"], "a table ‘trojans’"),
    "a trigger": (["CREATE TRIGGER t AFTER INSERT ON jobs BEGIN DELETE FROM tracks; END"], "a trigger"),
    "a view": (["CREATE VIEW v AS SELECT 1"], "a view"),
    "what is not there": (["PRAGMA foreign_keys=OFF", "DELETE FROM mixes"], "refers to what is not"),
    "no JSON": (["UPDATE tracks SET tags = '{' "], "‘tracks’ cannot be read"),
}


@pytest.mark.parametrize("how", SPOILED)
@pytest.mark.usefixtures("filled")
def test_a_backup_whose_database_is_no_whole_library_is_refused(services: Services, tmp_path: Path, how: str) -> None:
    change, words = SPOILED[how]

    def changed(connection: sqlite3.Connection) -> None:
        for line in change if isinstance(change, list) else ():
            connection.execute(line)

    spoiled = remade(services, tmp_path, change if isinstance(change, bytes) else changed)
    services.stop()
    before = services.folders.database.read_bytes()
    with pytest.raises(ArchiveError, match=words):
        b.restore(spoiled, services.folders)
    assert services.folders.database.read_bytes() == before
    assert not (services.folders.root / b.STAGE).exists()


def test_work_that_waits_in_a_backup_does_not_begin(services: Services, filled: str, tmp_path: Path) -> None:
    theirs = tmp_path / "thesis.txt"
    theirs.write_text("years of work")
    order = {
        "version": 1,
        "state": {"root": str(tmp_path), "items": [], "lists": [], "texts": {}, "gone": [theirs.name]},
    }

    def with_work(connection: sqlite3.Connection) -> None:
        for n, state in enumerate(("waiting", "running")):
            connection.execute(
                'INSERT INTO jobs (id, kind, subject, title, "order", state, progress, created_at) '
                "VALUES (?, 'stick', 'stick', 'Stick', ?, ?, 0.0, '2026-11-30 10:00:00')",
                (f"job{n}", json.dumps(order), state),
            )

    spoiled = remade(services, tmp_path, with_work)
    services.stop()
    b.restore(spoiled, services.folders)
    again = Services(services.folders, workers=1)
    try:
        again.start()
        assert again.mixes.open(filled)
        assert again.sticks.last().state == "interrupted"
        again.jobs.retry("job1")
        until(lambda: not again.sticks.last().is_open)
        assert again.sticks.last().state == "failed", "asked for by hand, its order is looked at again"
        assert theirs.read_text() == "years of work"
    finally:
        again.stop()


@pytest.mark.parametrize(
    ("kind", "field"),
    [
        ("render", "target"),
        ("backup", "target"),
        ("bundle", "target"),
        ("publish", "file"),
        ("separate", "content_hash"),
    ],
)
def test_orders_that_lead_out_of_the_folder_are_refused_when_they_run(
    services: Services, first: Made, kind: str, field: str
) -> None:
    """Such orders come with a library from another machine; nothing outside is written, read or sent."""
    known = services.jobs._kinds[kind]
    made = {
        "render": lambda: RenderOrder(
            mix=Mix(name="x"), tracks=(), paths={}, target="", wish=RenderWish(output=OutputFormat.WAV_16)
        ),
        "backup": lambda: BackupOrder(target="", with_audio=False),
        "bundle": lambda: PackOrder(target="", said={}, texts={}, files=()),
        "publish": lambda: PublishOrder(
            file="", name="x", host="http://127.0.0.1:9", title="x", state="renders/s.json"
        ),
        "separate": lambda: SeparateOrder(track=first.facts, path=str(first.path), content_hash=""),
    }[kind]()
    for hostile in ("../thesis.txt", "renders/../../thesis.txt", "/tmp/thesis.txt", "owner.json"):
        with pytest.raises(OutsideError):
            known.run(made.model_copy(update={field: hostile}), services.folders.root, lambda _: None)
    assert not (services.folders.root.parent / "thesis.txt").exists()


def test_what_was_put_aside_by_each_restore_opens_by_itself(services: Services, filled: str, tmp_path: Path) -> None:
    target = tmp_path / "kept.zip"
    b.write_backup(services.folders, target, with_audio=True)
    aside = []
    for turn, name in enumerate(("One", "Two")):
        opened = services.mixes.open(filled)
        services.mixes.change(filled, opened.version, RenameMix(name=name))
        with services._database.read() as held:  # as after a kill: the log of the database is still there
            held.execute(text("SELECT 1"))
            if turn == 0:
                shutil.copytree(services.folders.root, tmp_path / "killed")
        services.stop()
        if turn == 0:
            shutil.rmtree(services.folders.root)
            (tmp_path / "killed").rename(services.folders.root)
            assert (services.folders.root / "fernbrook.db-wal").is_file()
        aside.append(b.restore(target, services.folders).before)
        services = Services(services.folders, workers=1)
    services.stop()
    for folder, name in zip(aside, ("One", "Two"), strict=True):
        with sqlite3.connect(folder / "fernbrook.db") as connection:
            assert connection.execute("PRAGMA integrity_check").fetchone() == ("ok",)
            assert connection.execute("SELECT name FROM mixes").fetchone() == (name,)
        connection.close()
