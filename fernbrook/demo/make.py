"""Makes the demo files, with tags, and the truth about each beside it. What is there already is kept."""

from __future__ import annotations

import hashlib
import json
import os
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import FIRST_COMPLETED, Future, wait
from dataclasses import dataclass
from multiprocessing import get_context
from pathlib import Path

import mutagen
import numpy as np
import soundfile
from mutagen.id3 import TBPM, TIT2, TKEY, TPE1
from numpy.typing import NDArray
from pebble import ProcessPool

from fernbrook.audio.pace import interpolate, margin
from fernbrook.core.track import Grid
from fernbrook.demo import arrange
from fernbrook.demo.song import Song, Truth
from fernbrook.demo.songs import SONGS
from fernbrook.demo.tones import RATE

RECIPE_MODULES = ("tones", "drums", "beats", "song", "arrange", "songs", "make")

LOOK_EVERY_S = 0.3

Spoil = Callable[[NDArray[np.float32]], NDArray[np.float32]]


@dataclass(frozen=True)
class DemoTrack:
    """One made track."""

    song: Song
    path: Path
    grid: Grid
    steady: bool


def make_all(folder: Path, progress: Callable[[int, int], None] | None = None) -> list[DemoTrack]:
    """Make all tracks in ``folder``, over all cores, and return them in order.

    A track that was made by the same code is not made again. ``progress`` is told how many of how many are done.
    """
    made = []
    for track in making(folder):
        made.append(track)
        if progress:
            progress(len(made), len(SONGS))
    return in_order(made)


def in_order(tracks: Iterable[DemoTrack]) -> list[DemoTrack]:
    """Tracks in the order of the night."""
    return sorted(tracks, key=lambda track: SONGS.index(track.song))


def making(folder: Path, is_over: Callable[[], bool] = lambda: False) -> Iterator[DemoTrack]:
    """All tracks as they are ready, made over all cores; fewer where it is over before that."""
    folder.mkdir(parents=True, exist_ok=True)
    waiting = [song for song in SONGS if not _is_made(folder, song)]
    yield from (_known(song, folder) for song in SONGS if song not in waiting)
    if not waiting:
        return
    pool = ProcessPool(max_workers=os.cpu_count() or 1, context=get_context("spawn"))
    try:
        under_way: dict[Future[Path], Song] = {pool.schedule(make, (song, folder)): song for song in waiting}
        while under_way and not is_over():
            for future in wait(under_way, LOOK_EVERY_S, FIRST_COMPLETED).done:
                song = under_way.pop(future)
                future.result()
                yield _known(song, folder)
    finally:
        pool.stop()  # type: ignore[no-untyped-call]
        pool.join()


def make_once(song: Song, folder: Path, spoil: Spoil | None = None) -> Path:
    """Make one track, unless the same code has made it already; returns the file."""
    return folder / song.file if _is_made(folder, song) else make(song, folder, spoil)


def make(song: Song, folder: Path, spoil: Spoil | None = None) -> Path:
    """Make one track and its truth; returns the file. ``spoil`` is what happens to the sound after the mastering."""
    stems, truth = arrange.play(song)
    sound = arrange.master(song, stems)
    if spoil is not None:
        sound = spoil(sound)
    if song.rate != RATE:
        sound = _at_rate(sound, song.rate)
    path = folder / song.file
    partial = path.with_name(f".{path.name}")
    _write(partial, sound, song)
    _tag(partial, song)
    partial.replace(path)
    _truth_path(folder, song).write_text(json.dumps(_as_json(truth)))
    return path


def _write(path: Path, sound: np.ndarray, song: Song) -> None:
    kind = path.suffix.lstrip(".").upper()
    subtype = {"WAV": "PCM_24" if song.rate != RATE else "PCM_16", "FLAC": "PCM_16", "OGG": "VORBIS"}.get(kind)
    with soundfile.SoundFile(
        path, "w", song.rate, sound.shape[1], format=kind, subtype=subtype or "MPEG_LAYER_III"
    ) as file:
        # libsndfile's Vorbis encoder overflows its stack when given minutes at once.
        for begin in range(0, len(sound), 1 << 15):
            file.write(sound[begin : begin + (1 << 15)])


def _tag(path: Path, song: Song) -> None:
    """Title, artist, tempo and key, in the way of the format."""
    file = mutagen.File(path)
    bpm = f"{song.bpm:g}"
    if path.suffix in {".wav", ".mp3"}:
        if file.tags is None:
            file.add_tags()
        for frame, value in ((TIT2, song.title), (TPE1, song.artist), (TBPM, bpm), (TKEY, song.key)):
            file.tags.add(frame(encoding=3, text=value))
    else:
        file["title"], file["artist"], file["bpm"], file["initialkey"] = song.title, song.artist, bpm, song.key
    file.save()


def _at_rate(sound: np.ndarray, rate: int) -> np.ndarray:
    pad = margin()
    positions = np.arange(round(len(sound) * rate / RATE), dtype=np.float64) * (RATE / rate) + pad
    return interpolate(np.pad(sound, ((pad, pad + 2), (0, 0))), positions)


def _recipe_mark() -> str:
    """A digest of the code that makes the tracks: when it changes they are made again."""
    here = Path(__file__).parent
    return hashlib.sha256(b"".join((here / f"{name}.py").read_bytes() for name in RECIPE_MODULES)).hexdigest()


def _truth_path(folder: Path, song: Song) -> Path:
    return folder / f"{Path(song.file).stem}.truth.json"


def _as_json(truth: Truth) -> dict[str, object]:
    return {
        "recipe": _recipe_mark(),
        "grid": truth.grid.model_dump(),
        "key": truth.key,
        "sections": truth.sections,
        "voice_spans": truth.voice_spans,
        "duration_s": truth.duration_s,
        "beats": truth.beats,
        "steady": truth.steady,
    }


def _is_made(folder: Path, song: Song) -> bool:
    path = _truth_path(folder, song)
    return (
        path.is_file() and (folder / song.file).is_file() and json.loads(path.read_text())["recipe"] == _recipe_mark()
    )


def read_truth(folder: Path, song: Song) -> Truth:
    """The truth that was written beside a made track."""
    known = json.loads(_truth_path(folder, song).read_text())
    del known["recipe"]
    known["grid"] = Grid.model_validate(known["grid"])
    known["sections"] = tuple(tuple(s) for s in known["sections"])
    known["voice_spans"] = tuple(tuple(s) for s in known["voice_spans"])
    return Truth(**known)


def _known(song: Song, folder: Path) -> DemoTrack:
    truth = read_truth(folder, song)
    return DemoTrack(song, folder / song.file, truth.grid, truth.steady)
