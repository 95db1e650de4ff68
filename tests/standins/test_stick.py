"""What is put on a stick the player finds; what it changes there comes back, shown before it is taken."""

from __future__ import annotations

import errno
import hashlib
import json
import os
import shutil
import signal
import subprocess
import sys
import time
from collections import namedtuple
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
import soundfile
from fastapi.testclient import TestClient

from fernbrook import whole
from fernbrook.audio.files.output import OutputFormat
from fernbrook.core.mix.commands import AddTracks
from fernbrook.core.track import Cue, CueRole, Loop, MarkFacet, PutCues, PutGrid, PutLoops
from fernbrook.core.track.commands import ScaleTempo
from fernbrook.errors import DiskFullError, NotFoundError, RefusedError
from fernbrook.formats.stick import Takes, read_manifest
from fernbrook.service.exporting.conversion import target_of
from fernbrook.service.exporting.sticks import Action, OnTheStick
from fernbrook.service.services import Services
from fernbrook.service.work import stick as filling
from fernbrook.service.work.stick import StickError, StickOrder, fill_stick
from fernbrook.store.folders import Folders
from standins.player.app import create_player
from standins.player.stick import StickError as PlayerError
from tests.conftest import Made
from tests.service.conftest import until, without_analyses

pytestmark = pytest.mark.slow


@pytest.fixture
def stick(tmp_path: Path) -> Path:
    root = tmp_path / "stick"
    root.mkdir()
    return root


@pytest.fixture
def services(tmp_path: Path, first: Made, second: Made) -> Iterator[Services]:
    """Two marked tracks, a mix of both and a list of one; nothing is analysed."""
    services = Services(Folders(tmp_path / "data"), workers=1)
    ids = [services.library.bring_in_path(m.path).track.id for m in (first, second)]
    for track_id, made in zip(ids, (first, second), strict=True):
        services.marking.change(track_id, None, PutGrid(grid=made.truth.grid))
    cue = Cue(id="c1", at=16.0, role=CueRole.MIX_IN, name="short")
    services.marking.change(ids[0], None, PutCues(cues=(cue,)))
    services.marking.change(ids[0], None, PutLoops(loops=(Loop(id="l1", start=8.0, beats=16.0, name="drums"),)))
    mix = services.mixes.create("Night")
    services.mixes.change(mix.id, mix.version, AddTracks(track_ids=tuple(ids)))
    services.collection.make_list("Warm up", ids[1:])
    without_analyses(services)
    services.start()
    yield services
    services.stop()


def chosen(services: Services) -> tuple[list[str], list[str]]:
    return [x.id for x in services.collection.gathered().lists], [m.id for m in services.mixes.list()]


def fill(services: Services, stick: Path) -> dict:
    job = services.sticks.start(str(stick), *chosen(services))
    until(lambda: not services.sticks.last().is_open)
    done = services.sticks.last()
    assert (done.id, done.error) == (job.id, None)
    return done.result


def track_of(services: Services, made: Made) -> str:
    return track_named(services, made.song.title)


def digests(root: Path) -> dict[str, str]:
    return {
        p.relative_to(root).as_posix(): hashlib.sha256(p.read_bytes()).hexdigest()
        for p in sorted(root.rglob("*"))
        if p.is_file() and p.name != "stick.json"
    }


def test_the_player_finds_tracks_lists_grids_cues_and_loops(
    services: Services, stick: Path, first: Made, second: Made
) -> None:
    assert fill(services, stick) == {"written": 2, "kept": 0, "gone": 0, "failed": []}
    with TestClient(create_player(stick)) as player:
        said = player.get("/stick").json()
        by_title = {t["title"]: t for t in said["tracks"]}
        assert set(by_title) == {first.song.title, second.song.title}
        assert [t["problem"] for t in said["tracks"]] == ["", ""]
        one = by_title[first.song.title]
        grid = first.truth.grid
        assert one["bpm"] == pytest.approx(grid.bpm_after)
        assert one["first_beat_s"] == pytest.approx(float(grid.time_at(0)))
        assert [(c["at_s"], c["name"], c["role"]) for c in one["cues"]] == [
            (pytest.approx(float(grid.time_at(16))), "short", "mix_in")
        ]
        assert [(x["start_s"], x["end_s"]) for x in one["loops"]] == [
            (pytest.approx(float(grid.time_at(8))), pytest.approx(float(grid.time_at(24))))
        ]
        lists = {x["name"]: [by_title_file(said, f) for f in x["files"]] for x in said["lists"]}
        assert lists == {"Night": [first.song.title, second.song.title], "Warm up": [second.song.title]}
        sound = player.get(f"/sound/{one['file']}").content
        assert hashlib.sha256(sound).digest() == hashlib.sha256(first.path.read_bytes()).digest()
        assert "Player" in player.get("/").text


def by_title_file(said: dict, file: str) -> str:
    return next(t["title"] for t in said["tracks"] if t["file"] == file)


def test_what_the_player_changes_is_shown_and_taken_and_what_was_changed_here_stays(
    services: Services, stick: Path, first: Made
) -> None:
    fill(services, stick)
    assert services.stick_reading.read(str(stick)).changed == ()
    track, grid = track_of(services, first), first.truth.grid
    services.marking.change(track, None, PutCues(cues=(Cue(id="mine", at=40.0, name="mine"),)))
    with TestClient(create_player(stick)) as player:
        file = next(t["file"] for t in player.get("/stick").json()["tracks"] if t["title"] == first.song.title)
        moved = {"file": file, "id": "c1", "at_s": float(grid.time_at(20)) + 0.004}
        assert player.post("/cues", json=moved).json()["at"] == 20.0
        player.post("/cues", json={"file": file, "at_s": float(grid.time_at(32.5)), "name": "claps"})
        player.post("/played", json={"file": file, "seconds": 61.5})
        player.post("/played", json={"file": file, "seconds": 12.0})
        assert player.post("/cues", json={"file": "music/none.mp3", "at_s": 1.0}).status_code == 409
    read = services.stick_reading.read(str(stick))
    (changed,) = read.changed
    assert (changed.track_id, [p.facet for p in changed.parts]) == (track, [MarkFacet.CUES])
    assert [line.split(" ", 1)[1] for line in changed.parts[0].here] == ["in · short", "mine"]
    assert [line.split(" ", 1)[1] for line in changed.parts[0].there] == ["in · short", "claps", "mine"]
    assert [(x.track_id, x.seconds) for x in read.played] == [(track, 61.5), (track, 12.0)]
    services.stick_reading.take(str(stick), track, [MarkFacet.CUES])
    cues = services.marking.open(track).markup.cues
    assert [(c.at, c.name, c.role) for c in cues] == [
        (20.0, "short", CueRole.MIX_IN),
        (32.5, "claps", CueRole.PLAIN),
        (40.0, "mine", CueRole.PLAIN),
    ]
    assert services.stick_reading.read(str(stick)).changed == ()
    assert [c.name for c in services.marking.undo(track, services.marking.open(track).version).markup.cues] == [
        "short",
        "mine",
    ]
    played = services.stick_reading.list_of_played(str(stick))
    assert services.collection.tracks_on(played) == (track,)
    with pytest.raises(RefusedError, match="no folder at"):
        services.sticks.plan(str(stick / "gone"), [], [])
    with pytest.raises(NotFoundError):
        services.stick_reading.take(str(stick), "gone", [MarkFacet.CUES])


def test_a_cue_that_was_taken_away_there_goes_here_by_whatever_grid(
    services: Services, stick: Path, first: Made
) -> None:
    fill(services, stick)
    track = track_of(services, first)
    services.marking.change(track, None, ScaleTempo(factor=2.0))
    with TestClient(create_player(stick)) as player:
        file = next(t["file"] for t in player.get("/stick").json()["tracks"] if t["title"] == first.song.title)
        player.post("/cues/remove", json={"file": file, "id": "c1"})
        player.post("/cues", json={"file": file, "at_s": float(first.truth.grid.time_at(24)), "name": "new"})
    services.stick_reading.take(str(stick), track, [MarkFacet.CUES])
    assert [(c.at, c.name) for c in services.marking.open(track).markup.cues] == [(48.0, "new")]


def test_what_nobody_has_taken_yet_stays_on_a_stick_that_is_filled_again(
    services: Services, stick: Path, first: Made, second: Made
) -> None:
    fill(services, stick)
    track, grid = track_of(services, first), first.truth.grid
    with TestClient(create_player(stick)) as player:
        file = next(t["file"] for t in player.get("/stick").json()["tracks"] if t["title"] == first.song.title)
        player.post("/cues", json={"file": file, "at_s": float(grid.time_at(24)), "name": "theirs"})
        services.marking.change(track, None, PutCues(cues=(Cue(id="mine", at=40.0, name="mine"),)))
        fill(services, stick)
        (there,) = [t for t in player.get("/stick").json()["tracks"] if t["file"] == file]
    assert [c["name"] for c in there["cues"]] == ["short", "theirs", "mine"]
    (changed,) = services.stick_reading.read(str(stick)).changed
    assert [line.split(" ", 1)[1] for line in changed.parts[0].there] == ["in · short", "theirs", "mine"]
    lists, mixes = chosen(services)
    plan = services.sticks.plan(str(stick), lists, [])
    assert first.song.title in plan.problem
    with pytest.raises(RefusedError, match="Take its changes first"):
        services.sticks.start(str(stick), lists, [])
    services.stick_reading.take(str(stick), track, [MarkFacet.CUES])
    assert services.sticks.plan(str(stick), lists, []).problem == "", "what was taken may go"
    services.marking.undo(track, services.marking.open(track).version)
    services.stick_reading.leave(str(stick), track)
    assert services.stick_reading.read(str(stick)).changed == ()
    assert services.sticks.plan(str(stick), lists, []).problem == ""
    assert services.sticks.plan(str(stick), lists, mixes).files[0].action is Action.KEEP
    for gone in ("gone", track_of(services, second)):
        (stick / "stick.json").write_text(json.dumps({**json.loads((stick / "stick.json").read_text()), "tracks": []}))
        with pytest.raises((NotFoundError, RefusedError)):
            services.stick_reading.leave(str(stick), gone)


def test_tracks_and_lists_of_one_name_get_files_of_their_own(
    services: Services, stick: Path, first: Made, second: Made
) -> None:
    lists, mixes = chosen(services)
    services.collection.rename_track(track_of(services, second), first.song.title.upper(), first.song.artist)
    same = [services.collection.make_list(name, [track_of(services, first)]) for name in ("warm UP", "Warm up")]
    services.sticks.start(str(stick), [*lists, *same], mixes)
    until(lambda: not services.sticks.last().is_open)
    names = sorted(p.name.casefold() for p in (stick / "lists").iterdir())
    assert names == ["night.m3u8", "warm up (2).m3u8", "warm up (3).m3u8", "warm up.m3u8"]
    tracks = read_manifest(stick).tracks
    assert len({t.markup.casefold() for t in tracks}) == 2
    assert len({Path(t.file).stem.casefold() for t in tracks}) == 2


def test_only_what_changed_is_written_and_what_is_no_longer_chosen_goes(services: Services, stick: Path) -> None:
    (stick / "holiday.jpg").write_bytes(b"not ours")
    fill(services, stick)
    before = digests(stick)
    times = {p: (stick / p).stat().st_mtime_ns for p in before if p.startswith("music/")}
    assert fill(services, stick) == {"written": 0, "kept": 2, "gone": 0, "failed": []}
    assert digests(stick) == before
    assert times == {p: (stick / p).stat().st_mtime_ns for p in times}
    lists, _ = chosen(services)
    plan = services.sticks.plan(str(stick), lists, [])
    assert [f.action for f in plan.files] == [Action.KEEP]
    assert len(plan.gone) == 3
    services.sticks.start(str(stick), lists, [])
    until(lambda: not services.sticks.last().is_open)
    assert [p.name for p in (stick / "lists").iterdir()] == ["Warm up.m3u8"]
    assert len(list((stick / "music").iterdir())) == 1
    assert (stick / "holiday.jpg").read_bytes() == b"not ours"
    (stick / read_manifest(stick).tracks[0].file).write_bytes(b"cut off")
    assert services.sticks.plan(str(stick), lists, []).files[0].action is Action.COPY


def test_what_the_player_does_not_take_is_converted_with_its_reason(
    services: Services, stick: Path, first: Made
) -> None:
    said = {"name": "Old one", "takes": {"kinds": ["wav"], "rates": [48000], "bits": [16]}}
    (stick / "player.json").write_text(json.dumps(said))
    plan = services.sticks.plan(str(stick), *chosen(services))
    assert plan.player == "Old one"
    assert {f.action for f in plan.files} == {Action.CONVERT}
    assert all("48 kHz" in f.reason and "44.1 kHz" in f.reason for f in plan.files)
    fill(services, stick)
    for track in read_manifest(stick).tracks:
        info = soundfile.info(stick / track.file)
        assert (info.format, info.subtype, info.samplerate) == ("WAV", "PCM_16", 48_000)
        assert (stick / track.file).stat().st_size == track.bytes
    one = next(t for t in read_manifest(stick).tracks if t.title == first.song.title)
    there, rate = soundfile.read(stick / one.file, always_2d=True)
    here, _ = soundfile.read(first.path, always_2d=True)
    assert len(there) / rate == pytest.approx(len(here) / 44_100, abs=1e-4)
    assert there.std() == pytest.approx(here.std(), rel=0.01)
    assert fill(services, stick)["written"] == 0


@pytest.mark.parametrize(
    ("kind", "rate", "bits", "takes", "wanted"),
    [
        ("mp3", 44_100, None, Takes(), None),
        ("wav", 44_100, 32, Takes(), (OutputFormat.FLAC_24, 44_100)),
        ("ogg", 44_100, None, Takes(), (OutputFormat.FLAC_24, 44_100)),
        ("flac", 96_000, 24, Takes(), (OutputFormat.FLAC_24, 48_000)),
        ("flac", 44_100, 24, Takes(kinds=("mp3",)), (OutputFormat.MP3_320, 44_100)),
        ("flac", 22_050, 16, Takes(kinds=("wav",), bits=(16,)), (OutputFormat.WAV_16, 44_100)),
    ],
)
def test_it_becomes_what_is_nearest(kind: str, rate: int, bits: int | None, takes: Takes, wanted: tuple | None) -> None:
    found = target_of(kind, rate, bits, takes)
    assert (found[:2] if found else None) == wanted


Usage = namedtuple("Usage", "total used free")


def test_a_stick_that_is_too_small_gone_or_write_protected_is_told_and_what_was_there_stays(
    services: Services, stick: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    fill(services, stick)
    order, *_ = services.sticks._order(OnTheStick.of(stick), *chosen(services))
    before = digests(stick)
    again = zip(order.items, paths(services, order), strict=True)
    emptied = order.model_copy(update={"items": tuple(i.model_copy(update={"path": p}) for i, p in again)})
    with monkeypatch.context() as patched:
        patched.setattr(shutil, "disk_usage", lambda _: Usage(1 << 30, 1 << 30, 5000))
        (stick / "player.json").write_text(json.dumps({"takes": {"kinds": ["flac"]}}))
        with pytest.raises(DiskFullError, match="MB are free"):
            services.sticks.start(str(stick), *chosen(services))
        (stick / "player.json").unlink()
    for number, words in ((errno.EROFS, "write-protected"), (errno.EIO, "not there any more")):
        with monkeypatch.context() as patched:
            patched.setattr(whole.os, "fsync", failing(number))
            with pytest.raises(StickError, match=words):
                fill_stick(emptied, services.folders.root, lambda _: None)
        assert digests(stick) == before
    with monkeypatch.context() as patched:
        patched.setattr(whole.os, "fsync", failing(errno.ENOSPC))
        with pytest.raises(DiskFullError, match="not put on the stick"):
            fill_stick(emptied, services.folders.root, lambda _: None)
    assert digests(stick) == before
    with monkeypatch.context() as patched:
        patched.setattr(filling, "_digest", lambda _: "0" * 64)
        with pytest.raises(StickError, match="worn out"):
            fill_stick(emptied, services.folders.root, lambda _: None)

    def pulled(_: float) -> None:
        if stick.is_dir():
            stick.rename(stick.with_name("pulled"))

    with pytest.raises(StickError, match="not there any more"):
        fill_stick(emptied, services.folders.root, pulled)
    with pytest.raises(RefusedError, match="no folder at"):
        services.sticks.start(str(stick), *chosen(services))
    assert digests(stick.with_name("pulled")).keys() >= before.keys()


def test_a_list_leaves_out_a_track_whose_file_does_not_come_with_the_line_that_names_it(
    services: Services, stick: Path
) -> None:
    order, *_ = services.sticks._order(OnTheStick.of(stick), *chosen(services))
    lost, there = order.items
    gone = lost.model_copy(update={"path": "audio/ab/gone.wav"})
    done = fill_stick(order.model_copy(update={"items": (gone, there)}), services.folders.root, lambda _: None)
    assert [f["title"] for f in done["failed"]] == [lost.track.title]
    for playlist in (stick / "lists").iterdir():
        text = playlist.read_text()
        assert lost.track.title not in text
        assert lost.track.file not in text
    assert any(there.track.title in p.read_text() for p in (stick / "lists").iterdir())


def paths(services: Services, order: StickOrder) -> list[str]:
    """Where the files of what is put on a stick lie."""
    return [services.folders.stored(services.files.find(track_named(services, i.track.title))) for i in order.items]


def track_named(services: Services, title: str) -> str:
    return next(t.id for t in services.catalogue.tracks() if t.title == title)


def failing(number: int) -> object:
    def fail(*_: object) -> None:
        raise OSError(number, os.strerror(number))

    return fail


def test_a_stick_that_says_odd_things_is_refused(services: Services, stick: Path) -> None:
    fill(services, stick)
    manifest = json.loads((stick / "stick.json").read_text())
    manifest["tracks"][0]["file"] = "music/../../evil.wav"
    (stick / "stick.json").write_text(json.dumps(manifest))
    for call in (services.stick_reading.read, lambda p: services.sticks.plan(p, *chosen(services))):
        with pytest.raises(RefusedError, match=r"stick\.json.*damaged"):
            call(str(stick))
    (stick / "stick.json").write_text("ferns")
    with pytest.raises(RefusedError, match="damaged"):
        services.stick_reading.read(str(stick))
    (stick / "stick.json").unlink()
    assert services.stick_reading.read(str(stick)).exported_at is None
    with pytest.raises(RefusedError, match="Nothing was chosen"):
        services.sticks.start(str(stick), [], [])
    with pytest.raises(PlayerError):
        create_player(stick / "gone")
    with TestClient(create_player(stick)) as player:
        assert player.get("/stick").status_code == 409


FILL = """
import sys
from pathlib import Path
from fernbrook.service.work.stick import StickOrder, fill_stick
order = StickOrder.model_validate_json(Path(sys.argv[1]).read_text())
print("begun", flush=True)
fill_stick(order, Path(sys.argv[2]), lambda _: None)
"""


def test_killed_in_the_middle_every_list_names_files_that_are_whole(
    services: Services, stick: Path, tmp_path: Path
) -> None:
    rng = np.random.default_rng(5)
    order, *_ = services.sticks._order(OnTheStick.of(stick), *chosen(services))
    (tmp_path / "order.json").write_text(order.model_dump_json())
    (tmp_path / "fill.py").write_text(FILL)
    for _ in range(4):
        with subprocess.Popen(
            [sys.executable, str(tmp_path / "fill.py"), str(tmp_path / "order.json"), str(services.folders.root)],
            stdout=subprocess.PIPE,
        ) as process:
            process.stdout.readline()
            time.sleep(rng.uniform(0.0, 0.06))
            process.send_signal(signal.SIGKILL)
        for playlist in (stick / "lists").glob("*.m3u8") if (stick / "lists").is_dir() else ():
            for line in playlist.read_text().splitlines():
                if not line.startswith("#"):
                    assert soundfile.info(playlist.parent / line).frames > 0
    fill(services, stick)
    with TestClient(create_player(stick)) as player:
        assert [t["problem"] for t in player.get("/stick").json()["tracks"]] == ["", ""]
