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
from fernbrook.service.exporting.sticks import Action, OnTheStick
from fernbrook.service.services import Services
from fernbrook.service.work.stick import fill_stick
from tests.conftest import Made
from tests.service.conftest import until
from tests.standins.test_stick import chosen, digests, fill, services, stick, track_of

__all__ = ["services", "stick"]
pytestmark = pytest.mark.slow


def not_filled(services: Services, stick: Path) -> str:
    """Why filling a stick was refused, at once or as its job."""
    try:
        services.sticks.start(str(stick), *chosen(services))
    except RefusedError as error:
        return str(error)
    until(lambda: not services.sticks.last().is_open)
    return services.sticks.last().error or ""


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
def test_a_folder_that_is_a_link_is_not_followed(services: Services, stick: Path, tmp_path: Path, folder: str) -> None:
    theirs = tmp_path / "theirs"
    theirs.mkdir()
    (theirs / "thesis.txt").write_text("years of work")
    (stick / folder).symlink_to(theirs)
    assert "link that leads elsewhere" in not_filled(services, stick)
    assert [p.name for p in theirs.iterdir()] == ["thesis.txt"]


def test_what_a_manifest_names_through_a_link_is_not_deleted(services: Services, stick: Path, tmp_path: Path) -> None:
    fill(services, stick)
    theirs = tmp_path / "theirs"
    (stick / "music").rename(theirs)
    (stick / "music").symlink_to(theirs)
    before = {p.name: p.read_bytes() for p in theirs.iterdir()}
    lists, _ = chosen(services)
    services.sticks.start(str(stick), lists, [])
    until(lambda: not services.sticks.last().is_open)
    assert "link that leads elsewhere" in (services.sticks.last().error or "")
    assert {p.name: p.read_bytes() for p in theirs.iterdir()} == before


def test_a_file_that_is_a_link_is_replaced_and_what_it_leads_to_stays(
    services: Services, stick: Path, tmp_path: Path
) -> None:
    fill(services, stick)
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
    assert "cannot be read" in not_filled(services, stick), "its manifest is a link"
    (stick / "stick.json").unlink()
    (stick / "stick.json").write_text(kept)
    fill(services, stick)
    assert theirs.read_text() == "years of work"
    assert not any((stick / name).is_symlink() for name in names)


@pytest.mark.parametrize("name", ["stick.json", "player.json", "played.json"])
def test_a_pipe_on_a_stick_hangs_nobody(services: Services, stick: Path, name: str) -> None:
    fill(services, stick)
    (stick / name).unlink(missing_ok=True)
    os.mkfifo(stick / name)

    def hung(*_: object) -> None:
        raise AssertionError("it waits for a pipe")

    before = signal.signal(signal.SIGALRM, hung)
    signal.alarm(20)
    try:
        if name == "stick.json":
            for look in (services.sticks.plan, lambda path, *_: services.stick_reading.read(path)):
                with pytest.raises(RefusedError, match="cannot be read"):
                    look(str(stick), *chosen(services))
        else:
            assert services.stick_reading.read(str(stick)).notes or services.sticks.plan(str(stick), [], []).notes
    finally:
        signal.alarm(0)
        signal.signal(signal.SIGALRM, before)


def test_an_order_deletes_only_what_fernbrook_put_there(services: Services, stick: Path, tmp_path: Path) -> None:
    """Orders may come with a backup from another machine."""
    fill(services, stick)
    (stick / "music" / "holiday.mp3").write_bytes(b"not ours")
    order, *_ = services.sticks._order(OnTheStick.of(stick), *chosen(services))
    for gone in (("music/holiday.mp3",), tuple(x.track.file for x in order.items)):
        fill_stick(order.model_copy(update={"gone": gone}), services.folders.root, lambda _: None)
    assert (stick / "music" / "holiday.mp3").is_file()
    assert len(list((stick / "music").iterdir())) == 3
    for hostile in ("../thesis.txt", "/etc/passwd", "stick.json", "music/../../x", "music/.hidden"):
        with pytest.raises(ValueError, match="is no file in"):
            type(order).model_validate({**order.model_dump(mode="json"), "gone": [hostile]})
    assert not (tmp_path / "thesis.txt").exists()


def test_one_long_title_and_one_missing_file_fail_nothing_else(
    services: Services, stick: Path, first: Made, second: Made
) -> None:
    services.collection.rename_track(track_of(services, first), "溫室" * 59, "")
    assert fill(services, stick)["failed"] == []
    assert all(len(p.name.encode()) <= 255 for p in stick.rglob("*"))
    services.files.find(track_of(services, second)).unlink()
    plan = services.sticks.plan(str(stick), *chosen(services))
    skipped = {f.title: f.reason for f in plan.files if f.action is Action.SKIP}
    assert list(skipped) == [second.song.title]
    assert "missing" in skipped[second.song.title]
    assert plan.problem == ""
    assert fill(services, stick)["kept"] == 1


def test_a_track_that_cannot_be_put_there_is_told_and_its_lists_go_without_it(
    services: Services, stick: Path, first: Made, second: Made
) -> None:
    order, *_ = services.sticks._order(OnTheStick.of(stick), *chosen(services))
    at = next(n for n, x in enumerate(order.items) if x.track.title == first.song.title)
    (stick / "music").mkdir()
    (stick / order.items[at].track.file).mkdir()
    result = fill_stick(order, services.folders.root, lambda _: None)
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
def test_one_damaged_file_leaves_the_others_readable(services: Services, stick: Path, content: bytes) -> None:
    fill(services, stick)
    one, other = sorted((stick / "markup").iterdir())
    one.write_bytes(content)
    (stick / "played.json").write_bytes(content)
    (stick / "player.json").write_bytes(content)
    said = json.loads(other.read_text())
    said["markup"]["cues"] = [{"id": "new", "at": 8.0, "name": "theirs"}]
    other.write_text(json.dumps(said))
    read = services.stick_reading.read(str(stick))
    assert len(read.changed) == 1
    assert len(read.notes) == 3
    plan = services.sticks.plan(str(stick), *chosen(services))
    assert {f.action for f in plan.files} == {Action.KEEP}
    fill(services, stick)
    assert len(services.stick_reading.read(str(stick)).notes) == 2, "markup was written again"


def test_files_of_a_filling_that_was_cut_off_are_known_and_written_over(services: Services, stick: Path) -> None:
    (stick / "music").mkdir()
    (stick / "music" / "own.wav").write_bytes(b"theirs")
    order, *_ = services.sticks._order(OnTheStick.of(stick), *chosen(services))

    class StopError(BaseException):
        """As if it had been killed."""

    def stop(share: float) -> None:
        if share > 0.9:
            raise StopError

    with pytest.raises(StopError):
        fill_stick(order, services.folders.root, stop)
    assert (stick / FILLING).is_file()
    (stick / "music" / ".fernbrook-x-1.part.wav").write_bytes(b"half")
    fill(services, stick)
    assert not (stick / FILLING).exists()
    assert {p.name for p in (stick / "music").iterdir()} == {
        "own.wav",
        *(Path(t.file).name for t in read_manifest(stick).tracks),
    }
    assert len(digests(stick)) == 7
