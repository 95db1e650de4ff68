"""Archives of ours come back whole or are refused with a plain word, whatever was done to them."""

from __future__ import annotations

import json
import random
import zipfile
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fernbrook.enclosed import is_plain
from fernbrook.formats.archive import (
    MANIFEST,
    ArchiveError,
    ArchiveKind,
    archive_at,
    read_archive,
    take_out,
)
from fernbrook.whole import under_way

KIND = ArchiveKind("fernbrook-test", "parcel", 2, lambda name: name == "a.txt" or name.startswith("audio/"))
SOUND = bytes(range(256)) * 400


def made(folder: Path) -> Path:
    """An archive with a text and a sound."""
    target, sound = folder / "made.zip", folder / "sound.wav"
    sound.write_bytes(SOUND)
    shares: list[int] = []
    with archive_at(target) as archive:
        archive.add_bytes("a.txt", "über".encode())
        archive.add("audio/sound.wav", sound, report=shares.append)
        archive.add("audio/packed.wav", sound, pack=True)
        archive.finish(KIND, {"made_by": "us"})
    assert shares[-1] == len(SOUND)
    assert [p.name for p in folder.iterdir() if p.name.startswith(".")] == []
    return target


def test_what_was_put_in_comes_out(tmp_path: Path) -> None:
    said = read_archive(made(tmp_path), KIND)
    assert said.said == {"made_by": "us"}
    assert said.bytes == 2 * len(SOUND) + 5
    out = tmp_path / "out"
    shares: list[float] = []
    take_out(tmp_path / "made.zip", said, {name: out / name for name in said.files}, shares.append)
    assert (out / "audio" / "sound.wav").read_bytes() == (out / "audio" / "packed.wav").read_bytes() == SOUND
    assert (out / "a.txt").read_text() == "über"
    assert shares == sorted(shares)
    assert shares[-1] == pytest.approx(1.0)


class StopError(Exception):
    """As if the disk had been pulled."""


def half_made(target: Path) -> None:
    with archive_at(target) as archive, under_way(target) as folder:
        archive.add_bytes("a.txt", b"x")
        (folder / "half").write_bytes(b"half")
        raise StopError


def test_one_that_fails_while_it_is_made_leaves_nothing(tmp_path: Path) -> None:
    with pytest.raises(StopError):
        half_made(tmp_path / "made.zip")
    assert list(tmp_path.iterdir()) == []


def unpacked(path: Path, out: Path) -> None:
    found = read_archive(path, KIND)
    take_out(path, found, {name: out / name for name in found.files}, lambda _: None)


def test_cut_off_or_flipped_anywhere_it_is_refused_or_whole(tmp_path: Path) -> None:
    content = made(tmp_path).read_bytes()
    dice, path, out = random.Random(14), tmp_path / "spoiled.zip", tmp_path / "out"
    refused = 0
    for turn in range(600):
        # Most of it is sound that is only stored: what matters more is where the archive speaks of itself.
        at = dice.randrange(len(content)) if turn % 3 == 0 else len(content) - 1 - dice.randrange(3000)
        flipped = content[:at] + bytes([content[at] ^ (1 << dice.randrange(8))]) + content[at + 1 :]
        path.write_bytes(content[:at] if turn % 10 == 0 else flipped)
        try:
            unpacked(path, out)
        except ArchiveError:
            refused += 1
        else:
            assert (out / "audio" / "sound.wav").read_bytes() == SOUND
    assert refused > 400


def rebuilt(path: Path, said: dict, files: dict[str, bytes]) -> Path:
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(MANIFEST, json.dumps(said))
        for name, content in files.items():
            archive.writestr(name, content)
    return path


GOOD = {"format": KIND.name, "version": 1}
SIZED = {"bytes": 4, "sha256": "0" * 64}


@pytest.mark.parametrize(
    ("said", "words"),
    [
        ({**GOOD, "files": {"a.txt": SIZED}}, "damaged"),
        ({**GOOD, "version": 3, "files": {}}, "newer Fernbrook"),
        ({**GOOD, "version": "one", "files": {}}, "newer Fernbrook"),
        ({**GOOD, "format": "other", "files": {}}, "no parcel of Fernbrook"),
        ({**GOOD, "files": {"audio/../../a": SIZED}}, "no part of a parcel"),
        ({**GOOD, "files": {"/etc/passwd": SIZED}}, "no part of a parcel"),
        ({**GOOD, "files": {"b.txt": SIZED}}, "no part of a parcel"),
        ({**GOOD, "files": {"audio/lost.wav": SIZED}}, "missing or cut off"),
        ({**GOOD, "files": {"a.txt": {"bytes": 10**15, "sha256": "0"}}}, "missing or cut off"),
        ({**GOOD, "files": {"a.txt": "large"}}, "manifest"),
        ({**GOOD, "files": []}, "manifest"),
        ([], "no parcel of Fernbrook"),
    ],
)
def test_a_manifest_that_does_not_fit_is_refused_before_anything_is_used(
    tmp_path: Path, said: dict, words: str
) -> None:
    path = rebuilt(tmp_path / "odd.zip", said, {"a.txt": b"text", "audio/../../a": b"evil", "b.txt": b"text"})
    with pytest.raises(ArchiveError, match=words):
        unpacked(path, tmp_path / "out")
    assert not (tmp_path / "a").exists()


def test_a_bomb_is_not_unpacked_further_than_it_claims(tmp_path: Path) -> None:
    path = rebuilt(tmp_path / "bomb.zip", {**GOOD, "files": {"a.txt": SIZED}}, {"a.txt": b"\0" * 50_000_000})
    content = path.read_bytes().replace((50_000_000).to_bytes(4, "little"), (4).to_bytes(4, "little"))
    path.write_bytes(content)
    with pytest.raises(ArchiveError):
        unpacked(path, tmp_path)
    out = tmp_path / "a.txt"
    assert not out.exists() or out.stat().st_size < 2 << 20
    huge = tmp_path / "huge.zip"
    with zipfile.ZipFile(huge, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(MANIFEST, b" " * (65 << 20))
    with pytest.raises(ArchiveError, match="impossibly large"):
        read_archive(huge, KIND)


@given(st.text(max_size=40))
def test_a_plain_name_stays_in_its_folder(name: str) -> None:
    if is_plain(name):
        assert Path("/stage", name).resolve().is_relative_to("/stage")
        assert not Path(name).is_absolute()
