"""How fast, each against something that everyone has."""

from __future__ import annotations

import json
import shutil
import sqlite3
import subprocess
import tempfile
from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path

import pyloudnorm
import soundfile

from bench.material import facts, mix_of, paths, tracks
from bench.rows import Row, median_seconds
from fernbrook.analysis.analyse import analyse
from fernbrook.core.mix import commands as c
from fernbrook.core.mix.model import Mix
from fernbrook.core.plan import RATE, plan
from fernbrook.render.renderer import render
from fernbrook.service.services import Services
from fernbrook.store.folders import Folders
from fernbrook.store.tables import TrackRow


def rows() -> Iterator[Row]:
    yield _render()
    yield _first_sound()
    yield _plan()
    yield _analysis()
    yield from _library()


def _render() -> Row:
    """The overlap of a bass hand-over: two stretched tracks, equalised, limited."""
    resolved = mix_of(5, 7)
    t = resolved.transitions[0]
    start, end = round(t.start_s * RATE), round(t.end_s * RATE)
    seconds = (end - start) / RATE
    ours = seconds / median_seconds(lambda: list(render(resolved, paths(), start, end)), 3)
    yardstick = "rubberband not installed"
    if shutil.which("rubberband"):
        theirs = _rubberband_speed() / 2
        yardstick = f"rubberband (finer engine) on both tracks: {theirs:.1f} ×; ratio {ours / theirs:.1f}"
    return Row("render, key lock, two tracks overlapping, one core", f"{ours:.0f} × real time", yardstick, "≥ 20 ×")


def _rubberband_speed() -> float:
    sound, rate = soundfile.read(tracks()[4].path, frames=20 * RATE, start=60 * RATE)
    with tempfile.TemporaryDirectory() as folder:
        piece, out = Path(folder) / "in.wav", Path(folder) / "out.wav"
        soundfile.write(piece, sound, rate)
        command = ["rubberband", "-q", "--fine", "--time", "0.96", str(piece), str(out)]
        return 20.0 / median_seconds(lambda: subprocess.run(command, check=True, capture_output=True), 3)


def _first_sound() -> Row:
    """From the request to the first block, warm: at the start of a transition's preview, and at mid-overlap."""
    resolved = mix_of(5, 7)
    t = resolved.transitions[0]
    places = {"8 beats before": t.start_s - 4, "mid-overlap": (t.start_s + t.end_s) / 2}

    def first_block(at_s: float) -> object:
        return next(render(resolved, paths(), round(at_s * RATE)))

    taken = {name: 1000 * median_seconds(partial(first_block, at)) for name, at in places.items()}
    decode = 1000 * median_seconds(lambda: soundfile.read(tracks()[4].path, frames=10 * RATE))
    figure = ", ".join(f"{name} {ms:.0f} ms" for name, ms in taken.items())
    ratio = taken["8 beats before"] / decode
    return Row(
        "first block of a preview", figure, f"decoding 10 s of FLAC: {decode:.0f} ms; ratio {ratio:.1f}", "< 300 ms"
    )


def _plan() -> Row:
    known = {t.song.file: facts(t) for t in tracks() if t.steady}
    ids = tuple(known) * 8
    mix = c.apply(Mix(name="long"), c.AddTracks(track_ids=ids[:60]), known)
    ours = 1000 * median_seconds(lambda: plan(mix, known), 9)
    text = mix.model_dump_json()
    theirs = 1000 * median_seconds(lambda: json.loads(text), 9)
    return Row(
        "plan of 60 entries",
        f"{ours:.0f} ms",
        f"json.loads of the mix: {theirs:.2f} ms; ratio {ours / theirs:.0f}",
        "< 50 ms",
    )


def _analysis() -> Row:
    track = tracks()[4]
    seconds = soundfile.info(track.path).duration
    ours = seconds / median_seconds(lambda: analyse(track.path), 3)
    sound, rate = soundfile.read(track.path)
    theirs = seconds / median_seconds(lambda: pyloudnorm.Meter(rate).integrated_loudness(sound), 3)
    yardstick = f"pyloudnorm, loudness alone: {theirs:.0f} ×; ratio {ours / theirs:.2f}"
    return Row("analysis, all of it, one core", f"{ours:.0f} × real time", yardstick, "≥ 40 ×")


def _library() -> Iterator[Row]:
    """What the page asks of 10,000 tracks."""
    from fernbrook.api.schemas.tracks import track_table

    with tempfile.TemporaryDirectory() as folder:
        services = Services(Folders(Path(folder)))
        grid = facts(tracks()[4]).riding_grid.model_dump()
        with services._database.write() as session:
            session.add_all(row_of(i, grid) for i in range(10_000))
        catalogue = services.catalogue
        asked: dict[str, Callable[[], object]] = {
            "listing": lambda: track_table(catalogue.tracks()),
            "sorting by key and tempo": lambda: catalogue.find("", ("key", "-bpm")),
            "searching a word": lambda: catalogue.find("artist"),
            "filtering": lambda: catalogue.find("instrumental bpm:118-122 fits:Am -tag:dub"),
            "what fits": lambda: catalogue.fits("t7"),
        }
        raw = sqlite3.connect(Path(folder) / "fernbrook.db")
        theirs = 1000 * median_seconds(lambda: raw.execute("SELECT * FROM tracks").fetchall(), 3)
        for what, ask in asked.items():
            ask()
            ours = 1000 * median_seconds(ask, 5)
            yardstick = f"bare SELECT of all: {theirs:.0f} ms; ratio {ours / theirs:.1f}"
            yield Row(f"{what}, 10,000 tracks", f"{ours:.0f} ms", yardstick, "< 100 ms")
        raw.close()
        services.stop()


def row_of(number: int, grid: dict[str, object]) -> TrackRow:
    return TrackRow(
        id=f"t{number}", content_hash=f"{number:064}", file_name="x.wav", path=f"audio/{number}", title=f"T {number}",
        artist=f"Artist {number % 700}", format="WAV", coding="", rate=RATE, channels=2, duration_s=240.0, bytes=1,
        grid=grid, bpm=100.0 + number % 60, analysis_version=5, sound_end_s=239.0,
        key=("Am", "C", "F#m", "Eb")[number % 4],
        energy=(number % 10) / 10, voice_share=(number % 3) / 5, tags=["dub"] if number % 7 == 0 else None,
    )  # fmt: skip
