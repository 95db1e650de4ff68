"""A disk that is full, a real one: one word for it everywhere, and all works again when there is room."""

from __future__ import annotations

import errno
import subprocess
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path

import httpx
import pytest
import soundfile
from sqlalchemy.exc import OperationalError

from fernbrook.audio.files.output import OutputFormat
from fernbrook.audio.files.writer import write_audio
from fernbrook.disk import is_full, writing
from fernbrook.errors import DiskFullError, RefusedError
from tests.conftest import Made
from tests.e2e.server import running
from tests.service.conftest import until

pytestmark = pytest.mark.slow

SIZE_MB = 40


@pytest.fixture
def small(tmp_path: Path) -> Iterator[Path]:
    """A small file system of its own; only who may mount one has it."""
    folder = tmp_path / "small"
    folder.mkdir()
    mounted = subprocess.run(
        ["mount", "-t", "tmpfs", "-o", f"size={SIZE_MB}m", "tmpfs", str(folder)], capture_output=True, check=False
    )
    if mounted.returncode:
        pytest.skip("a small file system can only be mounted by root")
    yield folder
    subprocess.run(["umount", "-l", str(folder)], check=True)


def _fill(folder: Path, leave: int = 0) -> Path:
    """Take all room but some bytes."""
    junk = folder / "junk"
    with suppress(OSError), junk.open("wb", buffering=0) as file:
        while True:
            file.write(bytes(64_000))
    if leave:
        with junk.open("rb+") as file:
            file.truncate(junk.stat().st_size - leave)
    return junk


def test_a_full_disk_is_known_by_all_its_words(tmp_path: Path) -> None:
    assert is_full(OSError(errno.ENOSPC, "No space left on device"), tmp_path)
    assert is_full(OperationalError("", None, Exception("database or disk is full")), tmp_path)
    assert not is_full(OSError(errno.EACCES, "Permission denied"), tmp_path)
    assert not is_full(soundfile.LibsndfileError(2), tmp_path)
    with pytest.raises(DiskFullError, match="The disk is full: x was not done"), writing("x was not done", tmp_path):
        raise OSError(errno.EDQUOT, "Quota exceeded")
    with pytest.raises(RefusedError), writing("x", tmp_path):
        raise RefusedError("another matter")


def test_a_file_that_does_not_fit_is_said_so_and_leaves_nothing(small: Path, first: Made) -> None:
    sound = first.sound()
    _fill(small, leave=3_000_000)
    blocks = (sound[at : at + 16_384] for at in range(0, len(sound), 16_384))
    with pytest.raises(DiskFullError, match=r"‘x\.wav’ was not written"):
        write_audio(small / "x.wav", blocks, len(sound), 44_100, OutputFormat.WAV_24)
    assert [p.name for p in small.iterdir()] == ["junk"]


def test_a_server_on_a_full_disk_says_it_and_goes_on_when_there_is_room(small: Path, first: Made, second: Made) -> None:
    with running(small / "data") as address, httpx.Client(base_url=f"{address}/api", timeout=60.0) as client:

        def brought(made: Made) -> httpx.Response:
            return client.post("/tracks", files={"file": (made.path.name, made.path.read_bytes())})

        track = brought(second).json()["track"]["id"]
        until(lambda: client.get(f"/tracks/{track}").json()["analysis"] is None)
        mix = client.post("/mixes", json={"name": "Night"}).json()
        change = {"version": mix["version"], "command": {"kind": "add_tracks", "track_ids": [track] * 2}}
        mix = client.post(f"/mixes/{mix['id']}/commands", json=change).json()

        junk = _fill(small, leave=8_000_000)
        client.post(f"/mixes/{mix['id']}/renders", json={"output": "wav32f"})
        until(lambda: client.get(f"/mixes/{mix['id']}/renders").json()[0]["state"] == "failed")
        assert "The disk is full" in client.get(f"/mixes/{mix['id']}/renders").json()[0]["error"]

        junk.unlink()
        junk = _fill(small)
        refused = [
            brought(first),
            client.post("/mixes", json={"name": "Too much " + "x" * 150}),
            client.post(f"/mixes/{mix['id']}/renders", json={"output": "flac16"}),
        ]
        for _ in range(40):
            command = {"kind": "rename_mix", "name": "y" * 200}
            refused.append(
                client.post(f"/mixes/{mix['id']}/commands", json={"version": mix["version"], "command": command})
            )
            if refused[-1].status_code == 200:
                mix = refused[-1].json()
        said = {(r.status_code, r.json()["title"]) for r in refused if r.status_code != 200}
        assert said == {(507, "Disk full")}
        assert all("The disk is full" in r.json()["detail"] for r in refused if r.status_code == 507)
        assert client.get("/tracks").status_code == 200

        junk.unlink()
        assert brought(first).status_code == 201
        client.post(f"/mixes/{mix['id']}/renders", json={"output": "flac16"})
        until(lambda: client.get(f"/mixes/{mix['id']}/renders").json()[0]["state"] == "done")
