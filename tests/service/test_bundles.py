"""A bundle opens elsewhere to the mix that it was; what is there already is recognised and nothing is overwritten."""

from __future__ import annotations

import hashlib
import io
import json
import random
import tracemalloc
import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import pytest

from fernbrook.core.mix.commands import AddTracks, RemoveEntries, RenameMix, SetKeyShift
from fernbrook.core.plan import source_at
from fernbrook.core.track import Cue, CueRole, PutCues, PutGrid
from fernbrook.core.track.commands import ScaleTempo, Slide
from fernbrook.errors import AudioFileError, NotFoundError
from fernbrook.formats.archive import MANIFEST, ArchiveError
from fernbrook.formats.bundle import BundleAudio
from fernbrook.service.files.sound_files import content_hash
from fernbrook.service.importing.bundle_opening import Arrival
from fernbrook.service.services import Services
from fernbrook.store.folders import Folders
from tests.conftest import Made
from tests.service.conftest import analysed, killed, until, without_analyses

pytestmark = pytest.mark.slow


@pytest.fixture(scope="module")
def services(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Services]:
    """Where bundles come from; nothing in it is changed by a test."""
    services = Services(Folders(tmp_path_factory.mktemp("origin")), workers=1)
    yield services
    services.stop()


@pytest.fixture(scope="module")
def mix_id(services: Services, first: Made, second: Made) -> str:
    """A mix of two tracks with a past: analysed, marked by hand, renamed, a key shifted."""
    ids = [services.library.bring_in_path(m.path).track.id for m in (first, second)]
    services.start()
    until(lambda: analysed(services))
    for track_id, made in zip(ids, (first, second), strict=True):
        services.marking.change(track_id, None, PutGrid(grid=made.truth.grid))
    services.marking.change(ids[1], None, PutCues(cues=(Cue(id="c1", at=16.0, name="claps"),)))
    mix = services.mixes.create("Night")
    opened = services.mixes.change(mix.id, mix.version, AddTracks(track_ids=tuple(ids)))
    opened = services.mixes.change(mix.id, opened.version, SetKeyShift(entry_id="e1", semitones=2))
    return services.mixes.change(mix.id, opened.version, RenameMix(name="Night, late")).id


@pytest.fixture
def elsewhere(tmp_path: Path) -> Iterator[Services]:
    other = Services(Folders(tmp_path / "elsewhere"), workers=1)
    other.start()
    yield other
    other.stop()


def packed(
    services: Services, mix_id: str, audio: BundleAudio = BundleAudio.ORIGINAL, *, history: bool = True
) -> bytes:
    made = services.bundles.start(mix_id, audio, with_history=history)
    until(lambda: not services.bundles.made_of(mix_id)[0].job.is_open)
    path, name = services.bundles.file(made.job.id)
    assert name == "Night, late bundle.zip"
    return path.read_bytes()


def opened(services: Services, content: bytes, *take: str) -> str:
    """Bring a bundle and open it; the id of the mix that it became."""
    arrived = services.bundle_opening.bring(io.BytesIO(content), "a.zip")
    services.bundle_opening.open(arrived.id, take)
    until(lambda: not services.bundle_opening.opening(arrived.id).job.is_open)
    done = services.bundle_opening.opening(arrived.id)
    assert done.job.error is None
    assert [p.name for p in services.folders.bundles.iterdir() if "arrived" in p.name or p.name.startswith(".")] == []
    assert done.mix_id is not None
    return done.mix_id


def heard(services: Services, mix_id: str) -> np.ndarray:
    plan = services.mixes.open(mix_id).plan
    middle = round(plan.transitions[0].start_s * 44_100)
    return np.concatenate(list(services.listening.preview(mix_id, middle - 44_100, middle + 400_000, None)[1]))


@pytest.mark.vital
def test_it_opens_elsewhere_to_the_same_sound_markup_and_past(
    services: Services, elsewhere: Services, mix_id: str
) -> None:
    content = packed(services, mix_id)
    arrived = elsewhere.bundle_opening.bring(io.BytesIO(content), "a.zip")
    assert [t.arrival for t in arrived.tracks] == [Arrival.NEW, Arrival.NEW]
    assert (arrived.name, arrived.states, elsewhere.mixes.list()) == ("Night, late", 4, [])
    elsewhere.bundle_opening.leave(arrived.id)
    new = opened(elsewhere, content)
    here, there = services.mixes.open(mix_id).plan, elsewhere.mixes.open(new).plan
    assert (there.mix, there.duration_s) == (here.mix, here.duration_s)
    assert there.parts == here.parts
    assert np.array_equal(heard(elsewhere, new), heard(services, mix_id))
    for entry in here.entries:
        assert elsewhere.marking.open(entry.track.id).markup == services.marking.open(entry.track.id).markup
        assert elsewhere.library.get(entry.track.id).job is None, "its analysis came along"
        assert elsewhere.library.peaks(entry.track.id, 256).is_file()
    version = elsewhere.mixes.open(new).version
    back = elsewhere.mixes.undo(new, elsewhere.mixes.undo(new, version).version)
    assert [e.entry.key_shift for e in back.plan.entries] == [0, 0]


def test_without_its_past_it_is_what_it_is_now_and_as_flac_sounds_the_same(
    services: Services, elsewhere: Services, mix_id: str
) -> None:
    new = opened(elsewhere, packed(services, mix_id, BundleAudio.FLAC, history=False))
    plan = elsewhere.mixes.open(new)
    assert plan.steps.undo is None
    assert plan.plan.entries[0].entry.key_shift == 2
    assert all(elsewhere.files.find(e.track.id).suffix == ".flac" for e in plan.plan.entries)
    assert np.abs(heard(elsewhere, new) - heard(services, mix_id)).max() < 2.0**-22


def test_music_that_is_elsewhere_already_is_found_by_its_hash_and_else_named(
    services: Services, elsewhere: Services, mix_id: str, first: Made
) -> None:
    elsewhere.library.bring_in_path(first.path)
    until(lambda: analysed(elsewhere))
    content = packed(services, mix_id, BundleAudio.NONE)
    assert len(content) < 200_000
    arrived = elsewhere.bundle_opening.bring(io.BytesIO(content), "a.zip")
    assert [t.arrival for t in arrived.tracks] == [Arrival.DIFFERS, Arrival.MISSING]
    elsewhere.bundle_opening.leave(arrived.id)
    new = opened(elsewhere, content)
    plan = elsewhere.mixes.open(new).plan
    with pytest.raises(AudioFileError, match="missing"):
        heard(elsewhere, new)
    house_path = services.files.find(plan.entries[1].track.id)
    assert elsewhere.library.bring_in_path(house_path).restored
    assert heard(elsewhere, new).any()


def test_what_differs_is_asked_and_what_is_here_stays_unless_it_is_taken(
    services: Services, elsewhere: Services, mix_id: str
) -> None:
    content = packed(services, mix_id)
    before = elsewhere.mixes.open(opened(elsewhere, content)).plan
    track = before.entries[1].track.id
    theirs = elsewhere.marking.open(track).markup
    elsewhere.marking.change(track, None, ScaleTempo(factor=2.0))
    elsewhere.marking.change(track, None, PutCues(cues=(Cue(id="c9", at=99.0),)))
    mine = elsewhere.marking.open(track).markup
    arrived = elsewhere.bundle_opening.bring(io.BytesIO(content), "a.zip")
    assert [t.arrival for t in arrived.tracks] == [Arrival.SAME, Arrival.DIFFERS]
    differing = arrived.tracks[1]
    assert {p.facet for p in differing.parts} >= {"grid", "cues"}
    elsewhere.bundle_opening.leave(arrived.id)
    kept = opened(elsewhere, content)
    assert elsewhere.marking.open(track).markup == mine
    assert elsewhere.marking.open(track).steps.redo is None
    here = elsewhere.mixes.open(kept).plan
    assert here.duration_s == pytest.approx(before.duration_s, abs=1e-6), "its beats are counted by the grid of now"
    assert here.transitions[0].start_s == pytest.approx(before.transitions[0].start_s, abs=1e-6)
    taken = opened(elsewhere, content, differing.id)
    assert elsewhere.marking.open(track).markup == theirs
    assert elsewhere.mixes.open(taken).plan.parts == before.parts
    assert elsewhere.marking.undo(track, elsewhere.marking.open(track).version).markup == mine
    assert len(elsewhere.mixes.list()) == 3


def test_nothing_taken_it_plays_the_same_by_a_grid_between_the_beats_and_other_cues(
    services: Services, elsewhere: Services, mix_id: str
) -> None:
    """A grid here may lie half a beat off, and cues may want another place: what met in the bundle goes on to meet."""
    content = packed(services, mix_id)
    before = elsewhere.mixes.open(opened(elsewhere, content))
    ids = [e.track.id for e in before.plan.entries]
    half_a_beat = 30.0 / elsewhere.library.facts(ids[1]).grid.bpm_after
    elsewhere.marking.change(ids[1], None, Slide(by_s=half_a_beat))
    elsewhere.marking.change(ids[0], None, PutCues(cues=(Cue(id="c", role=CueRole.MIX_OUT, at=32.0),)))
    kept = elsewhere.mixes.open(opened(elsewhere, content))
    assert kept.plan.duration_s == pytest.approx(before.plan.duration_s, abs=1e-6)
    for one, other in zip(kept.plan.entries, before.plan.entries, strict=True):
        times = np.linspace(other.start_s + 0.1, other.end_s - 0.1, 1000)
        there = source_at(other.part.segments, times)
        assert source_at(one.part.segments, times) == pytest.approx(there, abs=1e-6)
    assert kept.plan.mix.kept == (before.plan.transitions[0].transition.pair,)
    past = elsewhere.mixes.undo(kept.id, kept.version).plan
    assert past.duration_s == pytest.approx(before.plan.duration_s, abs=1e-6)


def test_what_only_the_past_of_a_mix_had_need_not_be_there(elsewhere: Services, small: bytes) -> None:
    new = opened(elsewhere, small)
    mix = elsewhere.mixes.open(new)
    gone = mix.plan.entries[1]
    elsewhere.files.find(gone.track.id).unlink()
    with pytest.raises(AudioFileError, match="missing"):
        elsewhere.bundles.start(new, BundleAudio.ORIGINAL, with_history=True)
    elsewhere.mixes.change(new, mix.version, RemoveEntries(entry_ids=(gone.entry.id,)))
    again = packed(elsewhere, new)
    said = json.loads(zipfile.ZipFile(io.BytesIO(again)).read("tracks.json"))["tracks"]
    assert {t["id"]: t["audio"] is None for t in said}[gone.track.id]
    arrived = elsewhere.bundle_opening.bring(io.BytesIO(again), "a.zip")
    assert [t.arrival for t in arrived.tracks] == [Arrival.SAME, Arrival.SAME]


def changed(content: bytes, name: str, change: Callable[[dict], None]) -> bytes:
    """A bundle in which one of its texts says something else, its manifest made to fit."""
    import hashlib

    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(content)) as old, zipfile.ZipFile(out, "w") as new:
        said = json.loads(old.read(name))
        change(said)
        text = json.dumps(said).encode()
        manifest = json.loads(old.read(MANIFEST))
        if name != MANIFEST:
            manifest["files"][name] = {"bytes": len(text), "sha256": hashlib.sha256(text).hexdigest()}
        for info in old.infolist():
            if info.filename not in (name, MANIFEST):
                new.writestr(info.filename, old.read(info))
        if name != MANIFEST:
            new.writestr(name, text)
        new.writestr(MANIFEST, json.dumps(manifest if name != MANIFEST else said))
    return out.getvalue()


def newer(said: dict) -> None:
    said["version"] = 99


def newer_state(said: dict) -> None:
    said["revisions"][0]["state"]["version"] = 99


def strange_track(said: dict) -> None:
    said["revisions"][-1]["state"]["state"]["entries"][0]["track_id"] = "stranger"


def headless(said: dict) -> None:
    said["head"] = 12345


def outside(said: dict) -> None:
    said["files"]["audio/../../evil"] = {"bytes": 1, "sha256": "0"}


def wild(said: dict) -> None:
    said["tracks"][0]["columns"]["duration_s"] = "long"


def foreign_file(said: dict) -> None:
    said["tracks"][0]["peaks"] = [said["tracks"][1]["peaks"][0]]


def column(name: str, value: object) -> Callable[[dict], None]:
    """What puts something into what is said of a track."""
    return lambda said: said["tracks"][0]["columns"].update({name: value})


def dated(moment: str) -> Callable[[dict], None]:
    return lambda said: said["revisions"][0].update({"created_at": moment})


def numbered(said: dict) -> None:
    said["revisions"][0]["id"] = 2**70


@pytest.mark.parametrize(
    ("name", "change", "words"),
    [
        (MANIFEST, newer, "made by a newer Fernbrook"),
        ("mix.json", newer_state, "made by a newer Fernbrook"),
        ("mix.json", strange_track, "stranger"),
        ("mix.json", headless, "the state that counts"),
        (MANIFEST, outside, "no part of a bundle"),
        ("tracks.json", wild, "damaged"),
        ("tracks.json", foreign_file, "belongs to another track"),
        ("tracks.json", column("year", 2**70), "year"),
        ("tracks.json", column("bytes", 2**70), "bytes"),
        ("tracks.json", column("analysis_version", -(2**70)), "analysis_version"),
        ("tracks.json", column("findings", ["milk", "bread"]), "findings"),
        ("tracks.json", column("findings", {"energy": "loud"}), "energy"),
        ("tracks.json", column("findings", {"energy": [None, {}]}), "energy"),
        ("tracks.json", column("findings", {"file": {"top_hz": "high"}}), "top_hz"),
        ("tracks.json", column("findings", {"key_confidence": 1e300}), "key_confidence"),
        ("tracks.json", column("findings", {"markup": {"version": 1, "state": {"cues": 3}}}), "damaged"),
        ("tracks.json", column("doubts", [{"kind": "gap", "text": "x" * 10_000}]), "text"),
        ("tracks.json", column("tags", ["x" * 10_000]), "tags"),
        ("tracks.json", column("duration_s", 1e300), "duration_s"),
        ("mix.json", dated("0001-01-01T00:00:00"), "year 1 "),
        ("mix.json", dated("9999-12-31T23:59:59+00:00"), "year 9999"),
        ("mix.json", numbered, "of number 1 of ‘revisions’"),
    ],
)
def test_a_bundle_that_is_not_as_it_says_is_refused_and_nothing_of_it_kept(
    elsewhere: Services, small: bytes, name: str, change: Callable[[dict], None], words: str
) -> None:
    with pytest.raises(ArchiveError, match=words):
        elsewhere.bundle_opening.bring(io.BytesIO(changed(small, name, change)), "a.zip")
    assert list(elsewhere.folders.bundles.glob("*.arrived")) == []
    assert elsewhere.mixes.list() == []


@pytest.fixture(scope="module")
def small(tmp_path_factory: pytest.TempPathFactory, first: Made, second: Made) -> bytes:
    """A bundle of a mix of two tracks that were not analysed."""
    there = Services(Folders(tmp_path_factory.mktemp("small")), workers=1)
    try:
        ids = tuple(there.library.bring_in_path(m.path).track.id for m in (first, second))
        for track_id in ids:
            peaks = there.folders.peaks / f"{content_hash(there.files.find(track_id))}.64.bin"
            peaks.write_bytes(b"\0" * 300)
        mix = there.mixes.create("Night, late")
        there.mixes.change(mix.id, mix.version, AddTracks(track_ids=ids))
        without_analyses(there)
        there.start()
        return packed(there, mix.id)
    finally:
        there.stop()


@pytest.mark.vital
def test_what_is_cut_off_damaged_or_gone_is_told(elsewhere: Services, small: bytes) -> None:
    for spoiled in (small[: len(small) // 2], b"", b"ferns", small[:-3]):
        with pytest.raises(ArchiveError):
            elsewhere.bundle_opening.bring(io.BytesIO(spoiled), "a.zip")
    at = small.index(b"fLaC" if b"fLaC" in small else b"data") + 5000
    flipped = small[:at] + bytes([small[at] ^ 255]) + small[at + 1 :]
    arrived = elsewhere.bundle_opening.bring(io.BytesIO(flipped), "a.zip")
    elsewhere.bundle_opening.open(arrived.id)
    until(lambda: not elsewhere.bundle_opening.opening(arrived.id).job.is_open)
    assert "damaged" in (elsewhere.bundle_opening.opening(arrived.id).job.error or "")
    assert (elsewhere.mixes.list(), elsewhere.catalogue.tracks()) == ([], [])
    for call in (
        elsewhere.bundle_opening.look,
        elsewhere.bundle_opening.open,
        elsewhere.bundles.file,
        elsewhere.bundles.delete,
    ):
        with pytest.raises(NotFoundError):
            call("gone")


OPEN = """
import sys
from pathlib import Path
from fernbrook.service.services import Services
from fernbrook.service.files.sound_files import content_hash
from fernbrook.store.folders import Folders
if __name__ == "__main__":
    services = Services(Folders(Path(sys.argv[1])), workers=1)
    arrived = services.bundle_opening.bring(open(sys.argv[2], "rb"), "a.zip")
    services.bundle_opening.open(arrived.id)
    services.start()
    print("begun", flush=True)
    import time
    while services.bundle_opening.opening(arrived.id).job.is_open:
        time.sleep(0.002)
    print("done", flush=True)
    time.sleep(60)
"""


MOMENTS = 5


def test_killed_at_any_moment_it_is_the_old_or_the_new_and_is_gone_on_with(small: bytes, tmp_path: Path) -> None:
    bundle, script = tmp_path / "a.zip", tmp_path / "open.py"
    bundle.write_bytes(small)
    script.write_text(OPEN)
    dice = random.Random(14)
    for turn in range(MOMENTS):
        folder = tmp_path / f"killed{turn}"
        killed(script, str(folder), str(bundle), after_s=1.6 * (turn + dice.random()) / MOMENTS)
        again = Services(Folders(folder), workers=1)
        try:
            before = again.mixes.list()
            assert len(before) in (0, 1)
            assert len(again.catalogue.tracks()) == 2 * len(before)
            again.start()
            until(lambda: len(again.mixes.list()) == 1)  # noqa: B023
            assert np.abs(heard(again, again.mixes.list()[0].id)).max() > 0.01
        finally:
            again.stop()


def test_what_would_fill_the_memory_or_the_disk_is_not_unpacked(elsewhere: Services, small: bytes) -> None:
    """A small file whose texts, or whose files, are enormous once they are taken out."""

    tracemalloc.start()
    for name in ("mix.json", MANIFEST):
        with pytest.raises(ArchiveError, match="impossibly large"):
            elsewhere.bundle_opening.bring(io.BytesIO(bomb(small, name)), "a.zip")
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    assert peak < 64 << 20

    content = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(small)) as old, zipfile.ZipFile(content, "w", zipfile.ZIP_DEFLATED) as new:
        said = json.loads(old.read(MANIFEST))
        name = next(n for n in said["files"] if n.startswith("peaks/"))
        zeros = bytes(200 << 20)
        said["files"][name] = {"bytes": len(zeros), "sha256": hashlib.sha256(zeros).hexdigest()}
        for info in old.infolist():
            if info.filename != MANIFEST:
                new.writestr(info.filename, zeros if info.filename == name else old.read(info))
        new.writestr(MANIFEST, json.dumps(said))
    with pytest.raises(ArchiveError, match="larger than"):
        elsewhere.bundle_opening.bring(io.BytesIO(content.getvalue()), "a.zip")


def bomb(small: bytes, name: str) -> bytes:
    """The bundle with 300 MB of nothing in one of its texts."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(small)) as old, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as new:
        said = json.loads(old.read(MANIFEST))
        if name != MANIFEST:
            said["files"][name]["bytes"] = 300 << 20
        for info in old.infolist():
            if info.filename in (name, MANIFEST):
                continue
            new.writestr(info.filename, old.read(info))
        with new.open(name, "w") as file:
            for _ in range(300):
                file.write(b" " * (1 << 20))
        if name != MANIFEST:
            new.writestr(MANIFEST, json.dumps(said))
    return out.getvalue()
