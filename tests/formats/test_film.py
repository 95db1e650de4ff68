"""A film has its sound, its length and its titles, and its course goes by under the playhead."""

from __future__ import annotations

from pathlib import Path

import av
import numpy as np
import pytest

from fernbrook.audio.files.encoder import Pictures, can_write
from fernbrook.audio.files.output import OutputFormat
from fernbrook.audio.files.writer import Dressing, write_audio
from fernbrook.formats.film import (
    COLUMNS_A_SECOND,
    HEIGHT,
    PLAYHEAD_X,
    RATE,
    TALL,
    TOP,
    WIDTH,
    Course,
    Film,
    Title,
    arrays_of,
    bands_of,
)
from fernbrook.formats.ribbon import HUES, PAPER, Band

LOUD = np.full(40 * COLUMNS_A_SECOND, 90, np.uint8)
COURSE = Course(
    "Glasshouse Late",
    70.0,
    (Title(0.0, "Moss", "Ines Farrow"), Title(35.0, "Fern" * 60, "")),
    (Band(0, 0, LOUD // 2, LOUD), Band(1, 30 * COLUMNS_A_SECOND, LOUD // 2, LOUD)),
)
MIDDLE = TOP + TALL // 2
BESIDE = PLAYHEAD_X + 12


def hue(second: float, place: float = 0.0) -> set[tuple[int, ...]]:
    """What lies right of the playhead at a second of a film that begins ``place`` seconds into the mix."""
    picture = Film(COURSE, lambda s: s + place).at(round(second * RATE))
    assert picture.shape == (HEIGHT, WIDTH, 3)
    return {tuple(int(x) for x in p) for p in picture[MIDDLE, BESIDE : BESIDE + 24]}


def test_what_is_heard_lies_under_the_playhead_and_overlaps_are_interlaced() -> None:
    assert hue(10.0) == {HUES[0][0]}
    assert hue(32.0) == {HUES[0][0], HUES[1][0]}
    assert hue(50.0) == {HUES[1][0]} == hue(10.0, place=40.0)
    assert hue(0.0) == {HUES[0][0]}


def test_the_track_that_has_taken_over_is_named_and_bands_are_kept() -> None:
    film = Film(COURSE, lambda s: s)
    head = [film.at(round(s * RATE))[150:300, :1800] for s in (10.0, 34.9, 35.1)]
    assert np.array_equal(head[0], head[1])
    assert not np.array_equal(head[1], head[2])
    right = film.at(36 * RATE)[150:250, 1824:]
    assert (right == PAPER).all()
    again = bands_of(arrays_of(COURSE.bands))
    assert [(b.index, b.first, b.low.tolist(), b.full.tolist()) for b in again] == [
        (b.index, b.first, b.low.tolist(), b.full.tolist()) for b in COURSE.bands
    ]


@pytest.mark.slow
@pytest.mark.parametrize("output", [OutputFormat.VIDEO_H264, OutputFormat.VIDEO_VP9])
def test_it_becomes_a_video_that_plays(tmp_path: Path, output: OutputFormat) -> None:
    if not can_write(output):
        pytest.skip("this machine has no encoder for it")
    rate, seconds = 48_000, 3.0
    film = Film(COURSE, lambda s: s + 29.0)
    t = np.arange(round(rate * seconds)) / rate
    sound = np.repeat((0.3 * np.sin(2 * np.pi * 440 * t))[:, None], 2, axis=1).astype(np.float32)
    path = tmp_path / f"mix{output.suffix}"
    dressing = Dressing(((0.0, "Moss"), (1.5, "Fern")), Pictures(WIDTH, HEIGHT, RATE, film.at))
    write_audio(path, np.array_split(sound, 9), len(sound), rate, output, dressing)
    with av.open(str(path)) as file:
        assert [round(float(c["start"] * c["time_base"]), 2) for c in file.chapters()] == [0.0, 1.5]
        video, audio = file.streams.video[0], file.streams.audio[0]
        assert (video.width, video.height, audio.rate) == (1920, 1080, rate)
        frames = [f.to_ndarray(format="rgb24") for f in file.decode(video=0)]
    assert len(frames) == round(seconds * RATE)
    for number in (0, 30):
        seen = frames[number][MIDDLE - 40 : MIDDLE + 40, BESIDE + 30 : BESIDE + 90].reshape(-1, 3).mean(axis=0)
        meant = film.at(number)[MIDDLE - 40 : MIDDLE + 40, BESIDE + 30 : BESIDE + 90].reshape(-1, 3).mean(axis=0)
        assert np.abs(seen - meant).max() < 12
    with av.open(str(path)) as file:
        assert sum(f.samples for f in file.decode(audio=0)) / rate == pytest.approx(seconds, abs=0.08)
