"""Lines of text in pictures, of any script: each sign in a face that has it, shaped, and in the order of its script."""

from __future__ import annotations

import unicodedata
from dataclasses import dataclass
from functools import lru_cache
from itertools import groupby
from pathlib import Path

from fpdf.bidi import BidiParagraph
from PIL import ImageDraw, ImageFont

from fernbrook.formats.fonts import SOURCE, Face, face_of

Colour = tuple[int, int, int]
ZERO_WIDTH_JOINER, SKIN = "\u200d", range(0x1F3FB, 0x1F400)


@dataclass(frozen=True)
class Run:
    """Signs of one face and one direction: right to left where their embedding ``level`` is odd."""

    text: str
    face: Face
    level: int

    @property
    def direction(self) -> str:
        """As it is told to who shapes it."""
        return "rtl" if self.level % 2 else "ltr"


def runs_of(text: str) -> list[Run]:
    """A line as runs, in the order in which they are seen from left to right (Unicode Standard Annex 9, rule L2)."""
    groups = groupby(zip(text, _faces(text), _levels(text), strict=True), key=lambda x: x[1:])
    runs = [Run("".join(sign for sign, _, _ in group), face, level) for (face, level), group in groups]
    for level in range(max((r.level for r in runs), default=0), 0, -1):
        parts = [(turned, list(part)) for turned, part in groupby(runs, key=lambda r: r.level >= level)]
        runs = [r for turned, part in parts for r in (reversed(part) if turned else part)]
    return runs


def _levels(text: str) -> list[int]:
    """The embedding level of each sign; one without any, such as a joiner, has that of the sign before it."""
    known = {s.character_index: s.embedding_level for s in BidiParagraph(text).get_characters_with_embedding_level()}
    levels: list[int] = []
    for n in range(len(text)):
        levels.append(known.get(n, levels[-1] if levels else 0))
    return levels


def _faces(text: str) -> list[Face]:
    """The face of each sign; what joins or changes the sign before it goes along with that."""
    faces: list[Face] = []
    for n, sign in enumerate(text):
        goes_along = n > 0 and (text[n - 1] == ZERO_WIDTH_JOINER or _changes_another(sign))
        faces.append(faces[-1] if goes_along else face_of(sign))
    return faces


def _changes_another(sign: str) -> bool:
    return sign == ZERO_WIDTH_JOINER or ord(sign) in SKIN or unicodedata.category(sign) in ("Mn", "Me")


@lru_cache(maxsize=32)
def _font(path: Path, size: int) -> ImageFont.FreeTypeFont:
    return ImageFont.truetype(path, size)


@dataclass(frozen=True)
class Lettering:
    """A size, in pixels, and a weight."""

    size: int
    strong: bool = False

    def _of(self, run: Run) -> ImageFont.FreeTypeFont:
        return _font(run.face.semibold if self.strong else run.face.regular, self.size)

    def length(self, text: str) -> float:
        """How wide a line is, in pixels."""
        return sum(self._of(run).getlength(run.text, direction=run.direction) for run in runs_of(text))

    def fitting(self, text: str, room: float) -> str:
        """A text as far as there is room for it on a line."""
        if self.length(text) <= room:
            return text
        fits, too_long = 0, len(text)
        while too_long - fits > 1:
            middle = (fits + too_long) // 2
            if self.length(f"{text[:middle]}…") <= room:
                fits = middle
            else:
                too_long = middle
        return f"{text[:fits]}…"

    def draw(self, onto: ImageDraw.ImageDraw, left: float, top: float, text: str, colour: Colour) -> None:
        """Draw a line; all faces of it stand on the base line of Source Sans."""
        base = top + _font(SOURCE.semibold if self.strong else SOURCE.regular, self.size).getmetrics()[0]
        for run in runs_of(text):
            font = self._of(run)
            onto.text((left, base), run.text, colour, font, anchor="ls", direction=run.direction)
            left += font.getlength(run.text, direction=run.direction)
