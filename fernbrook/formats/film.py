"""A mix as moving pictures: its course goes by under a playhead, with the titles of what is heard."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from PIL import Image, ImageDraw

from fernbrook.formats.lettering import Colour, Lettering
from fernbrook.formats.ribbon import HUES, INK, PAPER, SOFT, Band, Pixels, ribbon
from fernbrook.formats.track_list import clock

WIDTH, HEIGHT = 1920, 1080
RATE = 12
"""Pictures a second."""
COLUMNS_A_SECOND = 24
"""The course moves by two pixels a picture."""
PLAYHEAD_X = 640
TOP, TALL = 400, 400
LEFT = 96
OVERVIEW = (960, 40)
"""Where the course as a whole lies, and how tall it is."""
TILE = 960
SMALL = Lettering(36)


@dataclass(frozen=True)
class Title:
    """A track: from which second of the mix on it is named, and how."""

    start_s: float
    title: str
    artist: str


@dataclass(frozen=True)
class Course:
    """A mix as it is drawn: ``bands`` have ``COLUMNS_A_SECOND`` columns for each second of its ``duration_s``."""

    name: str
    duration_s: float
    titles: tuple[Title, ...]
    bands: tuple[Band, ...]


class Film:
    """The pictures of a film, each by its number. ``place_s`` says which second of a mix is heard at one of it."""

    def __init__(self, course: Course, place_s: Callable[[float], float]) -> None:
        self._course = course
        self._place_s = place_s
        self._starts = [t.start_s for t in course.titles]
        self._ground = lru_cache(2)(self._drawn)
        self._tile = lru_cache(4)(self._ribbon)
        self._words = lru_cache(4)(_words)

    def at(self, number: int) -> Pixels:
        """A picture; shape (HEIGHT, WIDTH, 3), RGB."""
        second = self._place_s(number / RATE)
        track = max(bisect_right(self._starts, second) - 1, 0)
        picture = self._ground(track).copy()
        self._course_at(picture, round(second * COLUMNS_A_SECOND))
        picture[TOP - 24 : TOP + TALL + 24, PLAYHEAD_X - 1 : PLAYHEAD_X + 2] = INK
        _put(picture, self._words(f"{clock(second)}", 40, INK), PLAYHEAD_X + 16, TOP - 66)
        at = LEFT + round(second / max(self._course.duration_s, 1e-9) * (WIDTH - 2 * LEFT))
        top, tall = OVERVIEW
        picture[top - 12 : top + tall + 12, at - 1 : at + 2] = INK
        return picture

    def _course_at(self, picture: Pixels, column: int) -> None:
        """Draw the part of the course around the playhead, from tiles."""
        begin = column - PLAYHEAD_X
        for tile in range(begin // TILE, (begin + WIDTH - 1) // TILE + 1):
            left = tile * TILE - begin
            here = slice(max(left, 0), min(left + TILE, WIDTH))
            picture[TOP : TOP + TALL, here] = self._tile(tile)[:, here.start - left : here.stop - left]

    def _ribbon(self, tile: int) -> Pixels:
        return ribbon(self._course.bands, tile * TILE, TILE, TALL)

    def _drawn(self, track: int) -> Pixels:
        """What does not move while one track is named."""
        image = Image.new("RGB", (WIDTH, HEIGHT), PAPER)
        draw = ImageDraw.Draw(image)
        course = self._course
        length = clock(course.duration_s)
        _line(draw, SMALL, 72, course.name, SOFT)
        SMALL.draw(draw, WIDTH - LEFT - SMALL.length(length), 72, length, SOFT)
        if course.titles:
            now = course.titles[track]
            strong, _ = HUES[track % len(HUES)]
            draw.rectangle((LEFT, 160, LEFT + 10, 300), strong)
            _line(draw, Lettering(80, strong=True), 150, now.title, INK, 34)
            _line(draw, Lettering(44), 252, now.artist, SOFT, 34)
        if track + 1 < len(course.titles):
            then = course.titles[track + 1]
            said = " – ".join(x for x in (then.artist, then.title) if x)
            _line(draw, SMALL, 872, f"Next: {said}", SOFT)
        picture = np.array(image)
        top, tall = OVERVIEW
        picture[top : top + tall, LEFT : WIDTH - LEFT] = self._overview(tall)
        return picture

    def _overview(self, tall: int) -> Pixels:
        """All of the course, as wide as the picture has room."""
        wide = WIDTH - 2 * LEFT
        columns = max(1, round(self._course.duration_s * COLUMNS_A_SECOND))
        return ribbon([_narrowed(b, columns, wide) for b in self._course.bands], 0, wide, tall)


def _narrowed(band: Band, columns: int, wide: int) -> Band:
    """A band in fewer columns, each as loud as its middle."""
    first = min(band.first * wide // columns, wide - 1)
    last = max(first + 1, min((band.first + len(band.full)) * wide // columns, wide))
    places = (np.arange(first, last) + 0.5) * columns / wide - band.first
    places = np.clip(places.astype(np.int64), 0, max(len(band.full) - 1, 0))
    if not len(band.full):
        return Band(band.index, first, band.low, band.full)
    return Band(band.index, first, band.low[places], band.full[places])


def _line(draw: ImageDraw.ImageDraw, style: Lettering, top: int, text: str, colour: Colour, further: int = 0) -> None:
    """A line from the left border on, as far as there is room."""
    style.draw(draw, LEFT + further, top, style.fitting(text, WIDTH - 2 * LEFT - 200), colour)


def _words(text: str, size: int, colour: Colour) -> Pixels:
    """A short text on paper."""
    lettering = Lettering(size)
    image = Image.new("RGB", (int(lettering.length(text)) + 4, size + 12), PAPER)
    lettering.draw(ImageDraw.Draw(image), 2, 0, text, colour)
    return np.array(image)


def _put(picture: Pixels, part: Pixels, left: int, top: int) -> None:
    picture[top : top + part.shape[0], left : left + part.shape[1]] = part


def arrays_of(bands: Sequence[Band]) -> dict[str, np.ndarray]:
    """Bands as arrays by name, to be kept in a file; the inverse of ``bands_of``."""
    head = np.array([(b.index, b.first, len(b.full)) for b in bands], np.int64).reshape(-1, 3)
    low = np.concatenate([b.low for b in bands]) if bands else np.zeros(0, np.uint8)
    full = np.concatenate([b.full for b in bands]) if bands else np.zeros(0, np.uint8)
    return {"head": head, "low": low, "full": full}


def bands_of(arrays: dict[str, np.ndarray]) -> tuple[Band, ...]:
    """Bands as they were kept."""
    ends = np.cumsum(arrays["head"][:, 2]) if len(arrays["head"]) else np.zeros(0, np.int64)
    return tuple(
        Band(int(i), int(first), arrays["low"][end - n : end], arrays["full"][end - n : end])
        for (i, first, n), end in zip(arrays["head"], ends, strict=True)
    )
