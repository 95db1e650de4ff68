from __future__ import annotations

import io
import json
import os
import subprocess
import sys
import zipfile
from pathlib import Path

import numpy as np
import pytest
import soundfile
from mutagen.flac import FLAC
from typer.testing import CliRunner

from fernbrook.cli.app import app
from fernbrook.core.mix.commands import AddTracks
from fernbrook.core.track import PutGrid
from fernbrook.service.services import Services
from fernbrook.service.tracks.marking import Heard
from fernbrook.store.folders import Folders
from tests.conftest import Made

pytestmark = pytest.mark.slow

run = CliRunner()


@pytest.fixture
def data(tmp_path: Path) -> Path:
    return tmp_path / "data"


def test_help_names_every_command() -> None:
    text = run.invoke(app, ["--help"]).output
    assert all(name in text for name in ("serve", "demo", "import", "analyse", "render", "bundle", "open"))


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
    services = Services(Folders(data), workers=1)
    ids = [services.library.bring_in_path(m.path).track.id for m in made]
    for track_id, m in zip(ids, made, strict=True):
        services.marking.change(track_id, None, PutGrid(grid=m.truth.grid))
    mix = services.mixes.create("Night")
    services.mixes.change(mix.id, mix.version, AddTracks(track_ids=tuple(ids)))
    frames = services.mixes.open(mix.id).plan.frames
    services.stop()
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
        (["Night", "-o", "x.xyz"], "cannot be written"),
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


def _named(folder: Path, name: bytes, title: str) -> Path:
    """A short file under any name, with a title in its tags."""
    path = Path(os.fsdecode(os.fsencode(folder) + b"/" + name))
    noise = 0.1 * np.random.default_rng(len(title)).standard_normal((2 * 44_100, 1))
    soundfile.write(folder / "made.flac", noise, 44_100)
    tags = FLAC(folder / "made.flac")
    tags["title"] = title
    tags.save()
    (folder / "made.flac").rename(path)
    return path


def test_odd_names_and_titles_come_in_and_are_printed_as_they_are(data: Path, tmp_path: Path) -> None:
    music = tmp_path / "music"
    music.mkdir()
    _named(music, b"1.flac", "Closing [/] tag")
    _named(music, b"2.flac", "A [bold]word[/bold] in brackets")
    _named(music, b"caf\xe9.flac", "Latin")
    _named(music, b"4.flac", "steers \x1b[31mthe\x07 terminal")
    _named(music, b"5.flac", "long " + "x" * 1_000_000)
    (music / "6.flac").write_bytes(b"no sound")
    result = run.invoke(app, ["import", str(music), "--data", str(data), "--analyse-later"])
    assert result.exit_code == 1
    assert result.output.count("imported") == 5
    assert "Closing [/] tag" in result.output
    assert "A [bold]word[/bold] in brackets" in result.output
    assert "‘6.flac’ is no audio file that can be read" in result.output
    assert "\x1b" not in result.output
    assert len(result.output) < 5000
    services = Services(Folders(data), workers=1)
    tracks = {t.title: t for t in services.catalogue.tracks()}
    services.stop()
    assert {t.file_name for t in tracks.values()} >= {"café.flac"}
    assert max(len(title) for title in tracks) <= 300
    assert "steers [31mthe terminal" in tracks


def test_a_file_with_a_latin_name_may_stay_in_its_place(data: Path, tmp_path: Path) -> None:
    path = _named(tmp_path, b"caf\xe9.flac", "Latin")
    result = run.invoke(
        app, ["import", os.fsdecode(os.fsencode(path)), "--data", str(data), "--in-place", "--analyse-later"]
    )
    assert result.exit_code == 0, result.output
    services = Services(Folders(data), workers=1)
    track = services.catalogue.tracks()[0]
    frames, blocks = services.marking.listen(track.id, Heard(0, 44_100))
    assert len(np.concatenate(list(blocks))) == frames == 44_100
    services.stop()


def test_import_comes_back_when_the_analyses_are_done(first: Made, data: Path) -> None:
    assert run.invoke(app, ["import", str(first.path), "--data", str(data)]).exit_code == 0
    services = Services(Folders(data), workers=1)
    (track,) = services.catalogue.tracks()
    services.stop()
    assert track.bpm == pytest.approx(120.0, abs=0.02)


def test_analyse_gives_all_that_was_found(second: Made) -> None:
    (out,) = [json.loads(line) for line in run.invoke(app, ["analyse", str(second.path), "--json"]).output.splitlines()]
    assert (out["key"], out["steady"], len(out["anchors"])) == ("Fm", True, 1)
    assert 0.0 <= out["key_confidence"] <= 1.0
    assert [s["kind"] for s in out["sections"]][1] == "full"
    assert out["energy"]["by_bar"]
    assert isinstance(out["voice"], list)
    assert all({"kind", "text"} <= set(d) for d in out["doubts"])


def test_help_imports_nothing_heavy() -> None:
    code = (
        "import sys, fernbrook.cli.app; print([m for m in ('numpy', 'scipy', 'numba', 'fastapi') if m in sys.modules])"
    )
    out = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout
    assert out.strip() == "[]"


def test_a_bundle_and_a_backup_go_from_one_folder_to_another(first: Made, data: Path, tmp_path: Path) -> None:
    assert run.invoke(app, ["import", str(first.path), "--data", str(data), "--analyse-later"]).exit_code == 0
    services = Services(Folders(data), workers=1)
    mix = services.mixes.create("Night")
    services.mixes.change(mix.id, mix.version, AddTracks(track_ids=(services.catalogue.tracks()[0].id,)))
    services.stop()
    packed, kept = tmp_path / "night.zip", tmp_path / "kept.zip"
    result = run.invoke(app, ["bundle", "Night", "-o", str(packed), "--data", str(data), "--audio", "flac"])
    assert result.exit_code == 0, result.output
    there = tmp_path / "there"
    for words in ("new", "was here"):
        result = run.invoke(app, ["open", str(packed), "--data", str(there)])
        assert (result.exit_code, words in result.output) == (0, True), result.output
    assert run.invoke(app, ["open", str(first.path), "--data", str(there)]).exit_code == 1
    assert (
        run.invoke(app, ["bundle", "Night", "-o", str(packed), "--audio", "tape", "--data", str(data)]).exit_code == 2
    )
    assert run.invoke(app, ["backup", "-o", str(kept), "--data", str(there)]).exit_code == 0
    assert run.invoke(app, ["restore", str(kept), "--data", str(tmp_path / "third")]).exit_code == 0
    again = Services(Folders(tmp_path / "third"), workers=1)
    assert [m.name for m in again.mixes.list()] == ["Night", "Night"]
    again.stop()


def test_a_teaser_and_lanes_are_asked_for_by_name(first: Made, data: Path, tmp_path: Path) -> None:
    run.invoke(app, ["import", str(first.path), "--data", str(data), "--analyse-later"])
    services = Services(Folders(data), workers=1)
    mix = services.mixes.create("Night")
    services.mixes.change(mix.id, mix.version, AddTracks(track_ids=(services.catalogue.tracks()[0].id,)))
    heard = np.concatenate(list(services.listening.preview(mix.id, 0, 200_000, None)[1]))
    services.stop()
    out = tmp_path / "lanes.zip"
    asked = ["render", "Night", "-o", str(out), "--data", str(data), "--what"]
    result = run.invoke(app, [*asked, "lanes", "--within", ".flac"])
    assert result.exit_code == 0, result.output
    with zipfile.ZipFile(out) as files:
        (lane,) = [n for n in files.namelist() if n.endswith(".flac")]
        sound = soundfile.read(io.BytesIO(files.read(lane)), frames=200_000)[0]
        assert "6 dB quieter" in files.read("readme.txt").decode()
    assert 20 * np.log10(heard.std() / sound.std()) == pytest.approx(6.0, abs=0.1)
    assert run.invoke(app, [*asked, "postcards"]).exit_code == 2
    assert (
        "has none"
        in run.invoke(app, ["render", "Night", "-o", "x.mp3", "--what", "teaser", "--data", str(data)]).output
    )
