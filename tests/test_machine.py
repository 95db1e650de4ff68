"""What differs from system to system, each system played by its name and by what it refuses."""

from __future__ import annotations

import os
from pathlib import Path

import pytest

from fernbrook import machine
from fernbrook.machine import FileInUseError, drives, folder_command, put_in_place
from fernbrook.whole import write_whole


def _plays(monkeypatch: pytest.MonkeyPatch, system: str) -> None:
    monkeypatch.setattr(machine.sys, "platform", system)


class _OpenElsewhere:
    """A file that is open in another program for so many tries, as Windows refuses to replace one."""

    def __init__(self, monkeypatch: pytest.MonkeyPatch, refusals: int) -> None:
        self.waited: list[float] = []
        self._left = refusals
        self._replace = Path.replace

        def replaced(path: Path, target: Path) -> Path:
            return self._try(path, target)

        monkeypatch.setattr(Path, "replace", replaced)
        monkeypatch.setattr(machine.time, "sleep", self.waited.append)

    def _try(self, path: Path, target: Path) -> Path:
        self._left -= 1
        if self._left >= 0:
            raise PermissionError(13, "The process cannot access the file", str(target))
        return self._replace(path, target)


def test_a_file_that_is_read_is_waited_for_on_windows(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    _plays(monkeypatch, "win32")
    elsewhere = _OpenElsewhere(monkeypatch, 3)
    (tmp_path / "mix.wav").write_bytes(b"before")
    write_whole(tmp_path / "mix.wav", b"after")
    assert (tmp_path / "mix.wav").read_bytes() == b"after"
    assert elsewhere.waited == list(machine.WAITS_S[:3])


def test_a_file_that_stays_open_is_left_and_the_message_says_what_to_do(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    _plays(monkeypatch, "win32")
    elsewhere = _OpenElsewhere(monkeypatch, 100)
    (tmp_path / "mix.wav").write_bytes(b"before")
    with pytest.raises(FileInUseError, match=r"‘mix.wav’ is open in another program\. Close it there"):
        write_whole(tmp_path / "mix.wav", b"after")
    assert [(p.name, p.read_bytes()) for p in tmp_path.iterdir()] == [("mix.wav", b"before")]
    assert elsewhere.waited == list(machine.WAITS_S)


def test_a_folder_that_is_not_ours_is_not_waited_for_elsewhere(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    _plays(monkeypatch, "linux")
    elsewhere = _OpenElsewhere(monkeypatch, 1)
    (tmp_path / "part").write_bytes(b"after")
    with pytest.raises(PermissionError):
        put_in_place(tmp_path / "part", tmp_path / "mix.wav")
    assert elsewhere.waited == []


def test_drives_are_letters_on_windows(monkeypatch: pytest.MonkeyPatch) -> None:
    _plays(monkeypatch, "win32")
    monkeypatch.setattr(os.path, "ismount", lambda path: str(path) in {"C:\\", "E:\\", "G:\\"})
    assert [str(d) for d in drives()] == ["E:\\", "G:\\"]


@pytest.mark.parametrize(
    ("system", "mounted", "found"),
    [
        ("linux", ["media/ina/STICK", "media/ina", "mnt/usb"], ["media/ina/STICK", "media/ina", "mnt/usb"]),
        ("darwin", ["Volumes/STICK", "mnt/usb"], ["Volumes/STICK"]),
    ],
)
def test_drives_are_what_is_mounted_where_the_system_mounts(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, system: str, mounted: list[str], found: list[str]
) -> None:
    for name in (*mounted, "Volumes/no mount"):
        (tmp_path / name).mkdir(parents=True, exist_ok=True)
    _plays(monkeypatch, system)
    monkeypatch.setattr(os.path, "ismount", lambda path: str(path.relative_to(tmp_path)) in mounted)
    monkeypatch.setattr(machine, "Path", lambda place: tmp_path / place.lstrip("/"))
    assert [str(d.relative_to(tmp_path)) for d in drives()] == found


@pytest.mark.parametrize(
    ("system", "command"),
    [
        ("linux", ["xdg-open", "/music/mixes"]),
        ("darwin", ["open", "-R", "/music/mixes/night.wav"]),
        ("win32", ["explorer", "/select,/music/mixes/night.wav"]),
    ],
)
def test_a_folder_is_shown_by_what_the_system_has(
    monkeypatch: pytest.MonkeyPatch, system: str, command: list[str]
) -> None:
    _plays(monkeypatch, system)
    assert folder_command(Path("/music/mixes/night.wav")) == command
