"""A stick that leads elsewhere, hangs, or is damaged in part: nothing outside is touched, and the rest goes on."""

from __future__ import annotations

import json
import os
import signal
from pathlib import Path

import pytest

from fernbrook.enclosed import OutsideError, folder_inside, inside, open_regular, read_inside
from fernbrook.errors import RefusedError
from fernbrook.formats.stick import FILLING, read_manifest
from fernbrook.service.house import House
from fernbrook.service.leaving.sticks import Action, OnTheStick
from fernbrook.service.work.stick import fill_stick
from tests.conftest import Made
from tests.outside.test_stick import chosen, digests, fill, house, stick, track_of
from tests.service.conftest import until

__all__ = ["house", "stick"]
pytestmark = pytest.mark.slow


def not_filled(house: House, stick: Path) -> str:
    """Why filling a stick was refused, at once or as its job."""
    try:
        house.sticks.start(str(stick), *chosen(house))
    except RefusedError as error:
        return str(error)
    until(lambda: not house.sticks.last().is_open)
    return house.sticks.last().error or ""


def test_names_and_links_that_lead_out_of_a_folder_are_refused(tmp_path: Path) -> None:
    root, other = tmp_path / "root", tmp_path / "other"
    root.mkdir()
    other.mkdir()
    (other / "kept.txt").write_text("theirs")
    (root / "away").symlink_to(other)
    (root / "kept.txt").symlink_to(other / "kept.txt")
    os.mkfifo(root / "pipe")
    assert inside(root, "a/b.txt") == root / "a" / "b.txt"
    for name in ("../kept.txt", "/etc/passwd", "away/kept.txt", "a/../../x", ".", "a\0b", "c:\\x"):
        with pytest.raises(OutsideError):
            inside(root, name)
    with pytest.raises(OutsideError):
        folder_inside(root, "away")
    for name in ("kept.txt", "pipe"):
        with pytest.raises(OSError, match=r"link|no file"):
            read_inside(root, name, 100)
    with pytest.raises(OSError, match="no file"):
        open_regular(root / "pipe")
    (root / "large").write_bytes(bytes(11))
    with pytest.raises(OSError, match="large"):
        read_inside(root, "large", 10)
    through = tmp_path / "through"
    through.symlink_to(root)
    assert read_inside(through, "large", 11) == bytes(11), "the folder itself may be reached by a link"


@pytest.mark.parametrize("folder", ["music", "markup", "lists"])
def test_a_folder_that_is_a_link_is_not_followed(house: House, stick: Path, tmp_path: Path, folder: str) -> None:
    theirs = tmp_path / "theirs"
    theirs.mkdir()
    (theirs / "thesis.txt").write_text("years of work")
    (stick / folder).symlink_to(theirs)
    assert "link that leads elsewhere" in not_filled(house, stick)
    assert [p.name for p in theirs.iterdir()] == ["thesis.txt"]


def test_what_a_manifest_names_through_a_link_is_not_deleted(house: House, stick: Path, tmp_path: Path) -> None:
    fill(house, stick)
    theirs = tmp_path / "theirs"
    (stick / "music").rename(theirs)
    (stick / "music").symlink_to(theirs)
    before = {p.name: p.read_bytes() for p in theirs.iterdir()}
    lists, _ = chosen(house)
    house.sticks.start(str(stick), lists, [])
    until(lambda: not house.sticks.last().is_open)
    assert "link that leads elsewhere" in (house.sticks.last().error or "")
    assert {p.name: p.read_bytes() for p in theirs.iterdir()} == before


def test_a_file_that_is_a_link_is_replaced_and_what_it_leads_to_stays(
    house: House, stick: Path, tmp_path: Path
) -> None:
    fill(house, stick)
    theirs = tmp_path / "thesis.txt"
    theirs.write_text("years of work")
    names = [
        read_manifest(stick).tracks[0].file,
        "stick.json",
        *(f"lists/{p.name}" for p in (stick / "lists").iterdir()),
    ]
    kept = read_manifest(stick).model_dump_json()
    for name in names:
        (stick / name).unlink()
        (stick / name).symlink_to(theirs)
    (stick / ".stick.json.part").symlink_to(theirs)
    assert "cannot be read" in not_filled(house, stick), "its manifest is a link"
    (stick / "stick.json").unlink()
    (stick / "stick.json").write_text(kept)
    fill(house, stick)
    assert theirs.read_text() == "years of work"
    assert not any((stick / name).is_symlink() for name in names)


@pytest.mark.parametrize("name", ["stick.json", "player.json", "played.json"])
def test_a_pipe_on_a_stick_hangs_nobody(house: House, stick: Path, name: str) -> None:
    fill(house, stick)
    (stick / name).unlink(missing_ok=True)
    os.mkfifo(stick / name)

    def hung(*_: object) -> None:
        raise AssertionError("it waits for a pipe")

    before = signal.signal(signal.SIGALRM, hung)
    signal.alarm(20)
    try:
        if name == "stick.json":
            for look in (house.sticks.plan, lambda path, *_: house.stick_reading.read(path)):
                with pytest.raises(RefusedError, match="cannot be read"):
                    look(str(stick), *chosen(house))
        else:
            assert house.stick_reading.read(str(stick)).notes or house.sticks.plan(str(stick), [], []).notes
    finally:
        signal.alarm(0)
        signal.signal(signal.SIGALRM, before)


def test_an_order_deletes_only_what_fernbrook_put_there(house: House, stick: Path, tmp_path: Path) -> None:
    """Orders may come with a backup from another machine."""
    fill(house, stick)
    (stick / "music" / "holiday.mp3").write_bytes(b"not ours")
    order, *_ = house.sticks._order(OnTheStick.of(stick), *chosen(house))
    for gone in (("music/holiday.mp3",), tuple(x.track.file for x in order.items)):
        fill_stick(order.model_copy(update={"gone": gone}), house.folders.root, lambda _: None)
    assert (stick / "music" / "holiday.mp3").is_file()
    assert len(list((stick / "music").iterdir())) == 3
    for hostile in ("../thesis.txt", "/etc/passwd", "stick.json", "music/../../x", "music/.hidden"):
        with pytest.raises(ValueError, match="is no file in"):
            type(order).model_validate({**order.model_dump(mode="json"), "gone": [hostile]})
    assert not (tmp_path / "thesis.txt").exists()


def test_one_long_title_and_one_missing_file_fail_nothing_else(
    house: House, stick: Path, first: Made, second: Made
) -> None:
    house.collection.rename_track(track_of(house, first), "溫室" * 59, "")
    assert fill(house, stick)["failed"] == []
    assert all(len(p.name.encode()) <= 255 for p in stick.rglob("*"))
    house.files.find(track_of(house, second)).unlink()
    plan = house.sticks.plan(str(stick), *chosen(house))
    skipped = {f.title: f.reason for f in plan.files if f.action is Action.SKIP}
    assert list(skipped) == [second.song.title]
    assert "missing" in skipped[second.song.title]
    assert plan.problem == ""
    assert fill(house, stick)["kept"] == 1


def test_a_track_that_cannot_be_put_there_is_told_and_its_lists_go_without_it(
    house: House, stick: Path, first: Made, second: Made
) -> None:
    order, *_ = house.sticks._order(OnTheStick.of(stick), *chosen(house))
    at = next(n for n, x in enumerate(order.items) if x.track.title == first.song.title)
    (stick / "music").mkdir()
    (stick / order.items[at].track.file).mkdir()
    result = fill_stick(order, house.folders.root, lambda _: None)
    assert [f["title"] for f in result["failed"]] == [first.song.title]
    assert "Errno" not in result["failed"][0]["reason"]
    assert [t.title for t in read_manifest(stick).tracks] == [second.song.title]
    for playlist in (stick / "lists").iterdir():
        lines = [x for x in playlist.read_text().splitlines() if x and not x.startswith("#")]
        assert lines
        assert all((playlist.parent / x).is_file() for x in lines)


@pytest.mark.parametrize(
    "content",
    [b"", b"{", b'{"played": 3}', b"\xff\xfe", b"[" * 100_000, b'{"played": [{"at": "0001-01-01", "file": "x"}]}'],
)
def test_one_damaged_file_leaves_the_others_readable(house: House, stick: Path, content: bytes) -> None:
    fill(house, stick)
    one, other = sorted((stick / "markup").iterdir())
    one.write_bytes(content)
    (stick / "played.json").write_bytes(content)
    (stick / "player.json").write_bytes(content)
    said = json.loads(other.read_text())
    said["markup"]["cues"] = [{"id": "new", "at": 8.0, "name": "theirs"}]
    other.write_text(json.dumps(said))
    read = house.stick_reading.read(str(stick))
    assert len(read.changed) == 1
    assert len(read.notes) == 3
    plan = house.sticks.plan(str(stick), *chosen(house))
    assert {f.action for f in plan.files} == {Action.KEEP}
    fill(house, stick)
    assert len(house.stick_reading.read(str(stick)).notes) == 2, "markup was written again"


def test_files_of_a_filling_that_was_cut_off_are_known_and_written_over(house: House, stick: Path) -> None:
    (stick / "music").mkdir()
    (stick / "music" / "own.wav").write_bytes(b"theirs")
    order, *_ = house.sticks._order(OnTheStick.of(stick), *chosen(house))

    class StopError(BaseException):
        """As if it had been killed."""

    def stop(share: float) -> None:
        if share > 0.9:
            raise StopError

    with pytest.raises(StopError):
        fill_stick(order, house.folders.root, stop)
    assert (stick / FILLING).is_file()
    (stick / "music" / ".fernbrook-x-1.part.wav").write_bytes(b"half")
    fill(house, stick)
    assert not (stick / FILLING).exists()
    assert {p.name for p in (stick / "music").iterdir()} == {
        "own.wav",
        *(Path(t.file).name for t in read_manifest(stick).tracks),
    }
    assert len(digests(stick)) == 7
