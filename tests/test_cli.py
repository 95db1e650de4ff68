from __future__ import annotations

import json
from pathlib import Path

import pytest
import soundfile
from typer.testing import CliRunner

from fernbrook.cli.app import app
from fernbrook.core.mix.commands import AddTracks
from fernbrook.core.track.markup import PutGrid
from fernbrook.service.house import House
from fernbrook.store.folders import Folders
from tests.conftest import Made

run = CliRunner()


@pytest.fixture
def data(tmp_path: Path) -> Path:
    return tmp_path / "data"


def test_help_names_every_command() -> None:
    text = run.invoke(app, ["--help"]).output
    assert all(name in text for name in ("serve", "demo", "import", "analyse", "render"))


def test_analyse_prints_a_json_object_for_each_file(first: Made, second: Made) -> None:
    result = run.invoke(app, ["analyse", str(first.path), str(second.path), "--json"])
    assert result.exit_code == 0
    found = [json.loads(line) for line in result.output.splitlines()]
    for made, out in zip((first, second), found, strict=True):
        true = made.truth.grid
        assert out["bpm"] == pytest.approx(true.bpm_after, abs=0.02)
        assert out["first_downbeat_s"] == pytest.approx(float(true.time_at(0)), abs=0.005)
        assert out["beats_s"] == sorted(out["beats_s"])
        assert len(out["beats_s"]) == pytest.approx(made.truth.beats, abs=4)
        assert -30 < out["loudness_lufs"] < -5


def test_analyse_reads_well_and_goes_on_after_a_bad_file(first: Made, tmp_path: Path) -> None:
    bad = tmp_path / "bad.wav"
    bad.write_text("no sound")
    result = run.invoke(app, ["analyse", str(bad), str(first.path)])
    assert result.exit_code == 1
    assert "‘bad.wav’ cannot be read as audio" in result.output
    assert "120.00 BPM, first downbeat at 0.0" in result.output


def test_import_takes_a_folder_and_says_what_it_had(first: Made, second: Made, data: Path, tmp_path: Path) -> None:
    music = tmp_path / "music"
    music.mkdir()
    for made in (first, second):
        (music / made.path.name).write_bytes(made.path.read_bytes())
    (music / "cover.jpg").write_bytes(b"x")
    result = run.invoke(app, ["import", str(music), "--data", str(data)])
    assert result.exit_code == 0
    assert result.output.count("imported") == 2
    again = run.invoke(app, ["import", str(music), "--data", str(data)])
    assert again.output.count("had already") == 2


def _mix(data: Path, *made: Made) -> str:
    house = House(Folders(data), workers=1)
    ids = [house.library.bring_in_path(m.path).track.id for m in made]
    for track_id, m in zip(ids, made, strict=True):
        house.marking.change(track_id, None, PutGrid(grid=m.truth.grid))
    mix = house.mixes.create("Night")
    house.mixes.change(mix.id, mix.version, AddTracks(track_ids=tuple(ids)))
    frames = house.mixes.open(mix.id).plan.frames
    house.stop()
    return str(frames)


def test_render_writes_the_mix(first: Made, second: Made, data: Path, tmp_path: Path) -> None:
    frames = int(_mix(data, first, second))
    out = tmp_path / "night.flac"
    result = run.invoke(app, ["render", "Night", "-o", str(out), "--data", str(data), "--bits", "16"])
    assert result.exit_code == 0, result.output
    info = soundfile.info(out)
    assert (info.frames, info.subtype) == (frames, "PCM_16")


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (["Nothing", "-o", "x.wav"], "There is no mix ‘Nothing’. The mixes are: Night"),
        (["Night", "-o", "x.mp3"], "cannot be written"),
        (["Night", "-o", "x.flac", "--bits", "32f"], "cannot be written"),
    ],
)
def test_render_says_what_cannot_be(arguments: list[str], words: str, first: Made, data: Path) -> None:
    _mix(data, first)
    result = run.invoke(app, ["render", *arguments, "--data", str(data)])
    assert result.exit_code == 2
    assert words in " ".join(result.output.split())


def test_render_of_a_lost_file_ends_with_its_name(first: Made, data: Path, tmp_path: Path) -> None:
    _mix(data, first)
    for path in (data / "audio").rglob("*.wav"):
        path.unlink()
    result = run.invoke(app, ["render", "Night", "-o", str(tmp_path / "x.wav"), "--data", str(data)])
    assert result.exit_code == 1
    assert f"The file of ‘{first.song.title}’ is missing" in " ".join(result.output.split())
    assert not (tmp_path / "x.wav").exists()
