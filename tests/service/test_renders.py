from __future__ import annotations

import csv
import io
import os
import signal
import zipfile
from datetime import timedelta
from urllib.parse import unquote

import mido
import mutagen
import numpy as np
import opentimelineio
import psutil
import pytest
import soundfile

from fernbrook.audio.files.output import OutputFormat
from fernbrook.core.mix.commands import AddTracks, RenameMix
from fernbrook.core.plan import MarkerKind, markers, teaser
from fernbrook.core.track import PutGrid
from fernbrook.errors import AudioFileError, NotFoundError, RefusedError
from fernbrook.service.mixes.mixes import OpenMix
from fernbrook.service.services import Services
from fernbrook.service.work.wish import RenderWish, What
from fernbrook.store.folders import Folders
from fernbrook.whole import is_unfinished
from tests.conftest import Made
from tests.service.conftest import until, without_analyses

pytestmark = pytest.mark.slow


@pytest.fixture
def opened(services: Services, first: Made, second: Made) -> OpenMix:
    ids = []
    for made in (first, second):
        ids.append(services.library.bring_in_path(made.path).track.id)
        services.marking.change(ids[-1], None, PutGrid(grid=made.truth.grid))
    without_analyses(services)
    mix = services.mixes.create("Night: one/two")
    return services.mixes.change(mix.id, mix.version, AddTracks(track_ids=tuple(ids)))


def _state(services: Services, mix_id: str) -> str:
    return services.renders.list(mix_id)[0].job.state


@pytest.mark.vital
def test_the_file_is_what_the_preview_was(services: Services, opened: OpenMix) -> None:
    mix_id = opened.id
    job = services.renders.start(mix_id, RenderWish(output=OutputFormat.WAV_32_FLOAT)).job
    services.mixes.change(mix_id, opened.version, RenameMix(name="Changed since"))
    start = round(opened.plan.transitions[0].start_s * 44_100) - 88_200
    frames, blocks = services.listening.preview(mix_id, start, start + 441_000, None)
    heard = np.concatenate(list(blocks))
    assert len(heard) == frames == 441_000
    services.start()
    until(lambda: _state(services, mix_id) == "done")
    path, name = services.renders.file(job.id)
    assert name == "Night one two.wav"
    sound = soundfile.read(path, dtype="float32")[0]
    assert len(sound) == opened.plan.frames
    assert np.array_equal(sound[start : start + 441_000], heard)
    text = services.renders.track_list(job.id)[0].read_text()
    assert text.splitlines()[0].startswith("Night: one/two (")
    assert "Kelp Union – Stomata" in text
    done = services.renders.list(mix_id)[0].job
    assert done.started_at.utcoffset() == timedelta(0)
    assert 0 < done.seconds < 600


@pytest.mark.vital
def test_a_cancelled_render_leaves_no_file_and_can_be_tried_again(
    services: Services, folders: Folders, opened: OpenMix
) -> None:
    mix_id = opened.id
    job = services.renders.start(mix_id, RenderWish(output=OutputFormat.WAV_24)).job
    services.start()
    until(lambda: _state(services, mix_id) == "running")
    services.jobs.cancel(job.id)
    assert _state(services, mix_id) == "cancelled"
    with pytest.raises(NotFoundError):
        services.renders.file(job.id)
    assert not list(folders.renders.glob("*.wav"))
    services.jobs.retry(job.id)
    until(lambda: _state(services, mix_id) == "done")
    services.renders.delete(job.id)
    assert not list(folders.renders.iterdir())


def test_a_worker_that_dies_fails_its_job_and_not_the_next(services: Services, opened: OpenMix) -> None:
    mix_id = opened.id
    services.renders.start(mix_id, RenderWish(output=OutputFormat.WAV_24))
    services.start()
    until(lambda: _state(services, mix_id) == "running" and services.renders.list(mix_id)[0].job.progress > 0)
    for child in psutil.Process().children():
        if "spawn_main" in " ".join(child.cmdline()):
            os.kill(child.pid, signal.SIGKILL)
    until(lambda: _state(services, mix_id) == "failed")
    assert "worker process ended" in services.renders.list(mix_id)[0].job.error
    services.renders.start(mix_id, RenderWish(output=OutputFormat.FLAC_16))
    until(lambda: _state(services, mix_id) == "done")


def test_a_stop_in_the_middle_is_gone_on_from_at_the_next_start(
    services: Services, folders: Folders, opened: OpenMix
) -> None:
    mix_id = opened.id
    services.renders.start(mix_id, RenderWish(output=OutputFormat.WAV_24))
    services.start()
    until(lambda: _state(services, mix_id) == "running")
    services.stop()
    again = Services(folders, workers=1)
    try:
        again.start()
        until(lambda: _state(again, mix_id) == "done")
        assert soundfile.info(again.renders.file(again.renders.list(mix_id)[0].job.id)[0]).frames == opened.plan.frames
        until(lambda: all(t.job is None for t in again.catalogue.tracks()))
    finally:
        again.stop()


def test_all_renders_of_a_mix_go_those_under_way_too(services: Services, folders: Folders, opened: OpenMix) -> None:
    mix_id = opened.id
    services.renders.start(mix_id, RenderWish(output=OutputFormat.FLAC_16))
    services.start()
    until(lambda: _state(services, mix_id) == "done")
    services.renders.start(mix_id, RenderWish(output=OutputFormat.WAV_24))
    until(lambda: _state(services, mix_id) == "running")
    services.mixes.delete(mix_id)
    services.renders.delete_all(mix_id)
    assert services.renders.list(mix_id) == []
    assert not [p for p in folders.renders.iterdir() if not is_unfinished(p)]


def test_an_empty_mix_or_a_lost_file_is_refused(services: Services, opened: OpenMix) -> None:
    with pytest.raises(RefusedError, match="empty"):
        services.renders.start(services.mixes.create("Empty").id, RenderWish(output=OutputFormat.WAV_24))
    track = services.catalogue.tracks()[0]
    services.files.find(track.id).unlink()
    with pytest.raises(AudioFileError, match=f"file of ‘{track.title}’ is missing"):
        services.renders.start(opened.id, RenderWish(output=OutputFormat.WAV_24))


def files_of(services: Services, opened: OpenMix, wish: RenderWish) -> dict[str, bytes]:
    """What is in the archive that a mix is rendered to, as it is before its tracks are analysed."""
    job = services.renders.start(opened.id, wish).job
    services.start()
    until(lambda: not next(r for r in services.renders.list(opened.id) if r.job.id == job.id).job.is_open)
    path, name = services.renders.file(job.id)
    assert name == f"Night one two {wish.what}.zip"
    with zipfile.ZipFile(path) as archive:
        return {n: archive.read(n) for n in archive.namelist()}


def sound_of(content: bytes) -> np.ndarray:
    return soundfile.read(io.BytesIO(content), dtype="float32", always_2d=True)[0]


def test_one_file_a_track_is_the_mix_when_they_are_played_one_after_the_other(
    services: Services, opened: OpenMix
) -> None:
    start_s = opened.plan.transitions[0].start_s - 3.0
    part = {"start_s": start_s, "end_s": start_s + 30.0}
    begin = round(start_s * 44_100)
    heard = np.concatenate(list(services.listening.preview(opened.id, begin, begin + 30 * 44_100, None)[1]))
    files = files_of(services, opened, RenderWish(output=OutputFormat.FLAC_24, what=What.TRACKS, **part))
    names = [n for n in files if n.endswith(".flac")]
    titles = [f"{e.track.artist} – {e.track.title}" for e in opened.plan.entries]
    assert names == [f"{n:02} {title}.flac" for n, title in enumerate(titles, 1)]
    together = np.concatenate([sound_of(files[n]) for n in names])
    assert len(together) == len(heard)
    assert np.abs(together - heard).max() < 2.0**-22
    turn = next(m.at_s for m in markers(opened.plan) if m.kind is MarkerKind.TAKES_OVER)
    assert len(sound_of(files[names[0]])) == pytest.approx((turn - start_s) * 44_100, abs=1)
    tags = mutagen.File(io.BytesIO(files[names[1]])).tags
    wanted = [opened.plan.entries[1].track.title, "Night: one/two", "2"]
    assert [tags[x][0] for x in ("title", "album", "tracknumber")] == wanted
    assert files["Night one two.m3u8"].decode().splitlines()[3::2] == names


def test_lanes_lie_together_with_their_click_tempo_map_and_markers(services: Services, opened: OpenMix) -> None:
    quiet = opened.plan.frames // 4
    heard = np.concatenate(list(services.listening.preview(opened.id, 0, quiet, frozenset({"e1"}))[1]))
    files = files_of(services, opened, RenderWish(output=OutputFormat.WAV_32_FLOAT, what=What.LANES))
    plan = opened.plan
    lanes = [sound_of(content) for name, content in files.items() if name.endswith(".wav") and name != "click.wav"]
    assert [len(lane) for lane in lanes] == [plan.frames] * 2
    assert np.abs(lanes[0][:quiet] - heard).max() < 1e-5
    start, end = (round(t * 44_100) for t in (plan.entries[1].start_s, plan.entries[0].end_s))
    assert not lanes[0][end + 44_100 :].any()
    assert not lanes[1][: start - 400].any()
    click = sound_of(files["click.wav"])[:, 0]
    moments, _ = plan.bars.ticks(0.0, plan.duration_s)
    for at in moments[1:-1:7]:
        n = round(at * 44_100)
        near = np.abs(click[n - 200 : n + 200])
        assert int(np.argmax(near > 0.1)) == 200
    song = mido.MidiFile(file=io.BytesIO(files["tempo map.mid"]))
    assert song.length == pytest.approx(plan.duration_s, abs=1e-4)
    rows = list(csv.DictReader(io.StringIO(files["markers.csv"].decode())))
    times = {r["name"]: float(r["seconds"]) for r in rows}
    titles = [e.track.title for e in plan.entries]
    assert times[f"{titles[1]}: comes in"] == pytest.approx(plan.entries[1].start_s, abs=1e-5)
    drawn = opentimelineio.adapters.read_from_string(files["mix.otio"].decode(), "otio_json")
    assert drawn.duration().to_seconds() == pytest.approx(plan.duration_s, abs=1e-4)
    clip = next(iter(drawn.audio_tracks()[1].find_clips()))
    assert clip.range_in_parent().start_time.value == pytest.approx(plan.entries[1].start_s * 44_100, abs=1)
    assert unquote(clip.media_reference.target_url) in files
    assert [m.name for m in drawn.tracks.markers] == [r["name"] for r in rows]
    assert b"limiter" in files["readme.txt"]


def test_a_teaser_is_what_is_heard_around_its_transitions(services: Services, opened: OpenMix) -> None:
    job = services.renders.start(opened.id, RenderWish(output=OutputFormat.WAV_32_FLOAT, what=What.TEASER)).job
    (piece,) = teaser(opened.plan)
    begin, end = (round(s * 44_100) for s in (piece.start_s, piece.end_s))
    heard = np.concatenate(list(services.listening.preview(opened.id, begin, end, None)[1]))
    services.start()
    until(lambda: not services.renders.list(opened.id)[0].job.is_open)
    assert services.renders.track_list(job.id)[0].read_text().splitlines()[2] == f"00:00  {piece.name}"
    assert [name for _, name in services.renders.sleeve(job.id)[1].chapters] == [piece.name]
    made = sound_of(services.renders.file(job.id)[0].read_bytes())
    assert len(made) == round(30.0 * 44_100)
    assert np.array_equal(made[44_100:-44_100], heard[44_100:-44_100])
    assert np.abs(made[:20]).max() < 0.01
    assert np.abs(made[-20:]).max() < 0.01


@pytest.mark.parametrize(
    ("wish", "words"),
    [
        ({"what": "lanes", "output": "mp3_320"}, "WAV or FLAC"),
        ({"what": "tracks", "output": "video_h264"}, "sound only"),
    ],
)
def test_what_cannot_be_made_is_said(services: Services, opened: OpenMix, wish: dict, words: str) -> None:
    with pytest.raises(RefusedError, match=words):
        services.renders.start(opened.id, RenderWish.model_validate(wish))


def test_a_teaser_of_one_track_is_refused(services: Services, first: Made) -> None:
    mix = services.mixes.create("Alone")
    track = services.library.bring_in_path(first.path).track.id
    services.mixes.change(mix.id, mix.version, AddTracks(track_ids=(track,)))
    with pytest.raises(RefusedError, match="has none"):
        services.renders.start(mix.id, RenderWish(output=OutputFormat.WAV_24, what=What.TEASER))
