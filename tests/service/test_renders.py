from __future__ import annotations

import os
import signal
from datetime import timedelta

import numpy as np
import psutil
import pytest
import soundfile

from fernbrook.audio.output import OutputFormat
from fernbrook.core.mix.commands import AddTracks, RenameMix
from fernbrook.core.track.commands import PutGrid
from fernbrook.errors import AudioFileError, NotFoundError, RefusedError
from fernbrook.service.house import House
from fernbrook.service.mixes import OpenMix
from fernbrook.service.work.render import RenderWish
from fernbrook.store.folders import Folders
from tests.conftest import Made
from tests.service.conftest import until

pytestmark = pytest.mark.slow


@pytest.fixture
def opened(house: House, first: Made, second: Made) -> OpenMix:
    ids = []
    for made in (first, second):
        ids.append(house.library.bring_in_path(made.path).track.id)
        house.marking.change(ids[-1], None, PutGrid(grid=made.truth.grid))
    mix = house.mixes.create("Night: one/two")
    return house.mixes.change(mix.id, mix.version, AddTracks(track_ids=tuple(ids)))


def _state(house: House, mix_id: str) -> str:
    return house.renders.list(mix_id)[0].job.state


def test_the_file_is_what_the_preview_was(house: House, opened: OpenMix) -> None:
    mix_id = opened.id
    job = house.renders.start(mix_id, RenderWish(output=OutputFormat.WAV_32_FLOAT)).job
    house.mixes.change(mix_id, opened.version, RenameMix(name="Changed since"))
    start = round(opened.plan.transitions[0].start_s * 44_100) - 88_200
    frames, blocks = house.listening.preview(mix_id, start, start + 441_000, None)
    heard = np.concatenate(list(blocks))
    assert len(heard) == frames == 441_000
    house.start()
    until(lambda: _state(house, mix_id) == "done")
    path, name = house.renders.file(job.id)
    assert name == "Night one two.wav"
    sound = soundfile.read(path, dtype="float32")[0]
    assert len(sound) == opened.plan.frames
    assert np.array_equal(sound[start : start + 441_000], heard)
    text = house.renders.track_list(job.id)[0].read_text()
    assert text.splitlines()[0].startswith("Night: one/two (")
    assert "Kelp Union – Stomata" in text
    done = house.renders.list(mix_id)[0].job
    assert done.started_at.utcoffset() == timedelta(0)
    assert 0 < done.seconds < 600


def test_a_cancelled_render_leaves_no_file_and_can_be_tried_again(
    house: House, folders: Folders, opened: OpenMix
) -> None:
    mix_id = opened.id
    job = house.renders.start(mix_id, RenderWish(output=OutputFormat.WAV_24)).job
    house.start()
    until(lambda: _state(house, mix_id) == "running")
    house.jobs.cancel(job.id)
    assert _state(house, mix_id) == "cancelled"
    with pytest.raises(NotFoundError):
        house.renders.file(job.id)
    assert not list(folders.renders.glob("*.wav"))
    house.jobs.retry(job.id)
    until(lambda: _state(house, mix_id) == "done")
    house.renders.delete(job.id)
    assert not list(folders.renders.iterdir())


def test_a_worker_that_dies_fails_its_job_and_not_the_next(house: House, opened: OpenMix) -> None:
    mix_id = opened.id
    house.renders.start(mix_id, RenderWish(output=OutputFormat.WAV_24))
    house.start()
    until(lambda: _state(house, mix_id) == "running" and house.renders.list(mix_id)[0].job.progress > 0)
    for child in psutil.Process().children():
        if "spawn_main" in " ".join(child.cmdline()):
            os.kill(child.pid, signal.SIGKILL)
    until(lambda: _state(house, mix_id) == "failed")
    assert "worker process ended" in house.renders.list(mix_id)[0].job.error
    house.renders.start(mix_id, RenderWish(output=OutputFormat.FLAC_16))
    until(lambda: _state(house, mix_id) == "done")


def test_a_stop_in_the_middle_marks_renders_and_takes_analyses_up_again(
    house: House, folders: Folders, opened: OpenMix
) -> None:
    mix_id = opened.id
    house.renders.start(mix_id, RenderWish(output=OutputFormat.WAV_24))
    house.start()
    until(lambda: _state(house, mix_id) == "running")
    house.stop()
    again = House(folders, workers=1)
    try:
        again.start()
        until(lambda: _state(again, mix_id) == "interrupted")
        until(lambda: all(t.job is None for t in again.catalogue.tracks()))
    finally:
        again.stop()


def test_all_renders_of_a_mix_go_those_under_way_too(house: House, folders: Folders, opened: OpenMix) -> None:
    mix_id = opened.id
    house.renders.start(mix_id, RenderWish(output=OutputFormat.FLAC_16))
    house.start()
    until(lambda: _state(house, mix_id) == "done")
    house.renders.start(mix_id, RenderWish(output=OutputFormat.WAV_24))
    until(lambda: _state(house, mix_id) == "running")
    house.mixes.delete(mix_id)
    house.renders.delete_all(mix_id)
    assert house.renders.list(mix_id) == []
    assert not [p for p in folders.renders.iterdir() if not p.name.endswith(".part")]


def test_an_empty_mix_or_a_lost_file_is_refused(house: House, opened: OpenMix) -> None:
    with pytest.raises(RefusedError, match="empty"):
        house.renders.start(house.mixes.create("Empty").id, RenderWish(output=OutputFormat.WAV_24))
    track = house.catalogue.tracks()[0]
    house.files.find(track.id).unlink()
    with pytest.raises(AudioFileError, match=f"file of ‘{track.title}’ is missing"):
        house.renders.start(opened.id, RenderWish(output=OutputFormat.WAV_24))
