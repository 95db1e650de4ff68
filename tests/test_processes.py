"""More than one process: a folder has one owner, work is handed to it, and nobody outlives whom they work for."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path

import httpx
import psutil
import pytest
import soundfile

from fernbrook.core.mix.commands import AddTracks
from fernbrook.core.track import PutGrid
from fernbrook.service.services import Services
from fernbrook.store.folders import Folders
from fernbrook.store.ownership import FolderInUseError, Ownership, owner_of
from tests.conftest import Made
from tests.e2e.server import free_port, running
from tests.service.conftest import until

pytestmark = pytest.mark.slow


def _fernbrook(*arguments: str, timeout: float = 120.0) -> subprocess.CompletedProcess[str]:
    command = [sys.executable, "-m", "fernbrook", *arguments]
    return subprocess.run(command, capture_output=True, text=True, timeout=timeout, check=False)


@pytest.fixture
def data(tmp_path: Path, first: Made, second: Made) -> Path:
    """A data folder with a mix of two tracks."""
    folder = tmp_path / "data"
    services = Services(Folders(folder), workers=1)
    ids = []
    for made in (first, second):
        ids.append(services.library.bring_in_path(made.path).track.id)
        services.marking.change(ids[-1], None, PutGrid(grid=made.truth.grid))
    mix = services.mixes.create("Night")
    services.mixes.change(mix.id, mix.version, AddTracks(track_ids=tuple(ids)))
    services.stop()
    return folder


@pytest.fixture
def server(data: Path) -> Iterator[str]:
    with running(data) as address:
        yield address


def test_a_folder_has_one_owner_until_it_is_released(tmp_path: Path) -> None:
    mine = Ownership(tmp_path, "a test")
    mine.serves_at(8420)
    with pytest.raises(FolderInUseError, match=r"in use by the Fernbrook at http://127\.0\.0\.1:8420/") as caught:
        Ownership(tmp_path, "another")
    assert caught.value.owner == owner_of(tmp_path)
    assert (tmp_path / "owner.json").stat().st_mode & 0o077 == 0
    mine.release()
    assert owner_of(tmp_path) is None
    Ownership(tmp_path, "another").release()


def test_nothing_is_cleared_away_before_the_folder_is_ours(tmp_path: Path) -> None:
    folders = Folders(tmp_path)
    folders.prepare()
    owner = Ownership(tmp_path, "somebody")
    arriving, unfinished = folders.incoming / "half.wav", folders.renders / ".x.wav.part"
    for file in (arriving, unfinished):
        file.write_bytes(b"x")
    with pytest.raises(FolderInUseError, match="‘somebody’"):
        Services(folders)
    assert arriving.exists()
    assert unfinished.exists()
    owner.release()


def test_commands_beside_a_server_hand_it_their_work(server: str, data: Path, tmp_path: Path, other_rate: Made) -> None:
    client = httpx.Client(base_url=f"{server}/api")
    brought = _fernbrook("import", str(other_rate.path), "--data", str(data))
    assert (brought.returncode, brought.stdout.split()[0]) == (0, "imported"), brought.stderr
    table = client.get("/tracks").json()
    assert other_rate.song.title in table["title"]
    # The command came back when the server had analysed it.
    assert not [i for i in table["analyses"] if table["title"][table["id"].index(i)] == other_rate.song.title]
    again = _fernbrook("import", str(other_rate.path), "--data", str(data), "--in-place")
    assert again.stdout.startswith("had already")

    out = tmp_path / "night.flac"
    rendered = _fernbrook("render", "Night", "-o", str(out), "--data", str(data))
    assert rendered.returncode == 0, rendered.stderr
    mix = client.get("/mixes").json()[0]["id"]
    assert soundfile.info(out).frames == client.get(f"/mixes/{mix}").json()["plan"]["frames"]
    assert client.get(f"/mixes/{mix}/renders").json() == []
    missing = _fernbrook("render", "Nothing", "-o", str(out), "--data", str(data))
    assert (missing.returncode, "The mixes are: Night" in missing.stderr) == (2, True)


def test_a_render_that_is_broken_off_leaves_nothing_with_the_server(server: str, data: Path, tmp_path: Path) -> None:
    client = httpx.Client(base_url=f"{server}/api")
    mix = client.post("/mixes", json={"name": "Long"}).json()
    # Long enough not to be done before it is broken off, however busy the machine is.
    many = {"kind": "add_tracks", "track_ids": client.get("/tracks").json()["id"][:1] * 40}
    client.post(f"/mixes/{mix['id']}/commands", json={"version": mix["version"], "command": many})
    renders = f"/mixes/{mix['id']}/renders"
    out = tmp_path / "night.wav"
    # Whoever runs the tests in the background has this signal ignored, and so would the command.
    command = [
        "env",
        "--default-signal=INT",
        sys.executable,
        "-m",
        "fernbrook",
        "render",
        "Long",
        "-o",
        str(out),
        "--data",
        str(data),
    ]
    process = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    until(lambda: any(r["progress"] > 0 for r in client.get(renders).json()))
    process.send_signal(signal.SIGINT)
    assert process.wait(20) != 0
    assert client.get(renders).json() == []
    assert not out.exists()
    client.delete(f"/mixes/{mix['id']}")


def test_a_second_server_says_who_has_the_folder(server: str, data: Path) -> None:
    second = _fernbrook("serve", "--data", str(data), "--port", str(free_port()))
    assert second.returncode == 1
    assert server in second.stdout
    assert httpx.get(f"{server}/api/mixes").status_code == 200


def test_a_port_that_is_taken_is_said(server: str, tmp_path: Path) -> None:
    port = server.rsplit(":", 1)[1]
    other = _fernbrook("serve", "--data", str(tmp_path / "other"), "--port", port)
    assert other.returncode == 1
    assert f"Port {port} cannot be used" in other.stderr


def test_a_command_waits_for_another_command(data: Path, other_rate: Made) -> None:
    owner = Ownership(data, "fernbrook import")
    command = [
        sys.executable,
        "-m",
        "fernbrook",
        "import",
        str(other_rate.path),
        "--data",
        str(data),
        "--analyse-later",
    ]
    waiting = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
    assert waiting.stdout is not None
    assert "Waiting for ‘fernbrook import’" in waiting.stdout.readline()
    owner.release()
    assert "imported" in waiting.communicate(timeout=60)[0]
    assert waiting.returncode == 0


def test_only_who_can_read_the_folder_may_name_paths(server: str, first: Made) -> None:
    for token in ("", "guess", "é"):
        answer = httpx.post(
            f"{server}/api/tracks/in-place",
            json={"path": str(first.path)},
            headers={"x-folder-token": token.encode()},
        )
        assert answer.status_code == 403


def test_workers_end_with_a_server_that_is_killed_and_leave_no_part(data: Path) -> None:
    port = free_port()
    server = subprocess.Popen([sys.executable, "-m", "fernbrook", "serve", "--data", str(data), "--port", str(port)])
    client = httpx.Client(base_url=f"http://127.0.0.1:{port}/api")

    def answers() -> bool:
        try:
            return client.get("/mixes").status_code == 200
        except httpx.TransportError:
            return False

    until(answers)
    mix = client.get("/mixes").json()[0]["id"]
    for _ in range(3):
        client.post(f"/mixes/{mix}/renders", json={"output": "wav24"})
    until(lambda: any(data.glob("renders/.fernbrook-*.part*")))
    workers = [p for p in psutil.Process(server.pid).children() if "spawn_main" in " ".join(p.cmdline())]
    assert workers
    os.kill(server.pid, signal.SIGKILL)
    server.wait()
    end = time.monotonic() + 10.0
    while any(w.is_running() and w.status() != psutil.STATUS_ZOMBIE for w in workers):
        assert time.monotonic() < end, "a worker outlives its server"
        time.sleep(0.05)
    assert not list(data.glob("renders/.fernbrook-*.part*"))
    assert owner_of(data) is None
