from __future__ import annotations

import mutagen
import numpy as np
import pytest
import soundfile

from fernbrook.audio.files.output import OutputFormat
from fernbrook.core.track import Grid, PutGrid
from fernbrook.errors import AudioFileError, NotFoundError, RefusedError
from fernbrook.service.services import Services
from fernbrook.store.jobs import JobState
from tests.conftest import Made
from tests.listen import level_db, mono, offset_ms
from tests.service.conftest import until

pytestmark = [pytest.mark.slow, pytest.mark.usefixtures("no_analyses")]


@pytest.fixture
def track(services: Services, wandering: Made) -> str:
    """The wandering track, with its true grid."""
    track_id = services.library.bring_in_path(wandering.path).track.id
    services.marking.change(track_id, None, PutGrid(grid=wandering.truth.grid))
    return track_id


@pytest.mark.parametrize("output", [OutputFormat.FLAC_16])
def test_a_wandering_track_comes_out_steady(
    services: Services, track: str, wandering: Made, output: OutputFormat
) -> None:
    assert services.straightening.suggested(track) == 118.0
    job = services.straightening.start(track, 118.0, output).job
    services.start()
    until(lambda: services.straightening.list(track)[0].job.state == JobState.DONE)
    path, name = services.straightening.file(job.id)
    assert name == f"{wandering.song.title} (118 BPM){output.suffix}"
    heard = soundfile.read(path, dtype="float32", always_2d=True)[0]
    grid = Grid.model_validate(services.straightening.list(track)[0].job.result["grid"])
    assert grid.is_constant
    assert grid.bpm_after == 118.0
    source, true = mono(wandering.sound()), wandering.truth.grid
    late = [offset_ms(source, float(true.time_at(b)), mono(heard), float(grid.time_at(b))) for b in range(36, 90, 3)]
    assert np.abs(late).max() < 3.0
    assert level_db(heard) == pytest.approx(level_db(wandering.sound()), abs=0.5)
    tags = mutagen.File(path).tags
    values = {k.lower(): str(v[0] if isinstance(v, list) else v) for k, v in dict(tags).items()}
    assert values.get("bpm", values.get("tbpm")) == "118"

    imported = services.straightening.bring_in(job.id)
    assert imported.track.title == f"{wandering.song.title} (118 BPM)"
    opened = services.marking.open(imported.track.id)
    assert opened.markup.grid == grid
    assert opened.markup.checked
    services.straightening.delete(job.id)
    assert not path.exists()
    with pytest.raises(NotFoundError):
        services.straightening.file(job.id)


def test_what_has_no_grid_or_no_file_is_refused(services: Services, first: Made) -> None:
    track = services.library.bring_in_path(first.path).track
    assert services.straightening.suggested(track.id) is None
    with pytest.raises(RefusedError, match="no grid to straighten by"):
        services.straightening.start(track.id, 120.0, OutputFormat.WAV_24)
    services.marking.change(track.id, None, PutGrid(grid=first.truth.grid))
    services.files.find(track.id).unlink()
    with pytest.raises(AudioFileError, match="is missing"):
        services.straightening.start(track.id, 120.0, OutputFormat.WAV_24)
    with pytest.raises(NotFoundError):
        services.straightening.start("nothing", 120.0, OutputFormat.WAV_24)


def test_what_would_lose_something_is_refused(services: Services, track: str) -> None:
    with pytest.raises(RefusedError, match="WAV or FLAC"):
        services.straightening.start(track, 118.0, OutputFormat.MP3_320)
